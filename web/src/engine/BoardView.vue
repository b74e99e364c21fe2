<script setup lang="ts">
import { computed, watch } from "vue";
import { useI18n } from "vue-i18n";
import BoardPanel from "@/engine/BoardPanel.vue";
import HotWorkPanel from "@/engine/HotWorkPanel.vue";
import LiftedNote from "@/engine/LiftedNote.vue";
import PeoplePanels from "@/engine/PeoplePanels.vue";
import ToldPanel from "@/engine/ToldPanel.vue";
import SweepLines from "@/engine/SweepLines.vue";
import { provideEngine } from "@/engine/engine";
import { useHere } from "@/shared/here";
import NotHere from "@/shared/NotHere.vue";
import ProblemNote from "@/shared/ProblemNote.vue";

/** The board at the door: one large screen for whoever goes in, comes out, or bars the crank. */
const props = defineProps<{ engine: string }>();
const { t } = useI18n();
const engine = provideEngine(() => props.engine);
const { page, overhaul, acting } = engine;
const here = useHere();
// The board is looked at where one goes in.
watch(
  () => props.engine,
  (id) => {
    here.at(id);
  },
  { immediate: true },
);
const isolated = computed(() => overhaul.value?.points.filter((one) => one.state === "isolated") ?? []);
const permits = computed(() => [
  ...new Set(isolated.value.flatMap((one) => (one.permit === null ? [] : [one.permit]))),
]);
</script>

<template>
  <main v-if="page" id="content" class="board">
    <header>
      <h1>
        <span translate="no">{{ page.engine.name }}</span> · {{ t("engine.board") }}
      </h1>
      <v-btn :to="{ name: 'engine', params: { engine: page.engine.id } }">{{ t("engine.back") }}</v-btn>
    </header>
    <problem-note :problem="acting.problem.value" :unsent="acting.unsent.value" />
    <p v-if="!overhaul">{{ t("engine.none") }}</p>
    <template v-else>
      <board-panel v-if="overhaul.tests.length > 0" class="large" :title="t('engine.lifted_title')" hot>
        <lifted-note />
      </board-panel>
      <board-panel
        class="large"
        :title="t('engine.pressure')"
        :none="t('engine.pressure_none')"
        :empty="overhaul.under_pressure.length === 0"
        :hot="overhaul.under_pressure.length > 0"
      >
        <p v-for="one in overhaul.under_pressure" :key="one" class="words" translate="no">{{ one }}</p>
      </board-panel>
      <told-panel large />
      <people-panels large />
      <hot-work-panel large />
      <board-panel
        class="large"
        :title="t('engine.hung')"
        :none="t('engine.hung_none')"
        :empty="overhaul.hung.length === 0"
        :hot="overhaul.hung.length > 0"
      >
        <p v-for="one in overhaul.hung" :key="one" class="words" translate="no">{{ one }}</p>
      </board-panel>
      <board-panel :title="t('engine.crank')">
        <p class="words points">
          {{
            overhaul.crank.angle_deg === null
              ? t("engine.crank_unknown")
              : t("engine.crank_at", {
                  angle: Math.round(overhaul.crank.angle_deg * 10) / 10,
                  first: page.engine.firing_order[0] ?? "",
                })
          }}
        </p>
        <sweep-lines :crank="overhaul.crank" />
      </board-panel>
      <board-panel :title="t('engine.isolations')">
        <p class="words points">
          {{ isolated.map((one) => t(`isolation.${one.point}`)).join(" · ") }}
        </p>
        <p v-if="permits.length > 0" class="muted">
          {{ t("engine.permit") }} <span translate="no">{{ permits.join(", ") }}</span>
        </p>
      </board-panel>
    </template>
  </main>
  <not-here v-else :problem="acting.problem.value" :unsent="acting.unsent.value" @again="engine.again" />
</template>

<style scoped>
.board {
  column-gap: 14px;
  columns: 2 480px;
  padding: 18px 24px 32px;
}

.board > header,
.board > p,
.board > :deep(.problem) {
  column-span: all;
  margin-bottom: 14px;
}

.board :deep(.panel) {
  break-inside: avoid;
  margin-bottom: 14px;
}

/* It is read from where people stand. */
.board :deep(h2) {
  font-size: var(--size-5);
}

.board :deep(.panel > p),
.board :deep(.sweep) {
  font-size: var(--size-4);
}

.at-narrow .board {
  padding: var(--gap-3);
}

header {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  justify-content: space-between;
}

h1 {
  font-size: var(--size-6);
}

p {
  margin: 0;
}

.large .words {
  font-size: var(--size-6);
}

.board :deep(.lifted) {
  font-size: var(--size-5);
}

.board p.points {
  font-size: var(--size-5);
}
</style>
