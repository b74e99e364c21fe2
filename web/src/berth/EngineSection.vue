<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { EngineStrip, JointCell } from "@/api/types";
import ConditionMark from "@/shared/ConditionMark.vue";

const props = defineProps<{ engine: EngineStrip; bare?: boolean }>();
defineEmits<{ pick: [joint: JointCell] }>();
const { t } = useI18n();

interface SectionRow {
  key: string;
  word: string;
  bank: string;
  cells: JointCell[];
}

const USUAL = new Set(["head", "liner", "rod", "crosshead", "crankpin", "main"]);

/** One row for each kind of joint, and for each bank of a vee. */
const rows = computed<SectionRow[]>(() => {
  const found = new Map<string, SectionRow>();
  for (const joint of props.engine.joints) {
    // What no procedure is about and nobody has touched is listed on the engine's own page.
    if (joint.state === "no_procedure" && !USUAL.has(joint.kind)) continue;
    const bank = /^[AB]/.exec(joint.name)?.[0] ?? "";
    const key = joint.kind + bank;
    const word = props.engine.joint_words[joint.kind] ?? t(`joint.${joint.kind}`);
    const row = found.get(key) ?? { key, word, bank, cells: [] };
    row.cells.push(joint);
    found.set(key, row);
  }
  return [...found.values()];
});

/** An engine without any procedure yet is drawn small: there is nothing to touch. */
const quiet = computed(() => props.engine.joints.every((joint) => joint.state === "no_procedure"));
const summary = computed(() => {
  const count = (state: string): number => props.engine.joints.filter((j) => j.state === state).length;
  const questions = count("question");
  if (questions > 0) return t("berth.questions", { n: questions });
  const open = count("under_way");
  return open > 0 ? t("berth.under_way", { n: open }) : t("berth.all_quiet");
});
const hasOpen = computed(() =>
  props.engine.joints.some((j) => j.state === "question" || j.state === "under_way"),
);

function place(cell: JointCell): Record<string, string> {
  const slots = props.engine.pitches + 1;
  const width = cell.kind === "main" ? 0.4 : cell.slot % 1 !== 0 ? 3.2 : cell.kind === "liner" ? 0.6 : 0.76;
  return {
    left: `${((cell.slot + 1 - width / 2) / slots) * 100}%`,
    width: `${(width / slots) * 100}%`,
    "--done": `${Math.round(cell.filled * 100)}%`,
  };
}
const isWide = (row: SectionRow): boolean => row.cells.length === 1;

function describe(cell: JointCell): string {
  const condition = t(`condition.${cell.condition ?? "unknown"}`);
  const state = t(cell.going ? `berth.going.${cell.going}` : `berth.state.${cell.state}`);
  const said = t("berth.cell", { label: cell.label, condition, state });
  return cell.next ? `${said}, ${t("berth.next_here")}` : said;
}

const facts = computed(() =>
  [
    props.engine.inside.length > 0 ? t("berth.inside", { who: props.engine.inside.join(", ") }) : "",
    props.engine.hot_work.length > 0 ? t("berth.hot_work", { where: props.engine.hot_work.join(", ") }) : "",
    props.engine.hot_work_out.length > 0
      ? t("berth.hot_work_out", { where: props.engine.hot_work_out.join(", ") })
      : "",
    props.engine.under_pressure.length > 0
      ? t("berth.pressed", { where: props.engine.under_pressure.join(", ") })
      : "",
    props.engine.owed > 0 ? t("berth.owed", { n: props.engine.owed }) : "",
  ].filter(Boolean),
);
</script>

<template>
  <section class="engine" :class="{ quiet }">
    <header v-if="!bare">
      <h2>
        <router-link
          :to="{ name: 'engine', params: { engine: engine.id } }"
          :aria-label="t('berth.engine_page', { engine: engine.name })"
          translate="no"
          >{{ engine.name }}</router-link
        >
      </h2>
      <p class="muted">
        <span translate="no">{{ engine.type }} · {{ engine.serial }}</span> ·
        <span :translate="engine.overhaul ? 'no' : undefined">{{
          engine.overhaul ?? t("berth.no_overhaul")
        }}</span>
        <span v-for="fact in facts" :key="fact" class="fact"> · {{ fact }}</span>
      </p>
      <strong class="words" :class="{ hot: hasOpen }">{{ summary }}</strong>
    </header>
    <div v-for="row in rows" :key="row.key" class="line">
      <span class="word words muted">
        <span :translate="engine.joint_words[row.cells[0]?.kind ?? 'head'] ? 'no' : undefined">{{
          row.word
        }}</span>
        <span v-if="row.bank" translate="no">{{ row.bank }}</span>
      </span>
      <div class="track">
        <component
          :is="quiet ? 'span' : 'button'"
          v-for="cell in row.cells"
          :key="cell.key"
          class="cell"
          :class="[cell.state, { wide: isWide(row), following: cell.next, done: cell.done }]"
          :style="place(cell)"
          :type="quiet ? undefined : 'button'"
          :aria-label="quiet ? undefined : describe(cell)"
          :title="describe(cell)"
          @click="quiet || $emit('pick', cell)"
        >
          <span class="tag">
            <condition-mark v-if="!quiet && engine.overhaul" :condition="cell.condition" />
            <span class="no figure" translate="no">{{ cell.name }}</span>
          </span>
          <span v-if="cell.going" class="going" aria-hidden="true">{{
            cell.going === "undone" ? "▲" : "▼"
          }}</span>
          <span v-else-if="cell.done" class="going" aria-hidden="true">{{ "✓" }}</span>
        </component>
      </div>
    </div>
    <p class="ends muted words">
      <span translate="no">{{ engine.left_end }}</span><span translate="no">{{ engine.right_end }}</span>
    </p>
  </section>
