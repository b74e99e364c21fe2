<script setup lang="ts">
import { computed, watch } from "vue";
import { useI18n } from "vue-i18n";
import { api, answerOf } from "@/api/client";
import type { ToolForCall, ToolNow } from "@/api/types";
import { useBench } from "@/bench/store";
import { useAsking } from "@/shared/acting";
import { dayText } from "@/shared/format";
import { useDigits } from "@/shared/shortcuts";
import NeedsTag from "@/shared/NeedsTag.vue";
import { named } from "@/shared/problem";
import ProblemNote from "@/shared/ProblemNote.vue";

const props = defineProps<{ cell: string }>();
const emit = defineEmits<{ draw: [tool: ToolNow] }>();
const i18n = useI18n();
const { t } = i18n;
const bench = useBench();
const asked = useAsking<ToolForCall[]>();
const tools = computed(() => asked.answer.value);

/** Withdrawn, on somebody's studs, or not able to do what is asked: it is not to be had. */
const barred = (tool: ToolForCall): boolean =>
  tool.withdrawn !== null || tool.unfit !== null || tool.place?.at_work === true;

function placeWords(tool: ToolForCall): string {
  if (tool.withdrawn !== null)
    return t("tools.withdrawn", { by: tool.withdrawn_by ?? "", words: tool.withdrawn });
  if (tool.place === null || tool.place.idle || !tool.place.bound) return "";
  const at = { joint: `${tool.place.engine} · ${tool.place.joint}`, by: tool.place.by };
  return tool.place.at_work ? t("tools.on_studs", at) : t("tools.hand_on", at);
}

/** Why it cannot do what the call asks, in its row and not after the press. */
const unfitWords = (tool: ToolForCall): string =>
  tool.unfit === null
    ? ""
    : t(`refusal.${tool.unfit.code}`, named(i18n, `refusal.${tool.unfit.code}`, tool.unfit.params));

function draw(tool: ToolForCall | undefined): void {
  if (tool !== undefined && !barred(tool)) emit("draw", tool);
}
useDigits(
  () => tools.value,
  (k) => {
    draw(tools.value?.[k]);
  },
);

watch(
  () => props.cell,
  (cell) => {
    const params = { path: { run_id: bench.runId ?? "" }, query: { cell } };
    void asked.ask(() => answerOf(api.GET("/api/runs/{run_id}/tools", { params })));
  },
  { immediate: true },
);
</script>

<template>
  <div class="tools">
    <problem-note :problem="asked.problem.value" :unsent="asked.unsent.value" />
    <p v-if="tools?.length === 0">{{ t("bench.no_tools") }}</p>
    <button
      v-for="(tool, k) in tools ?? []"
      :key="tool.id"
      type="button"
      class="tool"
      :class="{ hatched: tool.out_of_date || barred(tool) }"
      :disabled="barred(tool)"
      @click="draw(tool)"
    >
      <span v-if="!barred(tool)" class="key" aria-hidden="true" translate="no">{{ k + 1 }}</span>
      <span class="figure id" translate="no">{{ tool.id }}</span>
      <span class="words" translate="no">{{ tool.name }}</span>
      <span v-if="placeWords(tool)" class="due over">{{ placeWords(tool) }}</span>
      <span v-if="tool.unfit" class="due over">{{ unfitWords(tool) }}</span>
      <span class="due" :class="{ over: tool.out_of_date }">
        <i18n-t :keypath="tool.out_of_date ? 'bench.cal_over' : 'bench.cal_until'" scope="global">
          <template #due
            ><span translate="no">{{ dayText(tool.calibration_due) }}</span></template
          >
        </i18n-t>
        <needs-tag v-if="tool.out_of_date" act="override_tool" />
      </span>
    </button>
  </div>
</template>

<style scoped>
.tools {
  display: grid;
  gap: 10px;
}

.tool {
  background-color: var(--panel-2);
  border: 1px solid var(--line-strong);
  color: var(--ink);
  cursor: pointer;
  display: grid;
  gap: 0 14px;
  grid-template-columns: auto 1fr auto;
  min-height: 76px;
  padding: 10px 16px;
  text-align: left;
}

.id {
  font-size: var(--size-5);
  font-weight: 700;
  grid-row: span 3;
  align-self: center;
}

.key {
  align-self: center;
  grid-column: 3;
  grid-row: 1 / span 3;
}

.words,
.due {
  grid-column: 2;
}

.words {
  font-size: var(--size-4);
}

.due {
  color: var(--muted);
  font-size: var(--size-2);
}

.due.over {
  color: var(--ink);
  font-weight: 700;
}
</style>
