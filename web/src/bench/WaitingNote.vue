<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import { answerWords } from "@/bench/answers";
import { problemText } from "@/shared/problem";
import { useBench } from "@/bench/store";
import type { Parcel } from "@/shared/tabletDisk";
import { useOutbox } from "@/shared/outbox";

/** What was pressed here and is not on the server yet: kept, not sent, not judged. */
const SHOWN = 3;
const i18n = useI18n();
const { t } = i18n;
const bench = useBench();
const outbox = useOutbox();

const fasteners = computed(() => {
  const cells = (bench.view?.ribbon ?? []).flatMap((row) => row.cells);
  return new Map(cells.map((cell) => [cell.cell, cell.fastener]));
});
function line(command: Parcel["command"]): { fastener: string; said: string } {
  const fastener = "cell" in command ? (fasteners.value.get(command.cell ?? "") ?? "") : "";
  if (command.kind === "record") return { fastener, said: answerWords(i18n, command.answer) };
  if (command.kind === "strike") return { fastener, said: t("bench.waiting_struck") };
  if (command.kind === "note") return { fastener, said: command.text };
  if (command.kind === "picture") return { fastener, said: t("bench.photo") };
  return { fastener, said: t("bench.waiting_command") };
}
const newest = computed(() =>
  bench.waiting
    .slice(-SHOWN)
    .reverse()
    .map((one) => ({ n: one.n, ...line(one.command) })),
);
const others = computed(() => {
  const names = new Map<string, number>();
  for (const one of outbox.others) {
    if (one.run === bench.runId) names.set(one.personName, (names.get(one.personName) ?? 0) + 1);
  }
  return Array.from(names);
});
</script>

<template>
  <section
    class="note waits"
    role="status"
    :aria-label="t('bench.waiting_title', { n: bench.waiting.length })"
  >
    <template v-if="bench.offline">
      <p class="words head">
        {{ t("bench.waiting_title", { n: bench.waiting.length }) }}
        <v-btn :disabled="outbox.sending" @click="bench.sendWaiting">{{ t("bench.waiting_send") }}</v-btn>
      </p>
      <ul>
        <li v-for="one in newest" :key="one.n">
          <b v-if="one.fastener" class="figure" translate="no">{{ one.fastener }}</b>
          <span class="figure" translate="no">{{ one.said }}</span>
        </li>
        <li v-if="bench.waiting.length > newest.length" class="muted">
          {{ t("bench.waiting_more", { n: bench.waiting.length - newest.length }) }}
        </li>
      </ul>
      <p v-if="outbox.trouble" class="why stop">{{ problemText(i18n, outbox.trouble) }}</p>
      <p class="why">{{ t(outbox.keepsNothing ? "bench.waiting_full" : "bench.waiting_text") }}</p>
      <p v-if="bench.mustWait" class="why stop" role="alert">{{ t("bench.must_wait") }}</p>
    </template>
    <i18n-t
      v-for="[name, n] in others"
      :key="name"
      keypath="bench.waiting_others"
      scope="global"
      tag="p"
      class="why"
    >
      <template #n>{{ n }}</template>
      <template #name
        ><span translate="no">{{ name }}</span></template
      >
    </i18n-t>
  </section>
</template>

<style scoped>
.head {
  align-items: center;
  display: flex;
  justify-content: space-between;
}

.head .v-btn {
  font-size: var(--size-3);
  height: 48px !important;
}

ul {
  display: flex;
  flex-wrap: wrap;
  font-size: var(--size-3);
  gap: 2px 18px;
  list-style: none;
  margin: 4px 0;
  padding: 0;
}

li {
  display: flex;
  gap: 7px;
}

.stop {
  color: var(--doubt);
  font-weight: 700;
}
</style>
