<script setup lang="ts">
import { computed, nextTick, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { counted } from "@/shared/problem";
import type { RibbonCell, RibbonRow } from "@/api/types";
import { bare, useWords } from "@/bench/words";

const props = defineProps<{
  rows: readonly RibbonRow[];
  waiting: ReadonlySet<string>;
  now: string | null;
}>();
const i18n = useI18n();
const { t, locale } = i18n;
const words = useWords();
const list = ref<HTMLElement | null>(null);

/** Cells of one row that are of one kind and on no fastener: they are counted, as the fasteners are named. */
function alike(row: RibbonRow, cell: RibbonCell): RibbonCell[] {
  return row.cells.filter((one) => one.fastener === null && bare(one.item) === bare(cell.item));
}

function shown(row: RibbonRow, cell: RibbonCell): string {
  const same = alike(row, cell);
  return same.length > 1 ? String(same.indexOf(cell) + 1) : words.short(cell.item);
}

function label(row: RibbonRow, cell: RibbonCell): string {
  const number = cell.fastener ?? (alike(row, cell).length > 1 ? shown(row, cell) : null);
  return [cell.text ?? words.item(cell.item), number].filter(Boolean).join(" ");
}

/** A stud's cells carry its name, others of one kind a number; the item stands once before the first of them. */
function startsItem(row: RibbonRow, index: number): boolean {
  const cell = row.cells[index];
  if (cell === undefined || (cell.fastener === null && alike(row, cell).length === 1)) return false;
  return bare(row.cells[index - 1]?.item ?? "") !== bare(cell.item);
}

function says(row: RibbonRow, cell: RibbonCell): string {
  const back = cell.taken_back > 0 ? `, ${counted(i18n, "bench.taken_back", { n: cell.taken_back })}` : "";
  const state = props.waiting.has(cell.cell) ? t("bench.waits_here") : t(`state.${cell.state}`);
  return `${row.title}, ${label(row, cell)}: ${state}${back}`;
}

/** What a row's look depends on: the rows of the server's answer stay the same objects while nothing changes in them. */
function looks(row: RibbonRow): unknown[] {
  const at = row.cells.some((cell) => cell.cell === props.now) ? props.now : null;
  const waits = row.cells.flatMap((cell) => (props.waiting.has(cell.cell) ? cell.cell : [])).join();
  return [row, at, waits, locale.value];
}

const reached = computed(() => props.rows.findLast((row) => row.current || row.done > 0)?.step);

async function follow(): Promise<void> {
  await nextTick();
  const rows = list.value?.querySelectorAll<HTMLElement>(".row.current, .row.begun") ?? [];
  const current = rows[rows.length - 1];
  // The row before it stays in sight, and the row itself is never cut.
  if (current && list.value) list.value.scrollTop = Math.max(0, current.offsetTop - 70);
}

watch(reached, follow, { immediate: true });
</script>

<template>
  <!-- The list scrolls, so it can be reached by keyboard. -->
  <div ref="list" class="ribbon" role="region" tabindex="0" :aria-label="t('bench.ribbon')">
    <div
      v-for="row in rows"
      :key="row.step"
      v-memo="looks(row)"
      class="row"
      :class="{ current: row.current, begun: row.done > 0 }"
    >
      <span class="title words" translate="no">{{ row.title }}</span>
      <span class="cells">
        <template v-for="(cell, i) in row.cells" :key="cell.cell">
          <span v-if="startsItem(row, i)" class="item words">{{ words.short(cell.item) }}</span>
          <span
            class="cell figure"
            :class="[
              cell.state,
              {
                at: cell.cell === now,
                back: cell.taken_back > 0,
                word: !cell.fastener && alike(row, cell).length === 1,
                waits: waiting.has(cell.cell),
              },
            ]"
            role="img"
            :aria-label="says(row, cell)"
          >
            <template v-if="cell.fastener"
              ><span translate="no">{{ cell.fastener }}</span></template
            ><template v-else>{{ shown(row, cell) }}</template>
          </span>
        </template>
      </span>
      <span class="count figure" translate="no">{{ row.done }}/{{ row.total }}</span>
    </div>
  </div>
</template>

<style scoped>
.ribbon {
  border-top: 1px solid var(--line);
  height: 100%;
  overflow-y: auto;
  padding: 6px 14px 6px 20px;
  position: relative;
  scrollbar-color: var(--line) transparent;
}

.row {
  align-items: center;
  color: var(--muted);
  display: flex;
  gap: 10px;
  min-height: 34px;
}

.row.current {
  color: var(--ink);
}

.title {
  flex: none;
  font-size: var(--size-3);
  line-height: 1.1;
  width: 178px;
}

.cells {
  align-items: center;
  display: flex;
  flex: 1;
  flex-wrap: wrap;
  gap: 3px;
  padding: 3px 0;
}

.item {
  font-size: var(--size-2);
  margin-left: 7px;
}

.cell {
  background: transparent;
  border: 1px solid var(--line);
  color: var(--muted);
  font-size: var(--size-1);
  height: 28px;
  line-height: 24px;
  min-width: 30px;
  padding: 0 3px;
  position: relative;
  text-align: center;
}

.cell.word {
  font-family: var(--words);
  font-size: var(--size-2);
  padding: 0 7px;
}

.cell.done,
.cell.in_band,
.cell.accepted,
.cell.out_of_band,
.cell.too_near {
  background: var(--panel-2);
  border-color: var(--panel-2);
  color: var(--ink);
}

.cell.done::after,
.cell.in_band::after,
.cell.accepted::after {
  background: var(--paint);
  bottom: 2px;
  content: "";
  height: 3px;
  left: 5px;
  position: absolute;
  right: 5px;
}

.cell.accepted {
  border: 2px solid var(--ink);
  line-height: 22px;
}

.cell.out_of_band,
.cell.rejected {
  background-image: repeating-linear-gradient(45deg, var(--hatch) 0 4px, transparent 4px 9px);
  border-color: var(--out);
  font-weight: 700;
}

.cell.too_near {
  border: 2px dotted var(--doubt);
  line-height: 22px;
}

.cell.back::before {
  border-top: 2px dashed var(--muted);
  content: "";
  left: 4px;
  position: absolute;
  right: 4px;
  top: 2px;
}

.cell.waits {
  border: 2px dotted var(--ink);
  color: var(--ink);
}

.cell.at {
  border: 3px solid var(--now);
  color: var(--now);
  font-weight: 700;
  line-height: 20px;
}

.at-narrow .ribbon {
  height: auto;
  padding: var(--gap-2) var(--gap-3);
}

.at-narrow .row {
  flex-wrap: wrap;
  padding: 3px 0;
}

.at-narrow .title {
  flex: 1;
  white-space: normal;
}

.at-narrow .cells {
  flex: 1 0 100%;
  order: 1;
}

.count {
  flex: none;
  font-size: var(--size-2);
  text-align: right;
  width: 56px;
}
</style>
