<script setup lang="ts">
import { ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { api, answerOf } from "@/api/client";
import type { ToolNow } from "@/api/types";
import { dayText } from "@/shared/format";

const props = defineProps<{ toolClass: string }>();
const emit = defineEmits<{ draw: [tool: ToolNow] }>();
const { t } = useI18n();
const tools = ref<ToolNow[] | null>(null);

async function fetchTools(toolClass: string): Promise<void> {
  const found = await answerOf(api.GET("/api/tools", { params: { query: { tool_class: toolClass } } }));
  const rank = (tool: ToolNow): number => (barred(tool) ? 2 : 0) + Number(tool.out_of_date);
  tools.value = found.sort((a, b) => rank(a) - rank(b));
}

/** Withdrawn, or on somebody's studs: it is not to be had. */
const barred = (tool: ToolNow): boolean => tool.withdrawn !== null || tool.place?.at_work === true;
function placeWords(tool: ToolNow): string {
  if (tool.withdrawn !== null)
    return t("tools.withdrawn", { by: tool.withdrawn_by ?? "", words: tool.withdrawn });
  if (tool.place === null || tool.place.idle || !tool.place.bound) return "";
  const at = { joint: `${tool.place.engine} · ${tool.place.joint}`, by: tool.place.by };
  return tool.place.at_work ? t("tools.on_studs", at) : t("tools.hand_on", at);
}

watch(
  () => props.toolClass,
  (toolClass) => void fetchTools(toolClass),
  { immediate: true },
);
</script>

<template>
  <div class="tools">
    <p v-if="tools?.length === 0">{{ t("bench.no_tools") }}</p>
    <button
      v-for="tool in tools ?? []"
      :key="tool.id"
      type="button"
      class="tool"
      :class="{ hatched: tool.out_of_date || barred(tool) }"
      :disabled="barred(tool)"
      @click="emit('draw', tool)"
    >
      <span class="figure id" translate="no">{{ tool.id }}</span>
      <span class="words" translate="no">{{ tool.name }}</span>
      <span v-if="placeWords(tool)" class="due over">{{ placeWords(tool) }}</span>
      <span class="due" :class="{ over: tool.out_of_date }">
        <i18n-t :keypath="tool.out_of_date ? 'bench.cal_over' : 'bench.cal_until'" scope="global">
          <template #due
            ><span translate="no">{{ dayText(tool.calibration_due) }}</span></template
          >
        </i18n-t>
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
  grid-template-columns: auto 1fr;
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
