<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import ChoiceField from "@/shared/ChoiceField.vue";
import TimeField from "@/shared/TimeField.vue";
import { localTime, weekdayText } from "@/shared/format";

/**
 * A moment: one of the days that may be meant, by its weekday, and a time on the 24-hour clock.
 *
 * Held as a tablet's own clock has it, `2026-03-02T16:30`; empty where either is missing.
 */
const { label, past = 0, ahead = 0 } = defineProps<{ label: string; past?: number; ahead?: number }>();
const model = defineModel<string>({ required: true });
const { t } = useI18n();

const today = localTime(new Date()).slice(0, 10);
const day = ref(model.value.slice(0, 10) || today);
const clock = ref(model.value.slice(11));
function dayOf(value: string): { value: string; title: string } {
  const words = weekdayText(new Date(`${value}T12:00`));
  return { value, title: value === today ? t("moment.today", { day: words }) : words };
}
/** The days around today, the nearest first, and the one that stands there already. */
const days = computed(() => {
  const around = Array.from({ length: past + ahead + 1 }, (_, k) => {
    const at = new Date();
    at.setDate(at.getDate() + (ahead > 0 ? k - past : ahead - k));
    return localTime(at).slice(0, 10);
  });
  return (around.includes(day.value) ? around : [day.value, ...around]).map(dayOf);
});
watch(model, (now) => {
  if (now === "") return;
  [day.value, clock.value] = [now.slice(0, 10), now.slice(11)];
});
watch([day, clock], () => {
  model.value = clock.value === "" ? "" : `${day.value}T${clock.value}`;
});
</script>

<template>
  <fieldset class="moment" :aria-label="label">
    <choice-field v-model="day" :label="label" :items="days" />
    <time-field v-model="clock" :label="t('moment.clock')" />
  </fieldset>
</template>

<style scoped>
.moment {
  border: 0;
  display: grid;
  gap: 10px;
  grid-template-columns: minmax(0, 3fr) minmax(120px, 2fr);
  margin: 0;
  min-width: 0;
  padding: 0;
}

/* Among other fields it takes the room of two. */
html:not(.at-phone) .moment {
  grid-column: span 2;
}
</style>
