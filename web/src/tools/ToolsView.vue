<script setup lang="ts">
import { ref } from "vue";
import { useI18n } from "vue-i18n";
import { answerOf, api } from "@/api/client";
import type { ToolNow, Touched } from "@/api/types";
import ReasonDialog from "@/bench/ReasonDialog.vue";
import ProblemNote from "@/shared/ProblemNote.vue";
import { useActing } from "@/shared/acting";
import { dayText, dayTimeText } from "@/shared/format";
import { useFollowed } from "@/shared/followed";
import { useSession } from "@/shared/session";

/** What tools there are, where each is, and whether it is good. */
const { t } = useI18n();
const session = useSession();
const acting = useActing();
const tools = ref<ToolNow[]>([]);
const asked = ref<{ tool: ToolNow; act: "withdraw" | "back" } | null>(null);
const touched = ref<{ tool: string; runs: Touched[] } | null>(null);

async function fetchTools(): Promise<void> {
  tools.value = await answerOf(api.GET("/api/tools"));
}
useFollowed(fetchTools);

function whereWords(tool: ToolNow): string {
  if (tool.withdrawn !== null)
    return t("tools.withdrawn", { by: tool.withdrawn_by ?? "", words: tool.withdrawn });
  if (tool.place === null) return t("tools.store");
  const at = { joint: `${tool.place.engine} · ${tool.place.joint}`, by: tool.place.by };
  return t(tool.place.at_work ? "tools.on_studs" : tool.place.idle ? "tools.idle" : "tools.at", at);
}

async function say(words: string): Promise<void> {
  const now = asked.value;
  asked.value = null;
  if (now === null) return;
  const options = { params: { path: { tool_id: now.tool.id } }, body: { words } };
  await acting.act(async () => {
    if (now.act === "withdraw") await answerOf(api.POST("/api/tools/{tool_id}/withdraw", options));
    else await answerOf(api.POST("/api/tools/{tool_id}/back", options));
    await fetchTools();
  });
}

async function look(tool: ToolNow): Promise<void> {
  await acting.act(async () => {
    const params = { path: { tool_id: tool.id } };
    const runs = await answerOf(api.GET("/api/tools/{tool_id}/touched", { params }));
    touched.value = { tool: tool.id, runs };
  });
}
</script>

<template>
  <main id="content" class="tools">
    <h1>{{ t("tools.title") }}</h1>
    <problem-note :problem="acting.problem.value" :unsent="acting.unsent.value" />
    <p v-if="tools.length === 0">{{ t("tools.none") }}</p>
    <section v-for="tool in tools" :key="tool.id" class="tool" :class="{ gone: tool.withdrawn !== null }">
      <span class="id figure" translate="no">{{ tool.id }}</span>
      <div class="what">
        <strong class="words" translate="no">{{ tool.name }}</strong>
        <span class="muted">
          {{ t("tools.certificate", { number: tool.certificate }) }},
          <span :class="{ over: tool.out_of_date }">{{ dayText(tool.calibration_due) }}</span>
        </span>
      </div>
      <span class="where">{{ whereWords(tool) }}</span>
      <div class="acts">
        <v-btn @click="look(tool)">{{ t("tools.touched") }}</v-btn>
        <v-btn
          v-if="tool.withdrawn === null && session.rights.has('record')"
          @click="asked = { tool, act: 'withdraw' }"
          >{{ t("tools.withdraw") }}</v-btn
        >
        <v-btn
          v-if="tool.withdrawn !== null && session.rights.has('keep_register')"
          @click="asked = { tool, act: 'back' }"
          >{{ t("tools.back") }}</v-btn
        >
      </div>
      <div v-if="touched?.tool === tool.id" class="touched">
        <p v-if="touched.runs.length === 0" class="muted">{{ t("tools.touched_none") }}</p>
        <router-link
          v-for="run in touched.runs"
          :key="run.run_id"
          :to="{ name: 'record', params: { run: run.run_id } }"
        >
          <span translate="no"
            >{{ run.engine }} · {{ run.joint }}, {{ run.title }}, {{ dayTimeText(run.started) }}</span
          >
        </router-link>
      </div>
    </section>
    <reason-dialog
      :open="asked !== null"
      :title="t(`tools.${asked?.act ?? 'withdraw'}_title`, { tool: asked?.tool.id ?? '' })"
      :text="t(`tools.${asked?.act ?? 'withdraw'}_text`)"
      :label="t(`tools.${asked?.act ?? 'withdraw'}_label`)"
      :confirm="t(`tools.${asked?.act ?? 'withdraw'}`)"
      :leave="t('ui.cancel')"
      @done="say"
      @shut="asked = null"
    />
  </main>
</template>

<style scoped>
.tools {
  padding: 18px 24px 32px;
}

.at-narrow .tools {
  padding: var(--gap-3);
}

h1 {
  font-size: var(--size-6);
  margin-bottom: 8px;
}

.tool {
  align-items: center;
  border-top: 1px solid var(--line);
  display: grid;
  gap: 2px 16px;
  grid-template-columns: 90px minmax(0, 1fr) minmax(0, 1.2fr) auto;
  padding: 6px 0;
}

.at-narrow .tool {
  grid-template-columns: 90px minmax(0, 1fr);
}

.at-narrow .where,
.at-narrow .acts {
  grid-column: 1 / -1;
}

.id {
  font-size: var(--size-4);
  font-weight: 700;
}

.what {
  display: grid;
}

.what strong {
  font-size: var(--size-4);
}

.what .muted {
  font-size: var(--size-1);
}

.over {
  color: var(--out);
  font-weight: 700;
}

.gone .id {
  text-decoration: line-through;
}

.gone .where {
  border-left: 5px solid var(--out);
  padding-left: 8px;
}

.acts {
  display: flex;
  gap: 8px;
}

.acts .v-btn {
  font-size: var(--size-2);
  height: 44px !important;
}

.touched {
  display: grid;
  grid-column: 2 / -1;
}

.touched a {
  color: inherit;
  min-height: var(--touch);
  padding: 8px 0;
}
</style>
