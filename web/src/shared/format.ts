import { shallowRef } from "vue";
import type { Figure } from "@/api/types";

/** A figure with its unit, as one text. */
export function figureText(figure: Figure | null | undefined): string {
  return figure ? `${figure.text} ${figure.unit}`.trim() : "";
}

const clock = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" });
const clockSeconds = new Intl.DateTimeFormat("en-GB", {
  hour: "2-digit",
  minute: "2-digit",
  second: "2-digit",
});
const dayAndClock = new Intl.DateTimeFormat("en-GB", {
  day: "2-digit",
  month: "short",
  hour: "2-digit",
  minute: "2-digit",
});
const dayAndClockOfYear = new Intl.DateTimeFormat("en-GB", {
  day: "2-digit",
  month: "short",
  year: "numeric",
  hour: "2-digit",
  minute: "2-digit",
});
const day = new Intl.DateTimeFormat("en-GB", { day: "2-digit", month: "short", year: "numeric" });

/** The time of day, with its minutes. */
export const timeText = (at: string): string => clock.format(new Date(at));
export const secondsText = (at: string | Date): string => clockSeconds.format(new Date(at));
export const dayText = (at: string): string => day.format(new Date(at));
/** A day of another year says so: records are looked up years later. */
export const dayTimeText = (at: string): string => {
  const then = new Date(at);
  const thisYear = then.getFullYear() === new Date().getFullYear();
  return (thisYear ? dayAndClock : dayAndClockOfYear).format(then);
};

/** The time of day, and the day too when it is another one: what waits since yesterday does not look fresh. */
export const whenText = (at: string): string =>
  new Date(at).toDateString() === new Date().toDateString() ? clock.format(new Date(at)) : dayTimeText(at);

const symbols = shallowRef<Record<string, string>>({});

/** Take over how the server prints unit names. */
export function learnUnitSymbols(printed: Record<string, string>): void {
  symbols.value = printed;
}

/** A unit name of the server as it is printed. */
export const unitText = (name: string): string => symbols.value[name] ?? name;

/** A moment as a field for date and time takes it, by the tablet's own clock. */
export function localTime(at: Date): string {
  const pad = (n: number): string => String(n).padStart(2, "0");
  const day = [at.getFullYear(), pad(at.getMonth() + 1), pad(at.getDate())].join("-");
  return `${day}T${pad(at.getHours())}:${pad(at.getMinutes())}`;
}
