import type { Composer } from "vue-i18n";
import type { Answer } from "@/api/types";
import { numberText, unitText } from "@/shared/format";

/** Return an answer as it was given, before anybody has judged it. */
export function answerWords(words: Pick<Composer, "t" | "te">, answer: Answer): string {
  const unit = (name: string | undefined): string => unitText(name ?? "");
  switch (answer.type) {
    case "value":
      return `${numberText(answer.text)} ${unit(answer.unit)}`;
    case "turn":
      return `${answer.bites.join(" + ")}${unit(answer.unit)}`;
    case "pull":
      return answer.moved ? `${answer.moved}${unit(answer.unit)}` : words.t(`answer.pull_${answer.outcome}`);
    case "feeler":
      return words.t(answer.enters ? "answer.feeler_enters" : "answer.feeler_stays_out");
    case "choice":
      return words.te(`choice.${answer.choice}`) ? words.t(`choice.${answer.choice}`) : answer.choice;
    case "words":
      return answer.text;
    case "count":
      return String(answer.count);
    default:
      return words.t("answer.tick");
  }
}
