<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { Call } from "@/api/types";
import { useBench } from "@/bench/store";
import { useWords } from "@/bench/words";

/** What comes after a call, as far as a hand reaches ahead: the next tool, the next nut, the step after it. */
const props = defineProps<{ call: Call }>();
const { t } = useI18n();
const bench = useBench();
const words = useWords();
const AHEAD = 3;

const next = computed(() => {
  const cells = (bench.view?.ribbon ?? []).flatMap((row) =>
    row.cells.map((cell) => ({ ...cell, step: row.step, title: row.title })),
  );
  const here = cells.findIndex((cell) => cell.cell === props.call.cell);
  const after = here < 0 ? [] : cells.slice(here + 1).filter((cell) => cell.state === "todo");
  return after.slice(0, AHEAD).map((cell) => ({
    key: cell.cell,
    title: cell.step === props.call.step ? "" : cell.title,
    what: cell.text ?? words.item(cell.item),
    fastener: cell.fastener ?? "",
  }));
});
</script>

<template>
  <section v-if="next.length > 0" class="next" :aria-label="t('bench.then')">
    <p class="words muted">{{ t("bench.then") }}</p>
    <ol class="plain">
      <li v-for="one in next" :key="one.key">
        <b v-if="one.title" class="words" translate="no">{{ one.title }}</b>
        <span translate="no">{{ one.what }}</span>
        <span class="figure" translate="no">{{ one.fastener }}</span>
      </li>
    </ol>
  </section>
</template>

<style scoped>
.next {
  border-top: 1px solid var(--line);
  color: var(--muted);
  font-size: var(--size-2);
  margin-top: 8px;
  padding-top: 8px;
}

p {
  margin: 0;
}

li {
  display: flex;
  flex-wrap: wrap;
  gap: 0 8px;
  padding: 3px 0;
}

.at-narrow .next,
.large .next {
  display: none;
}
</style>
