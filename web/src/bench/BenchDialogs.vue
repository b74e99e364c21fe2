<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { Row } from "@/api/types";
import { useActions } from "@/bench/actions";
import { useWords } from "@/bench/words";
import HandOverDialog from "@/bench/HandOverDialog.vue";
import ShareDialog from "@/bench/ShareDialog.vue";
import StuckDialog from "@/bench/StuckDialog.vue";
import WhoDialog from "@/bench/WhoDialog.vue";
import PinDialog from "@/bench/PinDialog.vue";
import ReasonDialog from "@/bench/ReasonDialog.vue";
import TroubleDialog from "@/bench/TroubleDialog.vue";
import { whenText } from "@/shared/format";
import { useBench } from "@/bench/store";
import { useSession } from "@/shared/session";

/** All questions that may lie over the Bench, one at a time. */
const { t } = useI18n();
const bench = useBench();
const session = useSession();
const words = useWords();
const actions = useActions();
const sheet = actions.dialog;
const QUICK = ["bench.quick_mistyped", "bench.quick_misread", "bench.quick_wrong"];
const shut = (): void => {
  sheet.value = null;
};

const rowWords = (row: Row): string =>
  [row.fastener, words.item(row.item), words.answer(row)].filter(Boolean).join(" ");

/** What the sheet asks that wants words; null for the others. */
const texts = computed(() => {
  const open = sheet.value;
  const plain = { label: t("bench.reason"), confirm: t("ui.confirm"), leave: t("ui.cancel") };
  switch (open?.kind) {
    case "reason":
      return {
        ...plain,
        title: t("bench.strike_title"),
        text: t("bench.strike_text", { what: rowWords(open.row) }),
        confirm: t("bench.give_reason"),
        leave: t("bench.strike_later"),
        quick: QUICK,
      };
    case "strike":
      return {
        ...plain,
        title: t("bench.strike_ask"),
        text: t("bench.strike_whose", {
          what: rowWords(open.row),
          by: open.row.by,
          at: whenText(open.row.at),
        }),
        confirm: t("bench.strike_it"),
        leave: t("bench.strike_not"),
        quick: QUICK,
      };
    case "accept":
      return {
        ...plain,
        title: t("bench.accept_title"),
        text: t("bench.accept_text", { what: rowWords(open.row) }),
      };
    case "decide":
      return {
        ...plain,
        title: t("stuck.decide_title", { name: open.stuck.fastener ?? "" }),
        text: open.stuck.author,
        label: t("stuck.decide_label"),
      };
    case "reject":
      return {
        ...plain,
        title: t("bench.reject_title"),
        text: t("bench.reject_text", { what: rowWords(open.row) }),
        confirm: t("bench.reject"),
        wanting: open.piece.trim() === "",
      };
    case "redo":
      return { ...plain, title: t("bench.redo_title"), text: t("bench.redo_text"), confirm: t("bench.redo") };
    case "override":
      return {
        ...plain,
        title: t("bench.override_title"),
        text: t("bench.override_text", { tool: open.tool.id, due: open.tool.calibration_due }),
      };
    case "end":
      return { ...plain, title: t(`trouble.${open.how}_title`), text: t(`trouble.${open.trouble.what}`) };
    case "cause":
      return {
        ...plain,
        title: t("bench.cause_title"),
        text: t("bench.cause_text"),
        label: t("bench.cause_label"),
      };
    case "depart":
      return { ...plain, title: t("ages.depart_title"), text: t("ages.depart_text") };
    case "leave_claim":
      return {
        ...plain,
        title: t("claim.leave_title"),
        text: "",
        label: t("claim.leave_label"),
        quick: ["claim.preset_other", "claim.preset_again", "claim.preset_wrong"],
      };
    case "sister":
      return {
        ...plain,
        title: t(open.too ? "sister.too_title" : "sister.sound_title"),
        text: open.check.cause,
        label: t("sister.label"),
      };
    case "turn":
      return {
        ...plain,
        title: t("bench.turn_title"),
        text: t("bench.turn_text", { name: open.fastener }),
      };
    case "note":
      return { ...plain, title: t("bench.note_title"), text: "", label: t("bench.note_text") };
    case "leave_out":
      return {
        ...plain,
        title: t("bench.leave_out_title"),
        text: t("bench.leave_out_text", { what: open.what }),
      };
    default:
      return null;
  }
});

const cellWords = (key: string): string => {
  for (const row of bench.view?.ribbon ?? []) {
    const cell = row.cells.find((one) => one.cell === key);
    if (cell) return `${row.title}: ${words.short(cell.item)} ${cell.fastener ?? ""}`;
  }
  return key;
};

/** Whose PIN is asked for: of whoever signs, or of somebody else who does this one act here. */
const signer = computed(() => {
  const open = sheet.value;
  if (open?.kind === "sign") return { name: session.me?.name ?? "" };
  if (open?.kind !== "who" && open?.kind !== "stand_in") return null;
  if (open.person === null) return null;
  return { name: open.person.name, title: t("other.pin_title"), text: t("other.pin_text") };
});
</script>

<template>
  <reason-dialog v-if="texts" :open="true" v-bind="texts" @done="actions.finish" @shut="shut">
    <v-text-field
      v-if="sheet?.kind === 'reject'"
      v-model="sheet.piece"
      :label="t('bench.reject_piece')"
      maxlength="40"
    />
    <ul v-if="sheet?.kind === 'redo'" class="scope">
      <li v-for="cell in sheet.cells" :key="cell">{{ cellWords(cell) }}</li>
    </ul>
  </reason-dialog>
  <who-dialog
    v-if="sheet?.kind === 'who' && sheet.person === null"
    :act="sheet.act"
    @pick="(person) => sheet?.kind === 'who' && (sheet.person = person)"
    @shut="shut"
  />
  <pin-dialog :open="signer !== null" v-bind="signer ?? { name: '' }" @done="actions.sign" @shut="shut" />
  <trouble-dialog :open="sheet?.kind === 'trouble'" />
  <hand-over-dialog v-if="sheet?.kind === 'hand_over'" />
  <stuck-dialog v-if="sheet?.kind === 'stuck'" v-bind="sheet" @shut="shut" />
  <share-dialog v-if="sheet?.kind === 'part'" />
</template>

<style scoped>
.scope {
  columns: 2;
  font-size: var(--size-1);
  max-height: 220px;
  overflow-y: auto;
}
</style>
