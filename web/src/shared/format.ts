import { shallowRef } from "vue";
import type { Figure } from "@/api/types";
import { localeNow } from "@/i18n";

/** A number, with or without its unit, with the decimal mark of the reader's language; in exports it keeps its point. */
export function numberText(text: string): string {
  return localeNow() === "en-GB" ? text : text.replace(/^([-−+±≈ ]*\d+)\.(\d+)( \S+|[°%])?$/, "$1,$2$3");
}

/** A figure with its unit, as one text. */
export function figureText(figure: Figure | null | undefined): string {
  return figure ? `${numberText(figure.text)} ${figure.unit}`.trim() : "";
}

type Form = "clock" | "seconds" | "day" | "weekday" | "dayClock" | "dayClockYear";
const TIME = { hour: "2-digit", minute: "2-digit", hourCycle: "h23" } as const;
const DAY = { day: "2-digit", month: "short" } as const;
const FORMS: Record<Form, Intl.DateTimeFormatOptions> = {
  clock: TIME,
  seconds: { ...TIME, second: "2-digit" },
  day: { ...DAY, year: "numeric" },
  weekday: { ...DAY, weekday: "short" },
  dayClock: { ...DAY, ...TIME },
  dayClockYear: { ...DAY, year: "numeric", ...TIME },
};
const made = new Map<string, Intl.DateTimeFormat>();

/** How a moment is written in the reader's language. */
function written(at: string | Date, form: Form): string {
  const locale = localeNow();
  const key = `${locale} ${form}`;
  const format = made.get(key) ?? new Intl.DateTimeFormat(locale, FORMS[form]);
  made.set(key, format);
  return format.format(new Date(at));
}

/** The time of day, with its minutes. */
export const timeText = (at: string): string => written(at, "clock");
export const secondsText = (at: string | Date): string => written(at, "seconds");
export const weekdayText = (at: Date): string => written(at, "weekday");
export const dayText = (at: string): string => written(at, "day");
/** A day of another year says so: records are looked up years later. */
export const dayTimeText = (at: string): string => {
  const thisYear = new Date(at).getFullYear() === new Date().getFullYear();
  return written(at, thisYear ? "dayClock" : "dayClockYear");
};

/** The time of day, and the day too when it is another one: what waits since yesterday does not look fresh. */
export const whenText = (at: string): string =>
  new Date(at).toDateString() === new Date().toDateString() ? timeText(at) : dayTimeText(at);

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
