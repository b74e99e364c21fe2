import type { EngineEntry } from "@/api/types";
import { dayTimeText } from "@/shared/format";
import { counted, type Words } from "@/shared/problem";

const BLANK = {
  lock: "",
  permit: "",
  words: "",
  commander: "",
  figure: "",
  proof: "",
  moment: "",
  until: "",
};

/** A line of the engine's log in words. */
export function entryWords(words: Words, entry: EngineEntry): string {
  const { t } = words;
  const { point, check, space, cause, now } = entry.params;
  const moment = entry.moment === null ? null : dayTimeText(entry.moment);
  return counted(words, `engine.entry.${entry.kind}`, {
    ...BLANK,
    ...entry.params,
    ...(point === undefined ? {} : { point: t(`isolation.${point}`) }),
    ...(check === undefined ? {} : { check: t(`isolation.${check}`) }),
    ...(moment === null ? {} : { moment, until: t("engine.until_at", { at: moment }) }),
    ...(cause === undefined ? {} : { cause: t(`engine.stop.cause.${cause}`) }),
    ...(now === undefined ? {} : { now: t(`engine.door.${now}`) }),
    ...(space === undefined ? {} : { space: t(`engine.space.${space}`) }),
  });
}

/** When it was done: by the paper, a span where no more is known. */
export function writtenWhen(words: Words, entry: EngineEntry): string {
  const at = dayTimeText(entry.written_at ?? entry.at);
  if (entry.written_until === null) return at;
  return words.t("engine.told_span", { at, until: dayTimeText(entry.written_until) });
}
