<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { Call } from "@/api/types";
import { figureText, numberText } from "@/shared/format";
import { named } from "@/shared/problem";

const props = defineProps<{ call: Call }>();
const i18n = useI18n();
const { t } = i18n;

const key = computed(() => {
  if (props.call.worded) return `worded.${props.call.kind}`;
  const item = props.call.item.split(":")[0] ?? "";
  return i18n.te(`call.${item}.head`) ? `call.${item}` : "call.worded";
});
const head = computed(() => {
  const name = props.call.fastener;
  if (name === null && i18n.te(`${key.value}.head_joint`)) return t(`${key.value}.head_joint`);
  return t(`${key.value}.head`, { fastener: name ?? "", noun: t(`noun.${props.call.noun}`) });
});
const ask = computed(() =>
  props.call.worded ? null : t(`${key.value}.ask`, { text: props.call.text ?? "" }),
);
const band = computed(() => {
  const { lower, upper } = props.call;
  if (lower && upper)
    return { word: "", text: `${numberText(lower.text)} … ${numberText(upper.text)} ${upper.unit}` };
  if (upper) return { word: t("bench.at_most"), text: figureText(upper) };
  return lower ? { word: t("bench.at_least"), text: figureText(lower) } : null;
});
const faultText = computed(() => {
  const fault = props.call.fault;
  return fault === null ? "" : t(`refusal.${fault.code}`, named(i18n, `refusal.${fault.code}`, fault.params));
});
/** The author's words once more, for whoever reads the second language of the document. */
const also = (text: string | null): string | undefined => {
  // A call that a tablet kept from before there were any has none.
  const told = props.call.also as Call["also"] | undefined;
  return text === null ? undefined : told?.[text];
};
/** On the ladder the expected pressure is a mark, not a target. */
const big = computed(() => (props.call.laddered ? null : (props.call.computed ?? props.call.figure)));
</script>

<template>
  <header :class="{ roomy: call.ask !== 'value' }">
    <p class="where words muted">
      <span translate="no"
        >{{ call.title }}<template v-if="also(call.title)"> · {{ also(call.title) }}</template></span
      >
      <span class="figure" translate="no">{{ call.done }}/{{ call.total }}</span>
    </p>
    <h1 :key="call.cell" aria-live="polite">{{ head }}</h1>
    <p v-if="big" class="big figure">
      <span translate="no">{{ numberText(big.text) }}</span><small
        :class="{ close: big.unit === '°' }"
        translate="no"
        >{{ big.unit }}</small
      ><em v-if="call.as_stretch" class="words">{{ t("bench.as_stretch") }}</em>
    </p>
    <p v-if="band" class="band">
      <span class="words muted">{{ t("bench.band") }} {{ band.word }}</span>
      <span class="figure" translate="no">{{ band.text }}</span>
    </p>
    <p v-if="call.stated && call.tool" class="band stated">
      <span class="words muted">
        <i18n-t keypath="bench.on_tool" scope="global">
          <template #tool
            ><span translate="no">{{ call.tool }}</span></template
          >
        </i18n-t>
      </span>
      <span class="figure" translate="no">{{ figureText(call.stated) }}</span>
    </p>
    <p v-if="call.own?.figure" class="band own">
      <span class="words muted">{{ t("bench.own") }}</span>
      <span class="figure" translate="no"
        >{{ figureText(call.own.figure)
        }}<template v-if="call.own.lower && call.own.upper">
          ({{ numberText(call.own.lower.text) }} … {{ numberText(call.own.upper.text) }})</template
        ></span
      >
    </p>
    <p v-if="call.worded" class="ask authored" translate="no">{{ call.text }}</p>
    <p v-else class="ask">{{ ask }}</p>
    <p v-if="also(call.text)" class="ask also" translate="no">{{ also(call.text) }}</p>
    <p v-if="call.fault" class="why fault" role="alert">{{ t("bench.cannot_work_out") }} {{ faultText }}</p>
    <p v-if="call.why" class="why" translate="no">{{ call.why }}</p>
    <p v-if="also(call.why)" class="why also" translate="no">{{ also(call.why) }}</p>
    <p v-if="call.details['used']" class="why">{{ t("bench.used", { n: call.details["used"] }) }}</p>
    <ul v-if="call.sees.length > 0" class="sees">
      <li v-for="what in call.sees" :key="what" translate="no">
        {{ what }}<template v-if="also(what)"> · {{ also(what) }}</template>
      </li>
    </ul>
    <p v-if="call.signed_by" class="muted">
      {{ t("bench.signed_by", { who: t(`by_rank.${call.signed_by}`) }) }}
    </p>
    <p v-if="call.confirmed_by && call.confirmed_by !== 'mechanic'" class="muted">
      {{ t("bench.confirmed_by", { who: t(`by_rank.${call.confirmed_by}`) }) }}
    </p>
    <p v-for="caution in call.cautions" :key="caution" class="caution">
      <svg viewBox="0 0 24 24" aria-hidden="true">
        <path d="M12 3 L22 21 H2 Z M12 10 V15 M12 17.5 V18.5" />
      </svg>
      <span translate="no"
        >{{ caution }}<template v-if="also(caution)"><br />{{ also(caution) }}</template></span
      >
    </p>
  </header>
</template>

<style scoped>
p {
  margin: 0;
}

.where {
  display: flex;
  font-size: var(--size-3);
  justify-content: space-between;
}

.where .figure {
  font-size: var(--size-2);
}

h1 {
  font-size: var(--size-6);
}

.big {
  color: var(--paint);
  font-size: var(--size-8);
  font-weight: 700;
  letter-spacing: -1px;
  line-height: 1.12;
}

.big small {
  font-size: var(--size-5);
  font-weight: 400;
  margin-left: 12px;
}

.big small.close {
  font-size: var(--size-7);
  margin-left: 2px;
}

.big em {
  color: var(--muted);
  font-size: var(--size-4);
  font-style: normal;
  letter-spacing: 0;
  margin-left: 12px;
}

.roomy .ask:not(.authored) {
  font-size: var(--size-4);
}

.roomy .caution {
  font-size: var(--size-3);
}

.band {
  align-items: baseline;
  display: flex;
  font-size: var(--size-3);
  gap: 10px;
}

.stated .figure {
  color: var(--muted);
}

.ask {
  font-size: var(--size-3);
  margin-top: 6px;
}

.why {
  color: var(--muted);
  font-size: var(--size-2);
  margin-top: 4px;
}

.authored {
  font-family: var(--words);
  font-size: var(--size-6);
  font-weight: 600;
  line-height: 1.2;
  margin: 12px 0;
}

.sees {
  font-size: var(--size-3);
  padding-left: 22px;
}

.caution {
  border-left: 5px solid var(--doubt);
  display: flex;
  font-size: var(--size-2);
  gap: 9px;
  line-height: 1.3;
  margin-top: 7px;
  padding: 2px 0 2px 9px;
}

.caution svg {
  flex: none;
  height: 20px;
  width: 20px;
}

.caution path {
  fill: none;
  stroke: var(--doubt);
  stroke-width: 2.2;
}
</style>
