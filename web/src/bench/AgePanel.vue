<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { AgeView } from "@/api/types";
import { useActions } from "@/bench/actions";
import NeedsTag from "@/shared/NeedsTag.vue";

/** Something past its time that the next call relies on: it stands in place of the call until it is answered. */
const props = defineProps<{ age: AgeView }>();
const { t } = useI18n();
const actions = useActions();
const span = (minutes: number): string => {
  const parts = { h: Math.floor(minutes / 60), min: minutes % 60, n: minutes };
  if (minutes < 100) return t("ages.minutes", parts);
  return t(parts.min === 0 ? "ages.whole_hours" : "ages.hours", parts);
};
const answer = (good: boolean): void =>
  void actions.answerAge(props.age.step, good, t(good ? "ages.good_words" : "ages.again_words"));
</script>

<template>
  <section class="aged" :aria-label="t('ages.title')">
    <p class="words muted">{{ t("ages.title") }}</p>
    <h1 translate="no">{{ age.title }}</h1>
    <p class="old words">{{ t("ages.old", { age: span(age.minutes) }) }}</p>
    <p class="limit">{{ t("ages.limit", { limit: span(age.limit_minutes) }) }}</p>
    <p class="why">{{ t(age.only_again ? "ages.why_again" : "ages.why_look") }}</p>
    <div class="ways">
      <v-btn v-if="age.only_again" @click="actions.dialog.value = { kind: 'depart', step: age.step }"
        >{{ t("ages.depart") }}<needs-tag act="accept"
      /></v-btn>
      <v-btn :class="{ main: age.only_again }" @click="answer(false)">{{ t("ages.again") }}</v-btn>
      <v-btn v-if="!age.only_again" class="main" @click="answer(true)">{{ t("ages.good") }}</v-btn>
    </div>
  </section>
</template>

<style scoped>
.aged {
  display: flex;
  flex: 1;
  flex-direction: column;
  gap: 8px;
}

p {
  margin: 0;
}

h1 {
  font-size: var(--size-6);
}

.old {
  color: var(--doubt);
  font-size: var(--size-7);
  font-weight: 600;
}

.limit {
  font-size: var(--size-4);
}

.why {
  font-size: var(--size-4);
  margin-top: 10px;
}

.ways {
  display: grid;
  gap: 10px;
  margin-top: auto;
}

.ways .v-btn {
  font-size: var(--size-5);
  height: 72px !important;
}
</style>
