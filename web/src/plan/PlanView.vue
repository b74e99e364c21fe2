<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, reactive, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { answerOf, api } from "@/api/client";
import type { PlanShown } from "@/api/types";
import BoardPanel from "@/engine/BoardPanel.vue";
import { provideEngine } from "@/engine/engine";
import BarringWheel from "@/plan/BarringWheel.vue";
import PlanDays from "@/plan/PlanDays.vue";
import { useActing } from "@/shared/acting";
import { dayTimeText } from "@/shared/format";
import ProblemNote from "@/shared/ProblemNote.vue";
import { useShortcuts } from "@/shared/shortcuts";
import { figureOf } from "@/shared/typed";

/** An order of work for the overhaul, with how good it is proven to be; it proposes and never judges. */
const props = defineProps<{ engine: string }>();
const { t } = useI18n();
const LOOK_MS = 1200;
const { page, overhaul } = provideEngine(() => props.engine);
const acting = useActing();
useShortcuts({});
const plan = ref<PlanShown | null>(null);
const leads = computed(() => page.value?.may_lead ?? false);
const id = computed(() => overhaul.value?.overhaul_id ?? null);
let timer: ReturnType<typeof setTimeout> | null = null;

const crew = reactive({ people: "4", cranes: "1", from: "06:00", to: "22:00" });
const minutes = (clock: string): number | null => {
  const found = /^(\d{1,2}):(\d{2})$/.exec(clock.trim());
  return found === null ? null : Number(found[1]) * 60 + Number(found[2]);
};
const ready = computed(
  () =>
    figureOf(crew.people) !== null &&
    figureOf(crew.cranes) !== null &&
    minutes(crew.from) !== null &&
    minutes(crew.to) !== null,
);

function show(shown: PlanShown): void {
  plan.value = shown;
  if (timer !== null) clearTimeout(timer);
  timer = shown.state === "looking" ? setTimeout(() => void look().catch(() => undefined), LOOK_MS) : null;
}
async function look(): Promise<void> {
  if (id.value === null) return;
  show(
    await answerOf(
      api.GET("/api/overhauls/{overhaul_id}/plan", { params: { path: { overhaul_id: id.value } } }),
    ),
  );
}
async function make(): Promise<void> {
  await acting.act(async () => {
    if (id.value === null) return;
    const params = { path: { overhaul_id: id.value } };
    const body = {
      people: figureOf(crew.people) ?? 0,
      cranes: figureOf(crew.cranes) ?? 0,
      from_min: minutes(crew.from) ?? 0,
      to_min: minutes(crew.to) ?? 0,
      sets: {},
      seconds: 20,
    };
    show(await answerOf(api.POST("/api/overhauls/{overhaul_id}/plan", { params, body })));
  });
}
async function stop(): Promise<void> {
  await acting.act(async () => {
    if (id.value === null) return;
    const params = { path: { overhaul_id: id.value } };
    show(await answerOf(api.DELETE("/api/overhauls/{overhaul_id}/plan", { params })));
  });
}
watch(id, () => void look().catch(() => undefined), { immediate: true });
onMounted(() => void look().catch(() => undefined));
onBeforeUnmount(() => {
  if (timer !== null) clearTimeout(timer);
});

const CYCLE_DEG = 720;
const cycle = computed(() => overhaul.value?.crank.cycle_deg ?? CYCLE_DEG);
const FULL_TURN_DEG = 360;
const turns = computed(() => ((plan.value?.barring_deg ?? 0) / FULL_TURN_DEG).toFixed(1));
const good = computed(() => {
  const now = plan.value;
  if (now?.finish_at == null) return "";
  return now.proven ? t("plan.proven") : t("plan.gap", { percent: now.gap_percent });
});
</script>

