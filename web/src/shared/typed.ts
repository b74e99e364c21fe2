/** What somebody typed into a field, as a number; null where it is none. A comma is a decimal point. */
export function figureOf(text: string): number | null {
  const clean = text.trim().replace(",", ".").replace("−", "-");
  if (clean === "") return null;
  const figure = Number(clean);
  return Number.isFinite(figure) ? figure : null;
}

const HOURS = 24;
const MINUTES = 60;

/** What somebody typed as a time of day, as HH:MM on the 24-hour clock; null where it is none. */
export function clockOf(text: string): string | null {
  const found = /^(\d{1,2})(?:[:.h ]?(\d{2}))?$/.exec(text.trim());
  if (found === null) return null;
  const [hours, minutes] = [Number(found[1]), Number(found[2] ?? "0")];
  if (hours >= HOURS || minutes >= MINUTES) return null;
  return `${String(hours).padStart(2, "0")}:${String(minutes).padStart(2, "0")}`;
}

/** A time of day as a moment: the first one after another moment at which clocks here show it; null where it is none. */
export function nextAt(clock: string, after: Date): string | null {
  const [hours, minutes] = clock.split(":").map(Number);
  if (!/^\d{2}:\d{2}$/.test(clock) || hours === undefined || minutes === undefined) return null;
  const at = new Date(after);
  at.setHours(hours, minutes, 0, 0);
  if (at <= after) at.setDate(at.getDate() + 1);
  return at.toISOString();
}

/** Whether something typed has the form of a PIN. */
export function isPin(text: string): boolean {
  return /^\d{6}$/.test(text);
}
