<script setup lang="ts">
import { computed, watch } from "vue";
import { useI18n } from "vue-i18n";
import { api, answerOf } from "@/api/client";
import type { Call, PersonListed } from "@/api/types";
import { useActions } from "@/bench/actions";
import { useBench } from "@/bench/store";
import { useAsking } from "@/shared/acting";
import PeopleKeys from "@/shared/PeopleKeys.vue";
import ProblemNote from "@/shared/ProblemNote.vue";

/** A call that whoever is signed in may not answer: who may, and a key for each of them to do it here. */
const props = defineProps<{ call: Call }>();
const { t } = useI18n();
const actions = useActions();
const bench = useBench();
const able = useAsking<PersonListed[]>();
const why = computed(() => {
  const other = props.call.somebody_else;
  return other === null ? "" : t(`other.${other.why}`, { who: t(`by_rank.${other.rank}`) });
});

watch(
  () => `${bench.runId ?? ""} ${props.call.cell}`,
  () => {
    const params = { path: { run_id: bench.runId ?? "" }, query: { cell: props.call.cell } };
    void able.ask(() => answerOf(api.GET("/api/runs/{run_id}/able", { params })));
  },
  { immediate: true },
);
</script>

<template>
  <section class="other" :aria-label="t('other.head')">
    <p class="why">{{ why }}</p>
    <p v-if="bench.offline" class="muted">{{ t("other.offline") }}</p>
    <template v-else>
      <problem-note :problem="able.problem.value" :unsent="able.unsent.value" />
      <p v-if="able.answer.value?.length === 0" class="muted">{{ t("other.nobody") }}</p>
      <template v-else>
        <p class="muted">{{ t("other.here") }}</p>
        <people-keys :people="able.answer.value ?? []" @pick="actions.standInFor" />
      </template>
    </template>
  </section>
</template>

<style scoped>
.other {
  border-top: 1px solid var(--line);
  display: grid;
  flex: none;
  gap: 8px;
  margin-top: auto;
  padding-top: 10px;
}

.other p {
  margin: 0;
}

.why {
  font-size: var(--size-4);
}
</style>
