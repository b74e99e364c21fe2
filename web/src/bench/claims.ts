import { useI18n } from "vue-i18n";
import type { ClaimView } from "@/api/types";
import { useWords } from "@/bench/words";

/** Return words for what somebody did without a link. */
export function useClaimWords(): (claim: ClaimView) => string {
  const { t } = useI18n();
  const words = useWords();
  return (claim) => {
    switch (claim.work) {
      case "note":
        return t("claim.note", { text: claim.text ?? "" });
      case "add_photo":
        return claim.note === null ? t("claim.photo") : `${t("claim.photo")}: ${claim.note}`;
      case "strike":
        return t("claim.strike");
      case "raise_trouble":
        return t(`trouble.${claim.answer ?? "other"}`);
      default:
        return words.said(claim.answer ?? "", claim.read);
    }
  };
}
