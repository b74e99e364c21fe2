<script setup lang="ts">
import { computed, onMounted, reactive, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { answerOf, api } from "@/api/client";
import type { PersonListed, PlanAsked, PlanShown } from "@/api/types";
import ChoiceField from "@/shared/ChoiceField.vue";
import { dayTimeText, localTime } from "@/shared/format";
import MomentField from "@/shared/MomentField.vue";
import TimeField from "@/shared/TimeField.vue";
import { figureOf } from "@/shared/typed";
import type { Pins } from "@/plan/plan";

/** Who and what is there, what comes first, and what is kept in its place: a plan is asked for. */
const props = defineProps<{ plan: PlanShown; pins: Pins }>();
const emit = defineEmits<{ ask: [asked: PlanAsked]; stop: [] }>();
const { t } = useI18n();
const SECONDS = 20;

const people = ref<PersonListed[]>([]);
onMounted(async () => {
  people.value = await answerOf(api.GET("/api/people"));
});
const crew = reactive({ people: "4", cranes: "1", from: "06:00", to: "22:00" });
const aim = ref<PlanAsked["aim"]>("earliest_finish");
const who = ref<string[]>([]);
const sets = reactive<Record<string, string>>({});
const away = ref<PlanAsked["away"]>([]);
const clock = (minutes: number): string =>
  `${String(Math.floor(minutes / 60)).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`;
/** What was asked last stands there again. */
watch(
  () => props.plan.made_at,
  () => {
    const asked = props.plan.asked;
    Object.assign(crew, {
      people: String(asked.people),
      cranes: String(asked.cranes),
      from: clock(asked.from_min),
      to: clock(asked.to_min),
    });
    aim.value = asked.aim;
    who.value = [...asked.who];
    away.value = [...asked.away];
    props.pins.takeFrom(props.plan);
  },
  { immediate: true },
);
watch(
  () => props.plan.sets,
  (there) => {
    for (const [name, count] of Object.entries(there)) sets[name] ??= String(count);
  },
  { immediate: true },
);
const used = computed(() => Object.keys(props.plan.sets).sort());

const minutes = (text: string): number | null => {
  const found = /^(\d{1,2}):(\d{2})$/.exec(text.trim());
  return found === null ? null : Number(found[1]) * 60 + Number(found[2]);
};
const ready = computed(
  () =>
    figureOf(crew.people) !== null &&
    figureOf(crew.cranes) !== null &&
    minutes(crew.from) !== null &&
    minutes(crew.to) !== null &&
    used.value.every((name) => figureOf(sets[name] ?? "") !== null),
);
const kept = computed(() => Object.keys(props.pins.at).length);

const gone = reactive({ what: "hands", from: localTime(new Date()), to: localTime(new Date()) });
const goes = computed(() => [
  { value: "hands", title: t("plan.away_hands") },
  { value: "crane", title: t("plan.lane_crane") },
  ...used.value.map((name) => ({ value: name, title: name, raw: true })),
]);
const mayAdd = computed(() => gone.from !== "" && gone.to !== "" && gone.to > gone.from);
function add(): void {
  const [from_at, to_at] = [gone.from, gone.to].map((at) => new Date(at).toISOString());
  if (from_at === undefined || to_at === undefined) return;
  away.value = [...away.value, { what: gone.what, from_at, to_at, count: 1 }];
}
const called = (what: string): string => goes.value.find((one) => one.value === what)?.title ?? what;

function ask(): void {
  emit("ask", {
    people: figureOf(crew.people) ?? 0,
    who: who.value,
    cranes: figureOf(crew.cranes) ?? 0,
    from_min: minutes(crew.from) ?? 0,
    to_min: minutes(crew.to) ?? 0,
    sets: Object.fromEntries(
      used.value
        .filter((name) => figureOf(sets[name] ?? "") !== props.plan.sets[name])
        .map((name) => [name, figureOf(sets[name] ?? "") ?? 0]),
    ),
    aim: aim.value,
    away: away.value,
    pins: { ...props.pins.at },
    what_if: true,
    seconds: SECONDS,
  });
}
</script>

<template>
  <form class="crew" @submit.prevent="ask">
    <choice-field
      v-model="aim"
      :label="t('plan.aim')"
      :items="
        (['earliest_finish', 'least_barring'] as const).map((value) => ({
          value,
          title: t(`plan.aim_${value}`),
        }))
      "
    />
    <v-select
      v-model="who"
      class="two"
      multiple
      :label="t('plan.who')"
      :aria-label="t('plan.who')"
      :items="people.map((one) => ({ value: one.id, title: one.name }))"
    >
      <template #selection="{ item, index }">
        <span translate="no">{{ item.title }}<template v-if="index < who.length - 1">, </template></span>
      </template>
    </v-select>
    <v-text-field
      v-if="who.length === 0"
      v-model="crew.people"
      :label="t('plan.count')"
      inputmode="numeric"
      maxlength="2"
    />
    <v-text-field v-model="crew.cranes" :label="t('plan.cranes')" inputmode="numeric" maxlength="1" />
    <time-field v-model="crew.from" :label="t('plan.from')" />
    <time-field v-model="crew.to" :label="t('plan.to')" />
    <v-text-field
      v-for="name in used"
      :key="name"
      v-model="sets[name]"
      :label="t('plan.sets', { tool: name })"
      inputmode="numeric"
      maxlength="2"
    />
    <fieldset class="away">
      <legend>{{ t("plan.away") }}</legend>
      <p v-for="(one, k) in away" :key="one.what + one.from_at">
        <span>{{
          t("plan.away_line", {
            what: called(one.what),
            from: dayTimeText(one.from_at),
            to: dayTimeText(one.to_at),
          })
        }}</span>
        <v-btn @click="away = away.filter((_, j) => j !== k)">{{ t("plan.away_drop") }}</v-btn>
      </p>
      <div class="line">
        <choice-field v-model="gone.what" :label="t('plan.away_what')" :items="goes" />
        <moment-field v-model="gone.from" :label="t('plan.away_from')" :ahead="60" />
        <moment-field v-model="gone.to" :label="t('plan.away_to')" :ahead="60" />
        <v-btn :disabled="!mayAdd" @click="add">{{ t("plan.away_add") }}</v-btn>
      </div>
    </fieldset>
    <p v-if="kept > 0" class="kept">{{ t("plan.kept_asks", { n: kept }) }}</p>
    <v-btn v-if="plan.state === 'looking' || plan.wondering" type="button" @click="emit('stop')">{{
      t("plan.stop")
    }}</v-btn>
    <v-btn v-if="plan.state !== 'looking'" class="main" type="submit" :disabled="!ready">{{
      t(plan.finish_at ? "plan.again" : "plan.make")
    }}</v-btn>
  </form>
</template>

<style scoped>
.crew {
  display: grid;
  gap: 10px;
  grid-template-columns: repeat(auto-fit, minmax(230px, 1fr));
  margin-top: 12px;
}

.two {
  grid-column: span 2;
}

.at-narrow .two {
  grid-column: auto;
}

.crew .v-btn {
  height: 56px !important;
}

.away {
  border: 0;
  border-top: 1px solid var(--line);
  grid-column: 1 / -1;
  margin: 0;
  padding: 6px 0 0;
}

.away p {
  align-items: center;
  display: flex;
  gap: 12px;
  margin: 0 0 6px;
}

.away .line {
  display: grid;
  gap: 10px;
  grid-template-columns: repeat(auto-fit, minmax(200px, 1fr));
}

.kept {
  color: var(--doubt);
  font-weight: 700;
  margin: 0;
}
</style>
