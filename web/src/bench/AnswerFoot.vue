<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import type { Answer, Call, ToolNow } from "@/api/types";
import ChoiceFoot from "@/bench/ChoiceFoot.vue";
import PullFoot from "@/bench/PullFoot.vue";
import ToolChoice from "@/bench/ToolChoice.vue";
import NumberPad from "@/shared/NumberPad.vue";
import { numberText, unitText } from "@/shared/format";

/** The one place where an answer comes in: by key, pedal, touch, later by a device. */
const props = defineProps<{ call: Call; clockOffsetMs: number; refused?: boolean }>();
const emit = defineEmits<{ give: [answer: Answer]; draw: [tool: ToolNow]; sign: []; strikeLast: [] }>();
const i18n = useI18n();
const { t } = i18n;

const MAX_ENTRY = 12;
const TYPED = new Set(["value", "count"]);
/** Calls that are usually answered without a number open the pad only when somebody wants it. */
const ON_WISH = new Set(["pull", "turn"]);
const entry = ref("");
const written = ref("");
const bites = ref<string[]>([]);
const unitIndex = ref(0);
const howFar = ref(false);
const nowMs = ref(Date.now());
const timer = setInterval(() => {
  nowMs.value = Date.now();
}, 250);
onBeforeUnmount(() => {
  clearInterval(timer);
});

const unit = computed(() => props.call.units[unitIndex.value] ?? "");
const unitWord = computed(() => (unit.value === "flats" ? t("bench.flats") : unitText(unit.value)));
const laddered = computed(() => props.call.laddered);
const onWish = computed(() => ON_WISH.has(props.call.ask) || laddered.value);
const typing = computed(
  () => (TYPED.has(props.call.ask) && !laddered.value) || (onWish.value && howFar.value),
);
/** A typed answer is taken beside its digits; a pull or a turn keeps its own keys. */
const besidePad = computed(() => typing.value && props.call.ask !== "pull" && props.call.ask !== "turn");
const itemWord = computed(() => props.call.item.split(":")[0] ?? "");
const doWord = computed(() => {
  if (props.call.worded && i18n.te(`worded.${props.call.kind}.do`)) return t(`worded.${props.call.kind}.do`);
  return i18n.te(`call.${itemWord.value}.do`) ? t(`call.${itemWord.value}.do`) : t("call.worded.do");
});
const secondsLeft = computed(() => {
  if (props.call.not_before === null) return 0;
  const left = new Date(props.call.not_before).getTime() - nowMs.value - props.clockOffsetMs;
  return Math.max(0, Math.ceil(left / 1000));
});

watch(
  () => `${props.call.cell}/${props.call.attempt}`,
  () => {
    entry.value = "";
    written.value = "";
    bites.value = [];
    unitIndex.value = 0;
    howFar.value = false;
  },
);

/** An entry that was refused stays to be read; the next digit begins another. */
let stale = false;
watch(
  () => props.refused,
  (refused) => {
    stale = refused;
  },
);

function press(key: string): void {
  if (stale && key !== "wipe") entry.value = "";
  stale = false;
  if (key === "wipe") entry.value = entry.value.slice(0, -1);
  else if (key === "-") entry.value = entry.value.startsWith("-") ? entry.value.slice(1) : `-${entry.value}`;
  else if (entry.value.length < MAX_ENTRY) entry.value += key;
}

/** How readings began at the points before, in the unit that is typed; offered while nothing stands there. */
const starts = computed(() => {
  // A call that a tablet kept from before these were offered has none.
  const offered = props.call.starts as Call["starts"] | undefined;
  return entry.value === "" ? (offered?.[unit.value] ?? []) : [];
});
const startText = (start: string): string => numberText(`${start}0`).slice(0, -1);
const setTo = computed(() => (entry.value === "" && besidePad.value ? props.call.set_to : null));
function stands(): void {
  if (setTo.value !== null) emit("give", { type: "value", ...setTo.value });
}

/** A bite is kept on the call until the fastener's angle is given whole. */
function addBite(): void {
  if (entry.value === "") return;
  bites.value.push(entry.value);
  entry.value = "";
}
const inDegrees = (text: string): number => {
  const number = Number(text.replace(",", "."));
  return unit.value === "flats" ? number * (props.call.flat_deg ?? NaN) : number;
};
const sum = computed(() =>
  [...bites.value, entry.value].filter(Boolean).reduce((s, b) => s + inDegrees(b), 0),
);

