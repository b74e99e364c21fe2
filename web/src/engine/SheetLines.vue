<script setup lang="ts">
import { mdiClose } from "@mdi/js";
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { drawnSmall, keepSheet } from "@/api/pictures";
import type { OverhaulCommand } from "@/api/types";
import BoardPanel from "@/engine/BoardPanel.vue";
import { useEngine } from "@/engine/engine";
import type { SheetLine } from "@/engine/sheetLines";
import ProblemNote from "@/shared/ProblemNote.vue";
import { dayTimeText } from "@/shared/format";

/** A sheet of paper as it is read line by line: with its photograph it goes in as one act, all of it or nothing. */
const lines = defineModel<SheetLine[]>({ required: true });
const { t } = useI18n();
const engine = useEngine();
const { acting } = engine;
const picture = ref<ArrayBuffer | null>(null);
const field = ref<HTMLInputElement | null>(null);
const refusedLine = computed(() => Number(acting.problem.value?.params.line ?? 0));
/** The photograph as it was kept before an answer was lost: the same sheet again is the same sheet. */
let kept: string | null = null;
watch(picture, () => (kept = null));

async function chosen(): Promise<void> {
  const file = field.value?.files?.[0];
  if (file !== undefined) picture.value = await drawnSmall(file);
}

async function takeIn(): Promise<void> {
  const overhaul = engine.overhaul.value?.overhaul_id;
  if (overhaul === undefined) return;
  const file = picture.value;
  if (file !== null && kept === null) {
    const sent = await acting.act(async () => {
      kept = await keepSheet(overhaul, file);
    });
    if (!sent) return;
  }
  const commands = lines.value.map(
    ({ command, paper }) => ({ ...command, paper: { ...paper, photo: kept } }) as OverhaulCommand,
  );
  if (!(await engine.keyIn(commands))) return;
  lines.value = [];
  picture.value = null;
}
</script>

<template>
  <board-panel
    :title="t('engine.lists.sheet')"
    :none="t('engine.lists.sheet_none')"
    :empty="lines.length === 0"
  >
    <problem-note :problem="acting.problem.value" :unsent="acting.unsent.value" />
    <p v-if="refusedLine > 0" class="refused" role="status">
      {{ t("engine.lists.line", { n: refusedLine }) }}
    </p>
    <ol class="plain">
      <li v-for="(one, n) in lines" :key="one.command.id" :class="{ refused: n + 1 === refusedLine }">
        <span class="figure" translate="no">{{ n + 1 }} · {{ dayTimeText(one.paper.at) }}</span>
        <span class="words"
          >{{ one.words }} <span class="muted" translate="no">{{ one.by }}</span></span
        >
        <v-btn
          :aria-label="t('engine.lists.take_off', { n: n + 1 })"
          @click="lines = lines.filter((other) => other !== one)"
          ><v-icon :icon="mdiClose"
        /></v-btn>
      </li>
    </ol>
    <div v-if="lines.length > 0" class="row">
      <v-btn @click="field?.click()">{{
        picture === null ? t("engine.lists.photo") : t("engine.lists.photo_there")
      }}</v-btn>
      <input
        ref="field"
        class="visually-hidden"
        type="file"
        accept="image/jpeg,image/png,image/webp"
        capture="environment"
        tabindex="-1"
        :aria-label="t('engine.lists.photo')"
        @change="chosen"
      />
      <v-btn class="main" :disabled="acting.busy.value" @click="takeIn">{{
        t("engine.lists.take_in")
      }}</v-btn>
    </div>
  </board-panel>
</template>

<style scoped>
li {
  align-items: center;
  border-top: 1px solid var(--line);
  display: grid;
  gap: 2px 12px;
  grid-template-columns: 130px minmax(0, 1fr) auto;
  padding: 4px 0;
}

.figure {
  font-size: var(--size-1);
}

.words {
  font-size: var(--size-2);
}

.row {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
}

.refused {
  border-left: 5px solid var(--out);
  font-weight: 700;
  padding-left: 8px;
}
</style>
