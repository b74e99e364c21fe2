<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import { answerOf, api } from "@/api/client";
import type { EngineEntry } from "@/api/types";
import BoardPanel from "@/engine/BoardPanel.vue";
import { useEngine } from "@/engine/engine";
import { entryWords, writtenWhen } from "@/engine/entries";
import ReasonDialog from "@/bench/ReasonDialog.vue";
import { whenText } from "@/shared/format";

/** What happened to the engine, newest first; a wrong entry is struck like a reading. */
const i18n = useI18n();
const { t } = i18n;
const engine = useEngine();
const SHOWN = 8;
const all = ref(false);
/** Lines older than those that stand on the page, as far as they were asked for. */
const older = ref<EngineEntry[]>([]);
const more = ref<boolean | null>(null);
const striking = ref<EngineEntry | null>(null);
const newest = computed(() => engine.overhaul.value?.log.lines ?? []);
const log = computed(() => {
  const first = newest.value[newest.value.length - 1]?.seq ?? 0;
  return [...newest.value, ...older.value.filter((one) => one.seq < first)];
});
const isMore = computed(() => more.value ?? engine.overhaul.value?.log.more ?? false);
const shown = computed(() => (all.value ? log.value : log.value.slice(0, SHOWN)));
const records = computed(() => engine.page.value?.may_record ?? false);
const WRONG = new Set([
  "conditions_declared",
  "isolated",
  "door_moved",
  "entered",
  "crank_found",
  "crank_moved",
  "lock_hung",
  "attitude_set",
  "crank_carried",
  "debt_paid",
  "seen_to",
  "deflections_read",
  "witnessed",
]);

async function goOn(): Promise<void> {
  const last = log.value[log.value.length - 1]?.seq;
  if (last !== undefined && isMore.value) {
    const params = {
      path: { overhaul_id: engine.overhaul.value?.overhaul_id ?? "" },
      query: { before: last },
    };
    await engine.acting.act(async () => {
      const page = await answerOf(api.GET("/api/overhauls/{overhaul_id}/log", { params }));
      older.value = [...older.value, ...page.lines];
      more.value = page.more;
    });
  }
  all.value = true;
}

async function strike(reason: string): Promise<void> {
  const entry = striking.value?.seq;
  striking.value = null;
  if (entry !== undefined) await engine.send({ kind: "strike_entry", entry, words: reason });
}
</script>

<template>
  <board-panel :title="t('engine.log')">
    <ol class="plain">
      <li v-for="entry in shown" :key="entry.seq" :class="{ struck: entry.struck }">
        <span class="at figure" translate="no">{{ whenText(entry.at) }}</span>
        <span class="said"
          >{{ entryWords(i18n, entry) }} <span class="muted" translate="no">{{ entry.by }}</span>
          <span v-if="entry.written_by" class="muted" translate="no">
            ·
            {{
              t("engine.from_paper", {
                by: entry.written_by,
                at: writtenWhen(i18n, entry),
              })
            }}</span
          >
          <strong v-if="entry.against" class="against"> {{ t(`engine.against.${entry.against}`) }}</strong>
          <strong v-if="entry.told" class="against"> {{ t(`engine.told_${entry.told}`) }}</strong>
          <em v-if="entry.struck"> {{ t("engine.struck") }}</em></span
        >
        <v-btn
          v-if="records && !entry.struck && WRONG.has(entry.kind)"
          class="small"
          @click="striking = entry"
          >{{ t("engine.strike") }}</v-btn
        >
      </li>
    </ol>
    <v-btn v-if="isMore || (!all && log.length > SHOWN)" class="small" @click="goOn">{{
      t("engine.more")
    }}</v-btn>
    <reason-dialog
      :open="striking !== null"
      :title="t('engine.strike_title')"
      :text="t('engine.strike_text')"
      :label="t('engine.strike_label')"
      :confirm="t('engine.strike')"
      :leave="t('ui.cancel')"
      @done="strike"
      @shut="striking = null"
    />
  </board-panel>
</template>

<style scoped>
li {
  align-items: center;
  border-top: 1px solid var(--line);
  display: grid;
  gap: 2px 12px;
  grid-template-columns: 118px minmax(0, 1fr) auto;
  min-height: 48px;
  padding: 3px 0;
}

.at {
  color: var(--muted);
  font-size: var(--size-1);
}

.struck .said {
  text-decoration: line-through;
}

.against {
  color: var(--doubt);
}

.small {
  font-size: var(--size-2);
  height: 44px !important;
}

.at-phone li {
  grid-template-columns: minmax(0, 1fr) auto;
}

.at-phone .at {
  grid-column: 1 / -1;
}
</style>