function giveTurn(): void {
  if (entry.value !== "") addBite();
  // One touch says that the marks stand together; it is no measured angle.
  if (bites.value.length === 0) emit("give", { type: "turn", bites: [], unit: "deg", to_mark: true });
  else emit("give", { type: "turn", bites: bites.value, unit: unit.value, to_mark: false });
}

function givePull(outcome: "moved" | "still" | "broken_off" | "turned_on"): void {
  const moved = outcome === "moved" && entry.value !== "" ? entry.value : null;
  emit("give", { type: "pull", outcome, moved, unit: unit.value || "deg" });
}

/** The main act of the call. A deliberate one never comes from the space bar or a pedal. */
function main(): void {
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
    case "words":
      if (written.value.trim() !== "") emit("give", { type: "words", text: written.value.trim() });
      break;
    case "count":
      if (/^\d+$/.test(entry.value)) emit("give", { type: "count", count: Number(entry.value) });
      break;
    case "pull":
      if (!howFar.value || entry.value !== "")
        givePull(props.call.stillness && !howFar.value ? "still" : "moved");
      break;
    case "turn":
      giveTurn();
      break;
    case "signature":
      emit("sign");
      break;
    case "feeler":
    case "tool":
    case "choice":
      break;
  }
}

/** Two answers of which neither is the usual one: they keep their places, and no pedal gives either. */
function giveBlade(enters: boolean): void {
  emit("give", { type: "feeler", enters });
}

