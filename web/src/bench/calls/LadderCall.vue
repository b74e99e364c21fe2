<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import type { Answer, Call } from "@/api/types";
import { useActions } from "@/bench/actions";
import { useBench } from "@/bench/store";
import { figureText, numberText } from "@/shared/format";

/** One pressure for all tools on the hose: it is raised step by step, and each nut is tapped as it comes free. */
const props = defineProps<{ call: Call; beside: readonly Call[] }>();
const emit = defineEmits<{ give: [answer: Answer, cell: string] }>();
const { t } = useI18n();
const actions = useActions();
const bench = useBench();
const ladder = computed(() => bench.view?.ladder ?? null);
const waiting = computed(() => props.beside.filter((one) => one.item === "free"));
/** Nobody raises the pressure while a nut that will not move waits for a decision. */
const held = computed(() => (bench.view?.stuck.length ?? 0) > 0);
/** A nut that is tapped now will not move. */
const sticking = ref(false);

function tap(call: Call): void {
  if (ladder.value === null) return;
  if (sticking.value) {
    sticking.value = false;
    const blade = props.call.details["blade"] ?? "";
    actions.dialog.value = { kind: "stuck", cell: call.cell, fastener: call.fastener ?? "", blade };
  } else emit("give", { type: "value", text: ladder.value.number, unit: ladder.value.unit }, call.cell);
}
</script>

<template>
  <div v-if="ladder && waiting.length > 0" class="ladder">
    <div class="gauge" :class="{ held }">
      <span class="words">{{ t("bench.ladder") }}</span>
      <b class="figure" translate="no">{{ figureText(ladder.now) }}</b>
      <span v-if="ladder.healthy" class="muted">{{
        t("bench.healthy", { p: figureText(ladder.healthy) })
      }}</span>
      <span class="column" aria-hidden="true"
        ><i :style="{ height: `${ladder.share * 100}%` }" /><em
          v-if="ladder.healthy_share"
          :style="{ bottom: `${ladder.healthy_share * 100}%` }"
      /></span>
    </div>
    <div v-if="!held" class="raise">
      <v-btn :disabled="!ladder.up_number" @click="actions.tryPressure(ladder.up_number ?? '')">{{
        t("bench.ladder_up", { step: `+${figureText(ladder.by)}` })
      }}</v-btn>
      <v-btn
        :disabled="!ladder.down_number"
        :aria-label="`−${figureText(ladder.by)}`"
        translate="no"
        @click="actions.tryPressure(ladder.down_number ?? '')"
        ><span translate="no">{{ `−${numberText(ladder.by.text)}` }}</span></v-btn
      >
      <v-btn class="stick" :aria-pressed="sticking" @click="sticking = !sticking">{{
        t("stuck.will_not")
      }}</v-btn>
    </div>
    <p class="words hint" role="status">
      <template v-if="sticking">{{ t("stuck.tap") }}</template>
      <template v-else-if="ladder.up || held">{{ t("bench.ladder_tap") }}</template>
      <template v-else>{{ t("bench.ladder_top", { p: figureText(ladder.ceiling) }) }}</template>
    </p>
    <div class="nuts">
      <v-btn v-for="one in waiting" :key="one.cell" class="nut" @click="tap(one)">
        <span translate="no">{{ one.fastener }}</span>
      </v-btn>
    </div>
  </div>
</template>

<style scoped>
.ladder {
  display: grid;
  gap: 8px;
}

.gauge {
  align-items: center;
  display: flex;
  font-size: var(--size-3);
  gap: 10px;
}

.gauge b {
  color: var(--paint);
  flex: 1;
  font-size: var(--size-7);
  white-space: nowrap;
}

.gauge.held b {
  font-size: var(--size-5);
}

.gauge.held .column {
  display: none;
}

.column {
  border: 1px solid var(--line-strong);
  height: 56px;
  position: relative;
  width: 26px;
}

.column i {
  background: var(--now);
  bottom: 0;
  left: 0;
  position: absolute;
  right: 0;
}

.column em {
  border-top: 2px solid var(--ink);
  left: -6px;
  position: absolute;
  right: -6px;
}

.raise {
  display: grid;
  gap: 8px;
  grid-template-columns: 5fr 2fr 3fr;
}

.hint {
  font-size: var(--size-3);
  margin: 0;
}

.nuts {
  display: grid;
  gap: 8px;
  grid-template-columns: repeat(4, 1fr);
}

.nut,
.raise .v-btn {
  font-size: var(--size-5);
  height: 64px !important;
  min-width: 0;
}

.raise .stick {
  font-size: var(--size-3);
  white-space: normal;
}

.raise .stick[aria-pressed="true"] {
  border-color: var(--now);
}
</style>
