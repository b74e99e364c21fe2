<script setup lang="ts">
import { useI18n } from "vue-i18n";
import { useActions, type TroubleKind } from "@/bench/actions";
import { useBench } from "@/bench/store";
import NeedsTag from "@/shared/NeedsTag.vue";

/** One question after the one touch: what is wrong. */
defineProps<{ open: boolean }>();
const { t } = useI18n();
const actions = useActions();
const bench = useBench();
const KINDS: readonly TroubleKind[] = [
  "no_click",
  "clicked_at_once",
  "creak_or_bang",
  "out_of_swing",
  "cross_thread",
  "dirt",
  "tool_slipped",
  "other",
];
function leaveOut(): void {
  const call = bench.call;
  if (call === null) return;
  const what = [call.title, call.fastener].filter(Boolean).join(" ");
  actions.dialog.value = { kind: "leave_out", cell: call.cell, what };
}
const shut = (): void => {
  actions.dialog.value = null;
};
</script>

<template>
  <v-dialog :model-value="open" :aria-label="t('trouble.title')" @update:model-value="shut">
    <div class="sheet">
      <h2>{{ t("trouble.title") }}</h2>
      <div class="kinds">
        <v-btn v-for="kind in KINDS" :key="kind" @click="actions.raiseTrouble(kind)">{{
          t(`trouble.${kind}`)
        }}</v-btn>
      </div>
      <div class="row">
        <v-btn v-if="bench.call?.may_leave_out" @click="leaveOut"
          >{{ t("bench.leave_out") }}<needs-tag act="accept"
        /></v-btn>
        <v-btn @click="shut">{{ t("ui.cancel") }}</v-btn>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.kinds {
  display: grid;
  gap: 10px;
  grid-template-columns: 1fr 1fr;
  margin: 10px 0;
}

.kinds .v-btn {
  font-size: var(--size-4);
  height: 72px !important;
}
</style>
