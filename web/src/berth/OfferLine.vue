<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { Barrier, Offer } from "@/api/types";

/** A procedure for a joint: whether it may be started, what stands in its way and leads there, what it puts right. */
const props = defineProps<{ offer: Offer; mayStart: boolean; mayDepart: boolean }>();
defineEmits<{ start: []; go: [joint: string]; depart: [] }>();
const { t } = useI18n();
const ready = computed(() => props.offer.when === "now" && props.offer.barriers.length === 0);
const departable = computed(
  () => props.mayDepart && props.offer.barriers.length > 0 && props.offer.barriers.every((b) => b.departable),
);

/** One line a joint: what cannot be let be goes first. */
const shown = computed(() => {
  const first = new Map<string, Barrier>();
  const hardest = [...props.offer.barriers].sort((a, b) => Number(a.departable) - Number(b.departable));
  for (const barrier of hardest) if (!first.has(barrier.joint)) first.set(barrier.joint, barrier);
  return [...first.values()];
});

const conditions = (list: readonly string[]): string =>
  (list.length === 0 ? ["unknown"] : list).map((one) => t(`condition.${one}`)).join(", ");
function words(barrier: Barrier): string {
  return t(`engine.barrier.${barrier.why}`, {
    other: barrier.label,
    stands: conditions(barrier.stands),
    wanted: conditions(barrier.wanted),
    reason: barrier.reason,
  });
}
</script>

<template>
  <div class="offer" :class="offer.when">
    <v-btn v-if="ready && mayStart" class="main wide" @click="$emit('start')">
      <i18n-t keypath="berth.start" scope="global">
        <template #title
          ><span translate="no">&nbsp;{{ offer.title }}, {{ offer.revision }}</span></template
        >
      </i18n-t>
    </v-btn>
    <p v-else class="title words">
      <span translate="no">{{ offer.title }}, {{ offer.revision }}</span>
      <small v-if="offer.when !== 'now'">{{
        t(offer.when === "done" ? "berth.done_here" : "berth.later")
      }}</small>
    </p>
    <p v-if="offer.pays.length > 0" class="muted">
      <i18n-t keypath="berth.pays" scope="global">
        <template #what
          ><span translate="no">{{ offer.pays.join(", ") }}</span></template
        >
      </i18n-t>
    </p>
    <button
      v-for="barrier in shown"
      :key="barrier.joint"
      class="barrier"
      type="button"
      @click="$emit('go', barrier.joint)"
    >
      {{ words(barrier) }}
    </button>
    <v-btn v-if="departable" @click="$emit('depart')">{{ t("berth.depart") }}</v-btn>
  </div>
</template>

<style scoped>
.offer {
  border-top: 1px solid var(--line);
  display: grid;
  gap: 6px;
  padding: 8px 0;
}

.title {
  display: flex;
  font-size: var(--size-4);
  justify-content: space-between;
  margin: 0;
}

.later .title,
.done .title {
  color: var(--muted);
  font-size: var(--size-3);
}

p {
  margin: 0;
}

.barrier {
  background: none;
  border: 0;
  border-left: 5px solid var(--out);
  color: var(--ink);
  cursor: pointer;
  font: inherit;
  min-height: var(--touch);
  padding: 4px 10px;
  text-align: left;
  text-decoration: underline;
  text-decoration-color: var(--line-strong);
  text-underline-offset: 4px;
}

.wide {
  height: auto !important;
  min-height: 64px;
  padding: 8px 16px;
  text-align: left;
  white-space: normal;
}

.wide :deep(.v-btn__content) {
  white-space: normal;
}
</style>
