<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { Call } from "@/api/types";
import { useActions } from "@/bench/actions";
import AnswerFoot from "@/bench/AnswerFoot.vue";
import NextCalls from "@/bench/NextCalls.vue";
import OtherHand from "@/bench/OtherHand.vue";
import CallHead from "@/bench/CallHead.vue";
import PhotoButton from "@/bench/PhotoButton.vue";
import { drawingOf } from "@/bench/calls";

/** One call, and the one place where an answer leaves for the run: what is asked, the picture its kind of step has, and the way the answer is given. */
const props = defineProps<{
  call: Call;
  calls?: readonly Call[];
  clockOffsetMs: number;
  refused?: boolean;
}>();
const actions = useActions();
const { t } = useI18n();
const standIn = computed(() => actions.standIn.value);
const body = computed(() => drawingOf(props.call.kind));
/** Calls of the same step that are open beside this one. */
const beside = computed(() => (props.calls ?? [props.call]).filter((one) => one.step === props.call.step));
/** A call that is confirmed leaves the middle free: there stands what comes after it. */
const roomy = computed(() => ["tick", "seen", "signature"].includes(props.call.ask) && !body.value);
/** The number pad leaves no room for facts beside cautions; the number asked for and its band stand above. */
const crowded = computed(() => props.call.ask === "value" && props.call.cautions.length > 0);
</script>

<template>
  <section class="call" :class="call.ask">
    <div class="said" role="group" tabindex="0" :aria-label="t('bench.said')">
      <call-head :call="call" />
      <component
        :is="body"
        v-if="body"
        :call="call"
        :beside="beside"
        :class="{ 'no-facts': crowded }"
        @give="actions.give"
      />
      <next-calls v-if="roomy" :call="call" />
    </div>
    <photo-button v-if="call.photograph || call.kind === 'inspect'" :cell="call.cell" :taken="call.photos" />
    <other-hand v-if="call.somebody_else && !standIn" :call="call" />
    <p v-if="standIn" class="in-name">
      {{ t("other.in_name", { name: standIn.name }) }}
      <v-btn @click="actions.standIn.value = null">{{ t("other.not") }}</v-btn>
    </p>
    <answer-foot
      v-if="!call.somebody_else || standIn"
      :call="call"
      :clock-offset-ms="clockOffsetMs"
      :refused="refused"
      @give="actions.give"
      @draw="actions.draw"
      @sign="actions.askSign"
      @strike-last="actions.strikeLast"
    />
  </section>
</template>

<style scoped>
.call {
  display: flex;
  flex: 1;
  flex-direction: column;
  gap: 10px;
  min-height: 0;
}

/* Words may scroll; the keys that answer never leave the screen. */
.said {
  display: flex;
  flex: 0 1 auto;
  flex-direction: column;
  gap: 10px;
  min-height: 0;
  overflow-y: auto;
}

.in-name {
  align-items: center;
  border-left: 5px solid var(--now);
  display: flex;
  flex: none;
  font-size: var(--size-3);
  gap: 10px;
  justify-content: space-between;
  margin: 0;
  padding-left: 10px;
}

.no-facts :deep(dl) {
  display: none;
}
</style>
