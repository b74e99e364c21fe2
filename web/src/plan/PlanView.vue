<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { answerOf, api, newId } from "@/api/client";
import type { PlanAsked, PlanShown, PlannedWork } from "@/api/types";
import BoardPanel from "@/engine/BoardPanel.vue";
import { provideEngine } from "@/engine/engine";
import NotHere from "@/shared/NotHere.vue";
import BarringWheel from "@/plan/BarringWheel.vue";
import PlanAsk from "@/plan/PlanAsk.vue";
import PlanDays from "@/plan/PlanDays.vue";
import PlanJobs from "@/plan/PlanJobs.vue";
import PlanLanes from "@/plan/PlanLanes.vue";
import PlanPiece from "@/plan/PlanPiece.vue";
import PlanStanding from "@/plan/PlanStanding.vue";
import { dayOf, spanText, usePins } from "@/plan/plan";
import { useActing } from "@/shared/acting";
import { dayText, dayTimeText, numberText } from "@/shared/format";
import PaperPage from "@/shared/PaperPage.vue";
import ProblemNote from "@/shared/ProblemNote.vue";
import { useSession } from "@/shared/session";

/** An order of work for the overhaul, with how good it is proven to be; it proposes and never judges. */
const props = defineProps<{ engine: string }>();
const { t } = useI18n();
const LOOK_MS = 1200;
const engine = provideEngine(() => props.engine);
const { page, overhaul } = engine;
const acting = useActing();
const session = useSession();
const plan = ref<PlanShown | null>(null);
const pins = usePins();
const leads = computed(() => page.value?.may_lead ?? false);
const id = computed(() => overhaul.value?.overhaul_id ?? null);
let timer: ReturnType<typeof setTimeout> | null = null;

function show(shown: PlanShown): void {
  plan.value = shown;
  if (timer !== null) clearTimeout(timer);
  const more = shown.state === "looking" || shown.wondering;
  timer = more ? setTimeout(() => void look().catch(() => undefined), LOOK_MS) : null;
}
const params = (overhaul_id: string): { path: { overhaul_id: string } } => ({ path: { overhaul_id } });
async function look(): Promise<void> {
  if (id.value === null) return;
  show(await answerOf(api.GET("/api/overhauls/{overhaul_id}/plan", { params: params(id.value) })));
}
async function make(body: PlanAsked): Promise<void> {
  await acting.act(async () => {
    if (id.value === null) return;
    show(await answerOf(api.POST("/api/overhauls/{overhaul_id}/plan", { params: params(id.value), body })));
    changing.value = false;
  });
}
async function stop(): Promise<void> {
  await acting.act(async () => {
    if (id.value === null) return;
    show(await answerOf(api.DELETE("/api/overhauls/{overhaul_id}/plan", { params: params(id.value) })));
  });
}
async function take(): Promise<void> {
  await acting.act(async () => {
    const made = plan.value?.made_at;
    if (id.value === null || made == null) return;
    const command = { kind: "take_plan" as const, id: newId(), made_at: made };
    show(
      await answerOf(
        api.POST("/api/overhauls/{overhaul_id}/plan/take", { params: params(id.value), body: { command } }),
      ),
    );
  });
}
// The engine goes on: what is in force goes with it.
const standing = computed(() => overhaul.value?.seq ?? null);
watch([id, standing], () => void look().catch(() => undefined), { immediate: true });
onMounted(() => void look().catch(() => undefined));
onBeforeUnmount(() => {
  if (timer !== null) clearTimeout(timer);
});

const days = computed(() => [...new Set((plan.value?.work ?? []).map((one) => dayOf(one.start_at)))].sort());
/** Who and what is there is asked for where nobody has said so yet, and when somebody wants to change it. */
const changing = ref(false);
const asking = computed(
  () => changing.value || plan.value?.state === "none" || plan.value?.state === "failed",
);
const picked = ref<string | null>(null);
const day = computed(() =>
  picked.value !== null && days.value.includes(picked.value) ? picked.value : (days.value[0] ?? null),
);
const place = computed(() => (day.value === null ? -1 : days.value.indexOf(day.value)));
const piece = ref<PlannedWork | null>(null);

const CYCLE_DEG = 720;
const cycle = computed(() => overhaul.value?.crank.cycle_deg ?? CYCLE_DEG);
const FULL_TURN_DEG = 360;
const MINUTE_MS = 60_000;
type WhatIf = PlanShown["what_if"][number];
const ifText = (one: WhatIf): string =>
  t(`plan.if.${one.code}`, {
    what: one.what,
    turns: numberText((one.barring_deg / FULL_TURN_DEG).toFixed(1)),
  });
