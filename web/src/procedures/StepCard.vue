<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { FoundFinding, ProposalRead, StepRead, Wordings } from "@/api/types";
import AuthorText from "@/procedures/AuthorText.vue";
import FindingLine from "@/procedures/FindingLine.vue";
import { numberText } from "@/shared/format";

const props = defineProps<{
  step: StepRead;
  number: number;
  findings: FoundFinding[];
  proposals: ProposalRead[];
  words: Wordings;
}>();
const { t } = useI18n();
const round = computed(() => (props.step.names.length > 12 ? [] : props.step.names));
</script>

<template>
  <li class="step">
    <span class="number figure" translate="no">{{ number }}</span>
    <div>
      <h2>
        <author-text :text="step.title" :words="words">
          <small>{{ t(`procedure.kind.${step.kind}`) }}</small>
        </author-text>
      </h2>
      <p v-if="step.why" class="why"><author-text :text="step.why" :words="words" /></p>
      <p v-if="step.facts.length > 0 || step.order" class="facts">
        <span v-for="(fact, k) in step.facts" :key="k" class="fact">
          {{ t(`procedure.fact.${fact.name}`) }}
          <b v-if="fact.codes.length > 0" class="figure">{{
            fact.codes.map((code) => t(`procedure.code.${code}`)).join(", ")
          }}</b>
          <b v-else-if="fact.text !== ''" class="figure" translate="no">{{ numberText(fact.text) }}</b>
        </span>
        <span v-if="step.order" class="fact">
          {{ t("procedure.fact.order") }}
          <b class="figure" translate="no">{{ round.length > 0 ? round.join(" – ") : step.order }}</b>
        </span>
      </p>
      <ul v-if="step.points.length > 0">
        <li v-for="(point, k) in step.points" :key="k"><author-text :text="point" :words="words" /></li>
      </ul>
      <p v-for="(caution, k) in step.cautions" :key="k" class="caution">
        <author-text :text="caution" :words="words" />
      </p>
      <finding-line v-for="(finding, k) in findings" :key="k" :finding="finding" />
      <p v-for="(one, k) in proposals" :key="k" class="proposal">
        {{ t(`proposal.${one.seems}`, { text: one.text }) }}
      </p>
    </div>
  </li>
</template>

<style scoped>
.step {
  border-top: 1px solid var(--line);
  display: grid;
  gap: 0 14px;
  grid-template-columns: 34px 1fr;
  padding: 9px 0 10px;
}

.number {
  border: 1.5px solid var(--ink);
  font-size: var(--size-2);
  height: 30px;
  line-height: 27px;
  text-align: center;
}

h2 {
  font-size: var(--size-4);
  line-height: 30px;
}

h2 small {
  color: var(--muted);
  font-size: var(--size-2);
  font-weight: 500;
  margin-left: 8px;
}

.why {
  color: var(--muted);
  font-size: var(--size-1);
  margin: 0;
}

.facts {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 18px;
  margin: 1px 0 0;
}

.fact {
  color: var(--muted);
  font-size: var(--size-1);
}

.fact b {
  color: var(--ink);
  font-size: var(--size-2);
  font-weight: 400;
}

ul {
  font-size: var(--size-1);
  line-height: 1.4;
  margin: 3px 0 0;
  padding-left: 18px;
}

.proposal {
  border-left: 5px dotted var(--muted);
  font-size: var(--size-1);
  line-height: 1.35;
  margin: 6px 0;
  padding-left: 9px;
}

.caution {
  border-left: 5px solid var(--now);
  font-size: var(--size-1);
  line-height: 1.3;
  margin: 5px 0 0;
  padding-left: 9px;
}
</style>