<template>
  <main v-if="page" id="content" class="page">
    <header class="head">
      <h1>
        <span translate="no">{{ page.engine.name }}</span> · {{ t("plan.title") }}
      </h1>
      <v-btn :to="{ name: 'engine', params: { engine: page.engine.id } }">{{ t("engine.back") }}</v-btn>
    </header>
    <problem-note :problem="acting.problem.value" :unsent="acting.unsent.value" />
    <p v-if="!overhaul">{{ t("engine.none") }}</p>
    <template v-else-if="plan">
      <board-panel
        :title="plan.finish_at ? t('plan.finish', { at: dayTimeText(plan.finish_at) }) : t('plan.title')"
      >
        <p v-if="plan.state === 'none'" class="muted">{{ t("plan.none") }}</p>
        <p v-if="plan.refused" role="alert">{{ t(`refusal.${plan.refused}`, plan.refused_with) }}</p>
        <p v-else-if="plan.state === 'failed'" role="alert">{{ t("plan.failed") }}</p>
        <p v-if="plan.state === 'looking'" role="status">
          {{ t(plan.finish_at ? "plan.looking" : "plan.beginning") }}
        </p>
        <p v-if="plan.state === 'stopped'">{{ t("plan.stopped") }}</p>
        <p v-if="plan.old && plan.state !== 'looking'" class="old">{{ t("plan.old") }}</p>
        <template v-if="plan.finish_at">
          <p class="words good">{{ good }}</p>
          <p>
            {{ t("plan.barring", { turns, moves: plan.moves.length }) }}
            <span v-if="plan.first_come_at">{{
              t("plan.first_come", { at: dayTimeText(plan.first_come_at) })
            }}</span>
          </p>
          <h3 v-if="!plan.proven">{{ t("plan.why") }}</h3>
          <ul v-if="!plan.proven">
            <li v-for="one in plan.bounds" :key="one.code + one.finish_at">
              {{ t(`plan.bound.${one.code}`, { at: dayTimeText(one.finish_at), what: one.what.join(", ") }) }}
            </li>
          </ul>
        </template>
        <p class="muted small">{{ t("plan.proposes") }} {{ t("plan.minutes") }}</p>
        <form v-if="leads" class="crew" @submit.prevent="make">
          <v-text-field v-model="crew.people" :label="t('plan.people')" inputmode="numeric" maxlength="2" />
          <v-text-field v-model="crew.cranes" :label="t('plan.cranes')" inputmode="numeric" maxlength="1" />
          <v-text-field v-model="crew.from" :label="t('plan.from')" maxlength="5" />
          <v-text-field v-model="crew.to" :label="t('plan.to')" maxlength="5" />
          <v-btn v-if="plan.state === 'looking'" type="button" @click="stop">{{ t("plan.stop") }}</v-btn>
          <v-btn v-else class="main" type="submit" :disabled="!ready">{{
            t(plan.finish_at ? "plan.again" : "plan.make")
          }}</v-btn>
        </form>
      </board-panel>
      <board-panel v-if="plan.moves.length > 0" :title="t('plan.wheel')">
        <barring-wheel :moves="plan.moves" :cycle="cycle" />
      </board-panel>
      <board-panel v-if="plan.work.length > 0" :title="t('plan.days')">
        <plan-days :plan="plan" />
      </board-panel>
    </template>
  </main>
</template>

<style scoped>
.page {
  display: grid;
  gap: 14px;
  grid-template-columns: minmax(0, 1fr);
  padding: 18px 24px 32px;
}

.at-narrow .page {
  padding: var(--gap-3);
}

.head {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  justify-content: space-between;
}

h1 {
  font-size: var(--size-6);
}

h3 {
  font-size: var(--size-3);
  margin: 6px 0 0;
}

p,
ul {
  margin: 2px 0;
}

.good {
  font-size: var(--size-5);
}

.old {
  color: var(--doubt);
  font-weight: 700;
}

.small {
  font-size: var(--size-1);
}

.crew {
  display: grid;
  gap: 10px;
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  margin-top: 12px;
}

.crew .v-btn {
  height: 56px !important;
}
</style>
