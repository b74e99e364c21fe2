import parameters from "@messages/parameters.json";
import type { Composer } from "vue-i18n";
import type { Problem } from "@/api/types";
import { localeNow } from "@/i18n";
import { dayTimeText, numberText } from "@/shared/format";

export type Words = Pick<Composer, "t" | "te">;

/** Of what type a message's parameters are, where they are no figures; see `messages/__init__.py`. */
const KINDS: Record<string, Record<string, string>> = parameters;

/** The words of a name, or of each of several between commas; what the catalogue does not know stays. */
function inWords(words: Words, sections: readonly string[], value: unknown): unknown {
  if (typeof value !== "string") return value;
  const one = (name: string): string => {
    const section = sections.find((where) => words.te(`${where}.${name}`));
    return section === undefined ? name : words.t(`${section}.${name}`);
  };
  return value.split(", ").map(one).join(", ");
}

const MOMENT = /^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}\S*(Z|[+-]\d{2}:\d{2})$/;

/** A moment by the clock of whoever reads, a figure with the decimal mark of the language; other words as they are. */
function written(value: unknown): unknown {
  if (typeof value !== "string") return value;
  // What somebody typed may look like a moment and be none.
  return MOMENT.test(value) && !Number.isNaN(Date.parse(value)) ? dayTimeText(value) : numberText(value);
}

/** A part by its author's title, or by the words of its kind: `shell`, or `lower:shell` of several. */
export function partWords(words: Words, value: unknown): unknown {
  const [which, kind] = String(value).includes(":") ? String(value).split(":") : ["", String(value)];
  const key = `part.${kind ?? ""}`;
  return words.te(key) ? `${which ?? ""} ${words.t(key)}`.trim() : value;
}

/** Params of a message, each said as its type is. */
export function named(words: Words, key: string, params: Record<string, unknown>): Record<string, unknown> {
  const said = (name: string, value: unknown): unknown => {
    const kind = KINDS[key]?.[name];
    if (kind === "part") return partWords(words, value);
    if (kind === "given") return value;
    return inWords(words, kind?.split(" ") ?? [], written(value));
  };
  return Object.fromEntries(Object.entries(params).map(([name, value]) => [name, said(name, value)]));
}

/** Where the form of a message stands that fits its count: it has one for each plural category of the language. */
export function formOf(words: Words, key: string, params: Record<string, unknown>): string {
  if (!words.te(`${key}.by`)) return key;
  const form = `${key}.${new Intl.PluralRules(localeNow()).select(Number(params[words.t(`${key}.by`)]))}`;
  return words.te(form) ? form : `${key}.other`;
}

/** A message that counts something. */
export const counted = (words: Words, key: string, params: Record<string, unknown>): string =>
  words.t(formOf(words, key, params), params);

/** Say it in the reader's language where the catalogue knows the code, else as the server said it. */
export function problemText(words: Words, problem: Problem): string {
  const key = formOf(words, problem.code, problem.params);
  return words.te(key) ? words.t(key, named(words, problem.code, problem.params)) : problem.detail;
}
