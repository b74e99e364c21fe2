import type { Composer } from "vue-i18n";
import type { Problem } from "@/api/types";

type Words = Pick<Composer, "t" | "te">;

/** The core's name of an argument as people know it. */
function inWords(words: Words, value: unknown): unknown {
  const key = `argument.${String(value)}`;
  return words.te(key) ? words.t(key) : value;
}

/** A part by its author's title, or by the words of its kind: `shell`, or `lower:shell` of several. */
export function partWords(words: Words, value: unknown): unknown {
  const [which, kind] = String(value).includes(":") ? String(value).split(":") : ["", String(value)];
  const key = `part.${kind ?? ""}`;
  return words.te(key) ? `${which ?? ""} ${words.t(key)}`.trim() : value;
}

/** Params of a message with the core's names of arguments put into words. */
export function named(words: Words, params: Record<string, unknown>): Record<string, unknown> {
  return {
    ...params,
    name: inWords(words, params["name"]),
    against: inWords(words, params["against"]),
    part: partWords(words, params["part"]),
  };
}

/** Say it in the reader's language where the catalogue knows the code, else as the server said it. */
export function problemText(words: Words, problem: Problem): string {
  if (!words.te(problem.code)) return problem.detail;
  return words.t(problem.code, named(words, problem.params));
}