const ifGives = (one: WhatIf): string => {
  const finish = plan.value?.finish_at;
  if (one.finish_at == null || finish == null) return t("plan.if_not");
  const minutes = Math.round((new Date(one.finish_at).getTime() - new Date(finish).getTime()) / MINUTE_MS);
  if (minutes === 0) return t("plan.if_same");
  return t(minutes > 0 ? "plan.if_later" : "plan.if_earlier", { time: spanText(Math.abs(minutes)) });
};
const file = (rest: string): string => `/api/overhauls/${id.value ?? ""}/${rest}`;
const mine = computed(() => {
  const name = session.me?.name;
  const k = name === undefined ? -1 : (plan.value?.people.indexOf(name) ?? -1);
  return k < 0 ? "" : `?who=${k}`;
});
</script>

<template>
  <paper-page v-if="page">
    <template #title>
      <span translate="no">{{ page.engine.name }}</span> · {{ t("plan.title") }}
    </template>
    <template #acts>
      <v-btn :to="{ name: 'engine', params: { engine: page.engine.id } }">{{ t("engine.back") }}</v-btn>
    </template>
    <problem-note :problem="acting.problem.value" :unsent="acting.unsent.value" />
    <p v-if="!overhaul">{{ t("engine.none") }}</p>
    <template v-else-if="plan">
      <board-panel
        :title="plan.finish_at ? t('plan.finish', { at: dayTimeText(plan.finish_at) }) : t('plan.title')"
      >
        <plan-standing :plan="plan" :leads="leads" @take="take" />
        <template v-if="leads">
          <plan-ask v-if="asking" :plan="plan" :pins="pins" @ask="make" @stop="stop" />
          <div v-else class="row">
            <v-btn v-if="plan.state === 'looking' || plan.wondering" @click="stop">{{
              t("plan.stop")
            }}</v-btn>
            <v-btn @click="changing = true">{{ t("plan.change") }}</v-btn>
          </div>
        </template>
      </board-panel>
      <board-panel v-if="day" :title="t('plan.lanes')">
        <template #act>
          <div class="days">
            <v-btn :disabled="place <= 0" @click="picked = days[place - 1] ?? null">{{
              t("plan.day_before")
            }}</v-btn>
            <strong class="words">{{ dayText(`${day}T12:00`) }}</strong>
            <v-btn :disabled="place >= days.length - 1" @click="picked = days[place + 1] ?? null">{{
              t("plan.day_after")
            }}</v-btn>
          </div>
        </template>
        <plan-lanes :plan="plan" :day="day" :pins="pins" @pick="(one) => (piece = one)" />
      </board-panel>
      <div v-if="day" class="columns">
        <board-panel :title="dayText(`${day}T12:00`)">
          <plan-days :plan="plan" :day="day" @pick="(one) => (piece = one)" />
        </board-panel>
        <div class="side">
          <board-panel v-if="plan.moves.length > 0" :title="t('plan.wheel')">
            <barring-wheel :moves="plan.moves" :cycle="cycle" />
          </board-panel>
          <board-panel v-if="plan.what_if.length > 0 || plan.wondering" :title="t('plan.what_if')">
            <ul class="plain ifs">
              <li v-for="one in plan.what_if" :key="one.code + one.what">
                <span>{{ ifText(one) }}</span> <strong class="words">{{ ifGives(one) }}</strong>
              </li>
            </ul>
            <p v-if="plan.wondering" class="muted" role="status">{{ t("plan.what_if_wondering") }}</p>
          </board-panel>
          <board-panel :title="t('plan.papers')">
            <div class="papers">
              <v-btn :href="file(`plan/day.pdf?day=${day}`)">{{ t("plan.day_sheets") }}</v-btn>
              <v-btn :href="file(`plan.ics${mine}`)">{{ t("plan.ics") }}</v-btn>
              <v-btn :href="file('plan.csv')">{{ t("plan.csv") }}</v-btn>
            </div>
          </board-panel>
        </div>
      </div>
      <board-panel v-if="plan.in_force" :title="t('plan.jobs')">
        <plan-jobs :jobs="plan.in_force.jobs" />
      </board-panel>
      <plan-piece :plan="plan" :work="piece" :pins="pins" :leads="leads" @shut="piece = null" />
    </template>
  </paper-page>
  <not-here
    v-else
    :problem="engine.acting.problem.value"
    :unsent="engine.acting.unsent.value"
    @again="engine.again"
  />
</template>

<style scoped>
.days {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
}

.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 8px;
}

.row .v-btn {
  height: 52px !important;
}

.columns {
  display: grid;
  gap: 14px;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
}

.at-narrow .columns {
  grid-template-columns: minmax(0, 1fr);
}

.side {
  align-content: start;
  display: grid;
  gap: 14px;
}

.ifs li {
  border-top: 1px solid var(--line);
  display: flex;
  gap: 12px;
  justify-content: space-between;
  padding: 6px 0;
}

.papers {
  display: grid;
  gap: 8px;
}

.papers .v-btn {
  height: 48px !important;
}
</style>
