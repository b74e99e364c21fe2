/** What somebody typed into a field, as a number; null where it is none. A comma is a decimal point. */
export function figureOf(text: string): number | null {
  const clean = text.trim().replace(",", ".").replace("−", "-");
  if (clean === "") return null;
  const figure = Number(clean);
  return Number.isFinite(figure) ? figure : null;
}
