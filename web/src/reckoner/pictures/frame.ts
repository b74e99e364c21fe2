/** What every drawing of the Reckoner gets: numbers of the answer and the field that has the keys. */
export interface PictureProps {
  numbers: Record<string, number>;
  focus: string | null;
}

/** A number of the picture; a drawing never fails for a missing one. */
export function at(numbers: Record<string, number>, name: string): number {
  const value = numbers[name];
  return value !== undefined && Number.isFinite(value) ? value : 0;
}

export const clamp = (value: number, low: number, high: number): number =>
  Math.min(high, Math.max(low, value));
