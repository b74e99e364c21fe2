import type { EngineEntry } from "@/api/types";

type Translate = (key: string, params?: Record<string, string>) => string;
const BLANK = { lock: "", permit: "", words: "", commander: "", figure: "", proof: "" };

/** A line of the engine's log in words. */
export function entryWords(t: Translate, entry: EngineEntry): string {
  const { point, check, space } = entry.params;
  return t(`engine.entry.${entry.kind}`, {
    ...BLANK,
    ...entry.params,
    ...(point === undefined ? {} : { point: t(`isolation.${point}`) }),
    ...(check === undefined ? {} : { check: t(`isolation.${check}`) }),
    ...(space === undefined ? {} : { space: t(`engine.space.${space}`) }),
  });
}
