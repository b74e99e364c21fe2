<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { PlanShown } from "@/api/types";
import { spanText } from "@/plan/plan";
import { dayTimeText, numberText } from "@/shared/format";

/** How good a plan is proven to be, how the one in force goes, and what another would change. */
const props = defineProps<{ plan: PlanShown; leads: boolean }>();
const emit = defineEmits<{ take: [] }>();
const { t } = useI18n();
const FULL_TURN_DEG = 360;
const MINUTE_MS = 60_000;
const SHOWN = 8;
const turnsOf = (deg: number): string => numberText((deg / FULL_TURN_DEG).toFixed(1));
const proposed = computed(
  () => props.plan.state !== "in_force" && props.plan.state !== "none" && props.plan.finish_at !== null,
);
const good = computed(() =>
  props.plan.proven ? t("plan.proven") : t("plan.gap", { percent: props.plan.gap_percent }),
);
const force = computed(() => props.plan.in_force);
const late = computed(() => {
  const now = force.value;
  if (now?.forecast_at == null) return "";
  const minutes = Math.round(
    (new Date(now.forecast_at).getTime() - new Date(now.finish_at).getTime()) / MINUTE_MS,
  );
  if (minutes === 0) return t("plan.on_time");
  return t(minutes > 0 ? "plan.late" : "plan.early", { time: spanText(Math.abs(minutes)) });
});
const against = computed(() => {
  const minutes = props.plan.earlier_min ?? null;
  if (minutes == null) return "";
  if (minutes === 0) return t("plan.same");
  return t(minutes > 0 ? "plan.earlier" : "plan.later", { time: spanText(Math.abs(minutes)) });
});
const bound = (one: PlanShown["bounds"][number]): string =>
  one.turning_deg !== null
    ? t("plan.bound_turning", { turns: turnsOf(one.turning_deg) })
    : t(`plan.bound.${one.code}`, {
        at: one.finish_at === null ? "" : dayTimeText(one.finish_at),
        what: one.what.join(", "),
      });
const movedText = (one: PlanShown["moved"][number]): string => {
  if (one.before_at === null)
    return t("plan.moved_new", {
      label: one.label,
      after: one.after_at === null ? "" : dayTimeText(one.after_at),
    });
  if (one.after_at === null) return t("plan.moved_gone", { label: one.label });
  return t("plan.moved", {
    label: one.label,
    before: dayTimeText(one.before_at),
    after: dayTimeText(one.after_at),
  });
};
const mayTake = computed(
  () => props.leads && proposed.value && (props.plan.state === "ready" || props.plan.state === "stopped"),
);
</script>

<template>
  <p v-if="plan.state === 'none'" class="muted">{{ t("plan.none") }}</p>
  <p v-if="plan.refused" role="alert">{{ t(`refusal.${plan.refused}`, plan.refused_with) }}</p>
  <p v-else-if="plan.state === 'failed'" role="alert">{{ t("plan.failed") }}</p>
  <p v-if="plan.state === 'looking'" role="status">
    {{
      plan.before > 0
        ? t("plan.waits", { before: plan.before })
        : t(plan.finish_at ? "plan.looking" : "plan.beginning")
    }}
  </p>
  <p v-if="plan.again && plan.state === 'looking'" class="doubt">{{ t("plan.begun_again") }}</p>
  <p v-if="plan.state === 'stopped'">{{ t("plan.stopped") }}</p>
  <p v-if="plan.old && plan.state !== 'looking'" class="doubt">{{ t("plan.old") }}</p>
  <p v-if="plan.crank_assumed" class="doubt">{{ t("plan.crank_assumed") }}</p>
  <p v-if="plan.left_out.length > 0" class="doubt">
    {{ t("plan.left_out", { joints: plan.left_out.join(", ") }) }}
  </p>
  <template v-if="proposed">
    <p class="words good">{{ good }}</p>
    <p>
      {{ t("plan.barring", { turns: turnsOf(plan.barring_deg), moves: plan.moves.length }) }}
      <span v-if="plan.first_come_at">{{
        t("plan.first_come", { at: dayTimeText(plan.first_come_at) })
      }}</span>
    </p>
    <template v-if="!plan.proven">
      <h3>{{ t("plan.why") }}</h3>
      <ul>
        <li v-for="one in plan.bounds" :key="one.code + one.what.join()">{{ bound(one) }}</li>
      </ul>
    </template>
  </template>
  <template v-if="force">
    <h3>
      {{ t("plan.taken", { at: dayTimeText(force.at), by: force.by }) }}
    </h3>
    <p>
      {{ t("plan.taken_finish", { at: dayTimeText(force.finish_at) }) }}.
      <strong v-if="force.forecast_at"
        >{{ t("plan.forecast", { at: dayTimeText(force.forecast_at) }) }}, {{ late }}.</strong
      >
    </p>
    <p v-if="force.refused" class="doubt" role="alert">
      {{ t("plan.cannot_tell") }} {{ t(`refusal.${force.refused}`, force.refused_with) }}
    </p>
  </template>
  <template v-if="proposed && force && plan.state !== 'looking'">
    <h3>{{ t("plan.changes") }}</h3>
    <p v-if="against" class="words good">{{ against }}</p>
    <ul>
      <li v-for="one in plan.causes" :key="one.code + one.what">
        {{ t(`plan.cause.${one.code}`, { what: one.what, time: spanText(one.minutes) }) }}
      </li>
    </ul>
    <p v-if="plan.moved.length === 0" class="muted">{{ t("plan.changes_none") }}</p>
    <ul v-else translate="no">
      <li v-for="one in plan.moved.slice(0, SHOWN)" :key="one.label + (one.before_at ?? '') + one.title">
        {{ movedText(one) }}
      </li>
      <li v-if="plan.moved.length > SHOWN">{{ t("plan.more", { n: plan.moved.length - SHOWN }) }}</li>
    </ul>
  </template>
  <v-btn v-if="mayTake" class="main take" @click="emit('take')">{{ t("plan.take") }}</v-btn>
  <p class="muted small">{{ t("plan.proposes") }} {{ t("plan.minutes") }}</p>
</template>

<style scoped>
h3 {
  font-size: var(--size-3);
  margin: 8px 0 0;
}

p,
ul {
  margin: 2px 0;
}

.good {
  font-size: var(--size-5);
}

.doubt {
  color: var(--doubt);
  font-weight: 700;
}

.small {
  font-size: var(--size-1);
}

.take {
  height: 56px !important;
  margin: 8px 0;
}
</style>