function onKey(event: KeyboardEvent): void {
  if (event.ctrlKey || event.altKey || event.metaKey) return;
  const target = event.target as HTMLElement;
  if (target.closest("input, textarea, .v-overlay")) return;
  if (document.querySelector(".v-dialog.v-overlay--active") !== null) return;
  const onControl = target.closest("button, a, [role=button]") !== null;
  if (event.key === " ") spaceBar(event, onControl);
  else if (props.call.ask === "feeler" && /^[-+]$/.test(event.key)) giveBlade(event.key === "+");
  else if (typing.value && /^[\d.,+-]$/.test(event.key)) press(event.key);
  else if (event.key === "*" && starts.value[0] !== undefined) press(starts.value[0]);
  else if (event.key === "=" && !event.repeat && !props.call.deliberate) stands();
  else if (event.key === "Enter" && typing.value && entry.value !== "") {
    // A typed reading goes first, wherever the focus is.
    event.preventDefault();
    main();
    event.stopPropagation();
  } else if (event.key === "Backspace") {
    // A key that is held clears what was typed, and never goes on to what is recorded.
    if (entry.value !== "") press("wipe");
    else if (!event.repeat) emit("strikeLast");
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
  <div class="foot">
    <tool-choice
      v-if="call.ask === 'tool' && call.tool_class"
      :cell="call.cell"
      @draw="(tool) => emit('draw', tool)"
    />
    <choice-foot v-else-if="call.ask === 'choice'" :call="call" @give="(answer) => emit('give', answer)" />
    <template v-if="call.ask === 'turn' && howFar">
      <p class="bites figure" aria-live="polite">
        <span v-for="(bite, k) in bites" :key="k" class="bite" translate="no">{{ bite }}</span>
        <span class="sum">{{
          t("bench.sum", { sum: Math.round(sum * 10) / 10, target: call.figure?.text ?? "" })
        }}</span>
      </p>
    </template>
    <template v-if="typing">
      <div class="entry">
        <output class="figure" :aria-label="t('bench.reading')">
          <span translate="no">{{ entry }}</span><span class="caret" aria-hidden="true" />
        </output>
        <button
          v-for="(start, k) in starts"
          :key="start"
          type="button"
          class="start figure"
          :aria-label="t('bench.begins', { start: startText(start) })"
          @click="press(start)"
        >
          <span translate="no">{{ startText(start) }}</span>
          <span v-if="k === 0" class="key" aria-hidden="true" translate="no">{{ "*" }}</span>
        </button>
        <button v-if="setTo" type="button" class="start words" @click="stands">
          {{ t("bench.set_to", { figure: `${numberText(setTo.text)} ${unitText(setTo.unit)}` }) }}
          <span v-if="!call.deliberate" class="key" aria-hidden="true" translate="no">{{ "=" }}</span>
        </button>
        <button
          v-if="call.units.length > 0"
          type="button"
          class="unit figure"
          :aria-label="t('ui.unit')"
          @click="unitIndex = (unitIndex + 1) % call.units.length"
        >
          <span translate="no">{{ unitWord }}</span>
        </button>
      </div>
      <number-pad :decimal="call.ask !== 'count'" :signed="call.signed" @press="press">
        <template v-if="besidePad" #main>
          <v-btn class="main" @click="main">
            {{ doWord }}
            <span v-if="!call.deliberate" class="key">{{ t("bench.enter") }}</span>
          </v-btn>
        </template>
      </number-pad>
    </template>
    <v-text-field
      v-if="call.ask === 'words'"
      v-model="written"
      :label="t('bench.write')"
      maxlength="200"
      @keydown.enter.prevent="main"
    />
    <p v-if="call.not_before" class="hold figure" role="timer">
      {{ secondsLeft > 0 ? t("bench.to_go", { n: secondsLeft }) : t("bench.held") }}
    </p>
    <div v-if="call.ask === 'feeler'" class="pair">
      <v-btn @click="giveBlade(false)">
        {{ t("call.feeler.stays_out") }}<span class="key" translate="no">{{ "−" }}</span>
      </v-btn>
      <v-btn @click="giveBlade(true)">
        {{ t("call.feeler.enters") }}<span class="key" translate="no">{{ "+" }}</span>
      </v-btn>
    </div>
    <pull-foot
      v-else-if="call.ask === 'pull'"
      :check="call.stillness"
      :how-far="howFar"
      @main="main"
      @outcome="givePull"
      @measure="howFar = !howFar"
    />
    <template v-else-if="call.ask === 'turn'">
      <div class="two">
        <v-btn :aria-pressed="howFar" @click="howFar = !howFar">{{ t("bench.other_angle") }}</v-btn>
        <v-btn v-if="howFar && call.bites && call.bites > 1" :disabled="entry === ''" @click="addBite">{{
          t("bench.add_bite")
        }}</v-btn>
      </div>
      <v-btn class="main big" block @click="main">
        {{ bites.length === 0 && entry === "" ? t("bench.to_mark") : doWord }}
        <span class="key">{{ t("bench.space") }}</span>
      </v-btn>
    </template>
    <v-btn v-else-if="laddered && !howFar" @click="howFar = true">{{ t("bench.type_it") }}</v-btn>
    <v-btn
      v-else-if="!besidePad && call.ask !== 'tool' && call.ask !== 'choice'"
      class="main big"
      block
      @click="main"
    >
      {{ doWord }}
      <span v-if="!call.deliberate && call.ask !== 'words'" class="key">{{ t("bench.space") }}</span>
    </v-btn>
  </div>
</template>

<style scoped>
.foot {
  display: grid;
  flex: none;
  gap: 8px;
  margin-top: auto;
}

.entry {
  display: grid;
  gap: 6px;
  grid-auto-columns: auto;
  grid-auto-flow: column;
  grid-template-columns: minmax(0, 1fr);
}

.start {
  background: var(--panel-2);
  border: 1px solid var(--line-strong);
  color: var(--ink);
  cursor: pointer;
  font-size: var(--size-4);
  min-width: var(--gloves);
  padding: 0 10px;
  touch-action: manipulation;
}

output {
  align-items: center;
  background: var(--ground);
  border: 2px solid var(--line-strong);
  display: flex;
  font-size: var(--size-6);
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
  font-size: var(--size-4);
  width: 108px;
}

.words-entry {
  display: grid;
  font-size: var(--size-4);
  gap: 4px;
}

.words-entry input {
  background: var(--ground);
  border: 2px solid var(--line-strong);
  color: var(--ink);
  font-family: var(--figures);
  font-size: var(--size-5);
  height: 64px;
  padding: 0 14px;
}

.words-entry input:focus-visible {
  outline: 3px solid var(--now);
}

.bites {
  align-items: baseline;
  display: flex;
  flex-wrap: wrap;
  font-size: var(--size-4);
  gap: 8px;
  margin: 0;
}

.bite {
  border: 1px solid var(--line-strong);
  padding: 2px 8px;
}

.sum {
  color: var(--paint);
  font-weight: 700;
  margin-left: auto;
}

.two {
  display: grid;
  gap: 8px;
  grid-auto-columns: 1fr;
  grid-auto-flow: column;
}

.hold {
  font-size: var(--size-6);
  margin: 0;
  text-align: center;
}

.pair {
  display: grid;
  gap: 10px;
  grid-template-columns: 1fr 1fr;
}

.big,
.pair .v-btn {
  font-size: var(--size-5);
  height: 72px !important;
}

.pair .v-btn {
  font-size: var(--size-4);
}
</style>
