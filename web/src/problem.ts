import type { Composer } from "vue-i18n";
import type { Problem } from "./api/types";

type Words = Pick<Composer, "t" | "te">;

/** The core's name of an argument as people know it. */
function named(words: Words, value: unknown): unknown {
  const key = `argument.${String(value)}`;
  return words.te(key) ? words.t(key) : value;
}

/** Say it in the reader's language where the catalogue knows the code, else as the server said it. */
export function problemText(words: Words, problem: Problem): string {
  if (!words.te(problem.code)) return problem.detail;
  const { params } = problem;
  return words.t(problem.code, {
    ...params,
    name: named(words, params["name"]),
    against: named(words, params["against"]),
  });
}
