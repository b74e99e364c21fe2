<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import type { Answer, Call, ToolListed } from "@/api/types";
import CallHead from "@/components/bench/CallHead.vue";
import ToolChoice from "@/components/bench/ToolChoice.vue";
import NumberPad from "@/components/NumberPad.vue";

const props = defineProps<{ call: Call; busy: boolean; clockOffsetMs: number }>();
const emit = defineEmits<{ give: [answer: Answer]; draw: [tool: ToolListed]; sign: []; strikeLast: [] }>();
const { t } = useI18n();

const SYMBOLS: Record<string, string> = { degC: "°C", degF: "°F" };
const MAX_ENTRY = 12;
const entry = ref("");
const unitIndex = ref(0);
const nowMs = ref(Date.now());
const timer = setInterval(() => {
  nowMs.value = Date.now();
}, 250);
onBeforeUnmount(() => {
  clearInterval(timer);
});

const unit = computed(() => props.call.units[unitIndex.value] ?? "");
const AUTHORED = new Set(["confirm", "vent"]);
const doKey = computed(() => `call.${AUTHORED.has(props.call.kind) ? props.call.kind : props.call.item}.do`);
const secondsLeft = computed(() => {
  if (props.call.not_before === null) return 0;
  const left = new Date(props.call.not_before).getTime() - nowMs.value - props.clockOffsetMs;
  return Math.max(0, Math.ceil(left / 1000));
});

watch(
  () => `${props.call.cell}/${props.call.attempt}`,
  () => {
    entry.value = "";
    unitIndex.value = 0;
  },
);

function press(key: string): void {
  if (key === "wipe") entry.value = entry.value.slice(0, -1);
  else if (entry.value.length < MAX_ENTRY) entry.value += key;
}

/** The main act of the call. A deliberate one never comes from the space bar or a pedal. */
function main(): void {
  if (props.busy) return;
  switch (props.call.ask) {
    case "value":
      if (entry.value !== "") emit("give", { type: "value", text: entry.value, unit: unit.value });
      break;
    case "tick":
      emit("give", { type: "tick" });
      break;
    case "seen":
      emit("give", { type: "seen" });
      break;
    case "feeler":
      emit("give", { type: "feeler", enters: false });
      break;
    case "signature":
      emit("sign");
      break;
    case "tool":
      break;
  }
}

function onKey(event: KeyboardEvent): void {
  if (event.ctrlKey || event.altKey || event.metaKey) return;
  const target = event.target as HTMLElement;
  if (target.closest("input, textarea, .v-overlay")) return;
  if (document.querySelector(".v-dialog.v-overlay--active") !== null) return;
  const onControl = target.closest("button, a, [role=button]") !== null;
  if (event.key === " ") spaceBar(event, onControl);
  else if (props.call.ask === "value" && /^[\d.,+-]$/.test(event.key)) press(event.key);
  else if (event.key === "Enter" && props.call.ask === "value" && entry.value !== "") {
    // A typed reading goes first, wherever the focus is.
    event.preventDefault();
    main();
    event.stopPropagation();
  } else if (event.key === "Backspace") {
    if (entry.value === "") emit("strikeLast");
    else press("wipe");
  }
}

function spaceBar(event: KeyboardEvent, onControl: boolean): void {
  if (onControl && !props.call.deliberate) return;
  event.preventDefault();
  if (!props.call.deliberate && !event.repeat) main();
}

window.addEventListener("keydown", onKey, true);
onBeforeUnmount(() => {
  window.removeEventListener("keydown", onKey, true);
});
</script>

<template>
  <section class="call" :class="call.ask">
    <call-head :call="call" />
    <div class="foot">
      <tool-choice
        v-if="call.ask === 'tool' && call.tool_class"
        :tool-class="call.tool_class"
        @draw="(tool) => emit('draw', tool)"
      />
      <template v-if="call.ask === 'value'">
        <div class="entry">
          <output class="figure" :aria-label="t('bench.reading')">
            <span translate="no">{{ entry }}</span><span class="caret" aria-hidden="true" />
          </output>
          <button
            type="button"
            class="unit figure"
            :aria-label="t('ui.unit')"
            @click="unitIndex = (unitIndex + 1) % call.units.length"
          >
            <span translate="no">{{ SYMBOLS[unit] ?? unit }}</span>
          </button>
        </div>
        <number-pad :decimal="true" @press="press" />
      </template>
      <p v-if="call.not_before" class="hold figure" role="timer">
        {{ secondsLeft > 0 ? t("bench.to_go", { n: secondsLeft }) : t("bench.held") }}
      </p>
      <div v-if="call.ask === 'feeler'" class="pair">
        <v-btn class="main" @click="main">
          {{ t("call.feeler.stays_out") }}<span class="key">{{ t("bench.space") }}</span>
        </v-btn>
        <v-btn @click="emit('give', { type: 'feeler', enters: true })">{{ t("call.feeler.enters") }}</v-btn>
      </div>
      <v-btn v-else-if="call.ask !== 'tool'" class="main big" block @click="main">
        {{ t(doKey) }}
        <span v-if="!call.deliberate" class="key">{{
          t(call.ask === "value" ? "bench.enter" : "bench.space")
        }}</span>
      </v-btn>
    </div>
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

.foot {
  display: grid;
  gap: 8px;
  margin-top: auto;
}

.entry {
  display: grid;
  gap: 6px;
  grid-template-columns: 1fr 108px;
}

output {
  align-items: center;
  background: var(--ground);
  border: 2px solid var(--line-strong);
  display: flex;
  font-size: 38px;
  font-weight: 700;
  height: 64px;
  padding: 0 14px;
}

.caret {
  background: var(--now);
  height: 36px;
  margin-left: 4px;
  width: 3px;
}

.unit {
  background: var(--panel-2);
  border: 1px solid var(--line-strong);
  color: var(--ink);
  cursor: pointer;
  font-size: 23px;
}

.hold {
  font-size: 34px;
  margin: 0;
  text-align: center;
}

.pair {
  display: grid;
  gap: 10px;
}

.big,
.pair .v-btn {
  font-size: 28px;
  height: 72px !important;
}
</style>
