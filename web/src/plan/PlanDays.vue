<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { PlanShown } from "@/api/types";
import { dayText, timeText } from "@/shared/format";

/** The work day by day, with the moves of the crank between. */
const props = defineProps<{ plan: PlanShown }>();
const { t } = useI18n();

interface Line {
  key: string;
  at: string;
  until: string;
  move: string | null;
  label: string;
  title: string;
  with: string;
}
const lines = computed<Line[]>(() => {
  const work = props.plan.work.map((one) => ({
    key: one.id,
    at: one.start_at,
    until: one.end_at,
    move: null,
    label: one.label,
    title: one.title,
    with: [
      one.hands === 1 ? t("plan.hand") : t("plan.hands", { n: one.hands }),
      ...one.sets,
      one.crane ? t("plan.crane") : "",
    ]
      .filter(Boolean)
      .join(" · "),
  }));
  const moves = props.plan.moves.map((move) => ({
    key: move.start_at + String(move.to_deg),
    at: move.start_at,
    until: move.end_at,
    move: t("plan.move", { angle: Math.round(move.to_deg) }),
    label: "",
    title: "",
    with: "",
  }));
  return [...work, ...moves].sort((a, b) => a.at.localeCompare(b.at));
});
const days = computed(() => {
  const found = new Map<string, Line[]>();
  for (const line of lines.value) {
    const day = dayText(line.at);
    found.set(day, [...(found.get(day) ?? []), line]);
  }
  return [...found];
});
</script>

<template>
  <section v-for="[day, rows] in days" :key="day" class="day">
    <h3 class="words">{{ day }}</h3>
    <ol>
      <li v-for="one in rows" :key="one.key" :class="{ move: one.move }">
        <span class="figure time" translate="no">{{
          [timeText(one.at), timeText(one.until)].join("–")
        }}</span>
        <strong v-if="one.move" class="words">{{ one.move }}</strong>
        <template v-else>
          <strong class="words" translate="no">{{ one.label }}</strong>
          <span translate="no">{{ one.title }}</span>
          <small class="muted" translate="no">{{ one.with }}</small>
        </template>
      </li>
    </ol>
  </section>
</template>

<style scoped>
h3 {
  font-size: var(--size-4);
  margin: 12px 0 2px;
}

ol {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  align-items: baseline;
  border-top: 1px solid var(--line);
  display: grid;
  gap: 2px 14px;
  grid-template-columns: 130px 110px minmax(0, 1fr) auto;
  padding: 6px 0;
}

.at-narrow li {
  grid-template-columns: 116px minmax(0, 1fr);
}

.at-narrow li > span:not(.time),
.at-narrow small {
  grid-column: 2;
}

.time {
  font-size: var(--size-1);
}

.move {
  border-left: 4px solid var(--now);
  margin-left: -12px;
  padding-left: 8px;
}

strong {
  font-size: var(--size-3);
}

small {
  font-size: var(--size-1);
}
</style>