</template>

<style scoped>
.engine {
  background: var(--panel);
  border: 1px solid var(--line);
  padding: 14px 20px 8px;
}

header {
  align-items: baseline;
  display: flex;
  gap: 14px;
  margin-bottom: 8px;
}

h2 {
  font-size: var(--size-5);
}

header p {
  flex: 1;
  margin: 0;
}

strong {
  color: var(--muted);
  font-size: var(--size-3);
}

strong.hot {
  color: var(--now);
}

.line {
  align-items: center;
  display: flex;
  height: 52px;
}

.quiet .line {
  height: 22px;
}

/* Where a cylinder's pitch is narrower than a finger, the cells are a row of keys and no drawing to scale. */
.at-narrow header {
  flex-wrap: wrap;
  gap: 2px 14px;
}

.at-narrow header p {
  flex: 1 1 100%;
  order: 1;
}

.at-narrow .engine {
  padding: var(--gap-3);
}

.at-narrow .line {
  height: auto;
  padding: 3px 0;
}

.at-narrow .track {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}

.at-narrow .track .cell {
  inset: auto !important;
  height: 46px;
  min-width: 46px;
  position: relative;
  width: auto !important;
}

.at-narrow .quiet .track .cell {
  height: auto;
  min-width: 22px;
}

.at-narrow .ends {
  display: none;
}

.word {
  display: flex;
  flex: none;
  font-size: var(--size-3);
  gap: 5px;
  width: 74px;
}

.quiet .word {
  font-size: var(--size-2);
}

.track {
  flex: 1;
  height: 100%;
  position: relative;
}

.cell {
  align-items: center;
  min-width: 44px;
  background: linear-gradient(to top, var(--fill) var(--done), var(--panel) var(--done));
  border: 1px solid var(--line-strong);
  bottom: 4px;
  box-sizing: border-box;
  color: var(--ink);
  display: flex;
  justify-content: center;
  padding: 0;
  position: absolute;
  top: 4px;
}

button.cell {
  cursor: pointer;
}

/* What a joint is like stands on plain ground, however far its work has filled the cell. */
.tag {
  align-items: center;
  background: var(--panel);
  display: flex;
  gap: 3px;
  padding: 2px 1px;
}

.tag :deep(.mark) {
  flex: none;
  height: 20px;
  width: 20px;
}

.no {
  font-size: var(--size-2);
  line-height: 1;
  min-width: 12px;
  text-align: center;
}

.quiet .tag {
  background: none;
}

.quiet .no {
  font-size: var(--size-1);
  padding: 0;
}

.quiet .cell {
  border-color: var(--line);
  bottom: 2px;
  color: var(--muted);
  top: 2px;
}

.cell.under_way,
.cell.question {
  border: 3px solid var(--now);
}

.cell.question {
  background-image:
    repeating-linear-gradient(45deg, var(--hatch) 0 5px, transparent 5px 11px),
    linear-gradient(to top, var(--fill) var(--done), var(--panel) var(--done));
  border-color: var(--out);
}

.cell.no_procedure {
  border-style: dashed;
  color: var(--muted);
}

.ends {
  display: flex;
  font-size: var(--size-1);
  justify-content: space-between;
  margin: 2px 0 0 74px;
}

h2 a {
  color: inherit;
  text-decoration-color: var(--line-strong);
  text-decoration-thickness: 1px;
  text-underline-offset: 4px;
}

.fact {
  color: var(--ink);
  font-weight: 700;
}

/* Room for the sign of what is done or under way beside the number. */
.cell:has(.going) {
  justify-content: flex-start;
  padding-right: 13px;
}

/* Next is a thick foot: it is seen without colour, and under the number that one looks for. */
.cell.following {
  border-bottom: 6px solid var(--now);
}

.going {
  background: var(--panel);
  font-size: var(--size-1);
  line-height: 1;
  padding: 1px 2px;
  position: absolute;
  right: 0;
  top: 0;
}
</style>
