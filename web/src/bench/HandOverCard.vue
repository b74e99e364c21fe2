<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import { counted } from "@/shared/problem";
import type { HandOver } from "@/api/types";
import { useWords } from "@/bench/words";
import { dayTimeText, figureText } from "@/shared/format";

/** The card: last certain fastener, next call, paint, debts, what grows old, who did what. */
const props = defineProps<{ card: HandOver }>();
const i18n = useI18n();
const { t } = i18n;
const words = useWords();
const owed = computed(() => words.owed(props.card.owed));
</script>

<template>
  <dl class="card-lines">
    <dt>{{ t("handover.last") }}</dt>
    <dd v-if="card.last">
      <span translate="no">{{ card.last.title }}</span>
      <b v-if="card.last.fastener">{{ t(`bench.${card.last.noun}`, { name: card.last.fastener }) }}</b>
      <span class="figure" translate="no">{{ figureText(card.last.judged ?? card.last.read) }}</span>
      <span class="muted" translate="no">{{ card.last.by }}, {{ dayTimeText(card.last.at) }}</span>
    </dd>
    <dd v-else>{{ t("handover.last_none") }}</dd>
    <dt>{{ t("handover.next") }}</dt>
    <dd v-if="card.next">
      <span translate="no">{{ card.next.title }}</span>
      <b v-if="card.next.fastener" translate="no">{{ card.next.fastener }}</b>
      <span v-if="card.next.worded" translate="no">{{ card.next.text }}</span>
      <span v-else>{{ words.item(card.next.item) }}</span>
    </dd>
    <dd v-else>{{ t("handover.next_none") }}</dd>
    <dt>{{ t("handover.paints") }}</dt>
    <dd v-if="card.paints.length === 0">{{ t("handover.paints_none") }}</dd>
    <dd v-for="(paint, k) in card.paints" :key="paint.title" class="paint">
      <span class="strokes" aria-hidden="true"><i v-for="n in k + 1" :key="n" /></span>
      <b translate="no">{{ paint.title }}</b>
      <span v-if="paint.mark" translate="no">{{ paint.mark }}</span>
      <span
        >{{ t("handover.on") }} <span class="figure" translate="no">{{ paint.on.join(" ") }}</span></span
      >
      <span v-if="paint.missing.length > 0"
        >{{ t("handover.missing") }}
        <span class="figure" translate="no">{{ paint.missing.join(" ") }}</span></span
      >
      <em v-if="paint.wipe">{{ t("handover.wipe") }}</em>
    </dd>
    <dt>{{ t("handover.owed") }}</dt>
    <dd>{{ owed.length === 0 ? t("bench.owed_none") : owed.join(" · ") }}</dd>
    <template v-if="card.carried.length > 0">
      <dt>{{ t("handover.carried") }}</dt>
      <dd translate="no">{{ card.carried.join(" · ") }}</dd>
    </template>
    <template v-if="card.ageing.length > 0">
      <dt>{{ t("handover.ageing") }}</dt>
      <dd v-for="one in card.ageing" :key="one.title">
        <span translate="no">{{ one.title }}</span>
        <em v-if="one.over">{{ t("handover.over") }}</em>
        <i18n-t v-else keypath="handover.until" scope="global" tag="span">
          <template #at
            ><span translate="no">{{ dayTimeText(one.good_until) }}</span></template
          >
        </i18n-t>
      </dd>
    </template>
    <dt>{{ t("handover.shares") }}</dt>
    <dd v-for="share in card.shares" :key="share.by">
      <b translate="no">{{ share.by }}</b>
      <span>{{ counted(i18n, "handover.share", { n: share.readings }) }}</span>
      <span class="muted" translate="no">{{ share.steps[0] }} … {{ share.steps.at(-1) }}</span>
    </dd>
  </dl>
</template>

<style scoped>
.card-lines {
  display: grid;
  font-size: var(--size-3);
  gap: 4px 18px;
  grid-template-columns: 150px 1fr;
  margin: 0;
  max-height: 56vh;
  overflow-y: auto;
}

dt {
  color: var(--muted);
  font-family: var(--words);
  font-size: var(--size-3);
  grid-column: 1;
}

dd {
  align-items: baseline;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  grid-column: 2;
  margin: 0;
}

dd + dd {
  border-top: 1px solid var(--line);
  padding-top: 4px;
}

em {
  color: var(--doubt);
  font-style: normal;
  font-weight: 600;
}

.strokes {
  align-items: center;
  display: inline-flex;
  gap: 3px;
  height: 16px;
  width: 46px;
}

.strokes i {
  background: var(--paint);
  height: 16px;
  transform: rotate(18deg);
  width: 4px;
}
</style>
