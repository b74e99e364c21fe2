<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { Head, PartSeen, PartView, Plan } from "@/api/types";
import GaugeMarks from "@/bench/GaugeMarks.vue";
import { useJoint, type PlacedHead } from "@/bench/joint";
import type { Orientation } from "@/bench/turning";
import { figureText } from "@/shared/format";
import { counted, partWords } from "@/shared/problem";

const props = defineProps<{
  plan: Plan;
  orientation: Orientation;
  joint: string;
  now: string | null;
  open: readonly string[];
  later: readonly string[];
  waiting: ReadonlySet<string>;
  parts: readonly PartView[];
  me: string;
}>();
const emit = defineEmits<{ pick: [fastener: string] }>();
const i18n = useI18n();
const { t, locale } = i18n;

const BAR_HOLES = [30, 90, 150, 210, 270, 330];
const STROKE_STEP_DEG = 27;
const FIRST_STROKE_DEG = -42;
const { dense, heads, across, reach, box, em, sides, shapes, hoses, outward, hexagon, nearest } = useJoint(
  () => props.plan,
  () => props.orientation,
);

/** Who works on a head, where the work is shared: initials on another's, a bar under one's own. */
const holderOf = (name: string): PartView | undefined =>
  props.parts.find((part) => part.fasteners.includes(name));
const initials = (name: string): string => name.replace(/[^\p{Lu}]/gu, "");

/** Where a part is, and what was done to its face; what was brought is there for now. */
function partNow(part: PartSeen): string {
  const where = t(part.where === "in_place" ? "part_where.on" : `part_where.${part.where}`);
  return part.face === "as_it_was" ? where : `${where}, ${t(`part_face.${part.face}`)}`;
}

function says(head: Head): string {
  const parts = [t("bench.fastener_state", { name: head.name, state: t(`state.${head.state}`) })];
  const holder = holderOf(head.name);
  if (holder) parts.push(holder.by);
  if (props.waiting.has(head.name)) parts.push(t("bench.waits_here"));
  if (head.tool_on) parts.push(t("bench.tool_sits"));
  if (head.named) parts.push(t("bench.named"));
  if (head.hold && head.hold !== "tight") parts.push(t(`bench.hold.${head.hold}`));
  parts.push(counted(i18n, "bench.strokes", { n: head.strokes.filter((stroke) => stroke.done).length }));
  return parts.join(", ");
}

/** What a head's look depends on; the others are not drawn anew when one changes. */
function looks({ head, at }: PlacedHead): unknown[] {
  const { name, state, strokes, clamp, tool_on, hold, named } = head;
  const { now, open, later, waiting, me } = props;
  const shown = [name === now, open.includes(name), later.includes(name), waiting.has(name)];
  const words = [holderOf(name), me, locale.value];
  return [state, strokes, clamp, tool_on, hold, named, head.across, em.value, at.x, at.y, ...shown, ...words];
}

/** Snap to the nearest head: gloves do not aim. */
function snap(event: MouseEvent): void {
  const svg = event.currentTarget as SVGSVGElement;
  const matrix = svg.getScreenCTM();
  if (matrix === null) return;
  const found = nearest(new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse()));
  if (found !== null) emit("pick", found);
}
</script>

<template>
  <div class="plan" role="group" :aria-label="t('bench.plan', { joint })">
    <span class="edge top words"
      ><span translate="no">{{ sides.top }}</span>
      <em v-if="plan.attitude">{{ t("bench.attitude", { how: t(`attitude.${plan.attitude}`) }) }}</em></span
    >
    <span class="edge left words" translate="no">{{ sides.left }}</span>
    <span class="edge right words" translate="no">{{ sides.right }}</span>
    <span class="edge bottom words" translate="no">{{ sides.bottom }}</span>
    <svg :viewBox="box" :style="{ '--hair': `${Math.max(across, reach / 6) / 32}px` }" @click="snap">
      <template v-for="(shape, i) in shapes" :key="i">
        <circle
          v-if="shape.shape === 'circle'"
          class="bore"
          :class="{ away: plan.open }"
          :cx="shape.x"
          :cy="shape.y"
          :r="shape.width / 2"
        />
        <rect
          v-else
          class="casting"
          :class="{ away: plan.open }"
          :x="shape.x - shape.width / 2"
          :y="shape.y - shape.height / 2"
          :width="shape.width"
          :height="shape.height"
          rx="18"
        />
      </template>
      <polyline
        v-for="hose in hoses"
        :key="hose.name"
        class="hose"
        :stroke-width="across * 0.19"
        :points="hose.points"
      />
      <gauge-marks
        v-if="plan.measuring"
        :measuring="plan.measuring"
        :orientation="orientation"
        :reach="reach"
      />
      <g
        v-for="{ head, at } in heads"
        :key="head.name"
        v-memo="looks({ head, at })"
        class="head"
        :class="[head.state, { current: head.name === now, open: open.includes(head.name) }]"
        :transform="`translate(${at.x} ${at.y})`"
        role="button"
        :tabindex="open.includes(head.name) || later.includes(head.name) ? 0 : -1"
        :aria-label="says(head)"
        :aria-pressed="head.name === now"
        @keydown.enter.prevent="emit('pick', head.name)"
      >
        <circle v-if="head.tool_on" class="tool" :r="head.across * 0.86" />
        <circle class="seat" :r="head.across * 0.58" />
        <circle v-if="head.hold === 'out'" class="hole-left" :r="head.across * 0.3" />
        <circle v-else-if="head.form === 'round'" class="nut" :r="head.across * 0.5" />
        <polygon v-else class="nut" :points="hexagon(head.across * 0.56)" />
        <circle
          v-for="angle in head.form === 'round' && head.hold !== 'out' ? BAR_HOLES : []"
          :key="angle"
          class="hole"
          :r="head.across * 0.05"
          :cy="-head.across * 0.4"
          :transform="`rotate(${angle})`"
        />
        <circle v-if="head.form !== 'hex'" class="stud" :r="head.across * 0.25" />
        <circle v-if="waiting.has(head.name)" class="collar waits" :r="head.across * 0.72" />
        <circle v-if="head.state === 'out_of_band'" class="collar out" :r="head.across * 0.72" />
        <circle v-if="head.state === 'too_near'" class="collar near" :r="head.across * 0.72" />
        <circle v-if="head.named" class="collar movement" :r="head.across * 0.8" />
        <circle v-if="head.state === 'accepted'" class="collar named" :r="head.across * 0.68" />
        <g v-if="head.name === now" class="pointer">
          <circle :r="head.across * 0.98" />
          <path
            :d="`M${-head.across * 0.3} ${-head.across * 1.42} h${head.across * 0.6} l${-head.across * 0.3} ${head.across * 0.38} z`"
          />
        </g>
        <g
          v-for="(stroke, i) in head.strokes"
          :key="stroke.step"
          :transform="`rotate(${stroke.angle_deg ?? FIRST_STROKE_DEG + i * STROKE_STEP_DEG})`"
        >
          <line
            v-if="stroke.ghosts > 0"
            class="ghost"
            :y1="-head.across * 0.12"
            :y2="-head.across * 0.5"
            :x1="head.across * 0.115"
            :x2="head.across * 0.115"
          />
          <line
            v-if="stroke.done"
            class="stroke"
            :class="{ line: stroke.angle_deg !== null }"
            :stroke-width="head.across * 0.115"
            :y1="-head.across * (dense ? 0.36 : 0.1)"
            :y2="-head.across * (stroke.angle_deg === null ? 0.64 : 0.82)"
          />
        </g>
        <text
          v-if="holderOf(head.name)"
          class="holder figure"
          :class="{ mine: holderOf(head.name)?.person_id === me }"
          text-anchor="middle"
          :font-size="head.across * 0.34"
          :y="head.across * 0.98"
          translate="no"
        >
          {{ initials(holderOf(head.name)?.by ?? "") }}
        </text>
        <text
          v-if="dense"
          class="name on figure"
          text-anchor="middle"
          :font-size="em * (head.name.length > 1 ? 0.62 : 0.78)"
          :y="em * 0.24"
          translate="no"
        >
          {{ head.name }}
        </text>
        <g v-else :class="outward(at).side" :transform="`translate(${outward(at).x} ${outward(at).y})`">
          <text class="name figure" :font-size="em" :y="em * 0.16" translate="no">{{ head.name }}</text>
          <text v-if="head.clamp" class="clamp figure" :font-size="em * 0.54" :y="em * 0.8" translate="no">
            ≈ {{ figureText(head.clamp) }}
          </text>
        </g>
      </g>
    </svg>
    <ul v-if="plan.parts.length > 0" class="lying" :aria-label="t('bench.parts_now')">
      <li v-for="part in plan.parts" :key="part.part" :class="part.where">
        <span class="words">{{ partWords(i18n, part.part) }}</span>
        <em class="words">{{ partNow(part) }}</em>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.plan {
  display: grid;
  grid-template: "nw top ne" auto "left mid right" 1fr "sw bottom se" auto / auto 1fr auto;
  height: 100%;
  min-height: 0;
  padding: 6px 14px;
}

/* On a phone the words at the sides stand upright: the picture needs the width. */
.at-phone .left,
.at-phone .right {
  writing-mode: vertical-rl;
}

.at-phone .left {
  transform: rotate(180deg);
}

svg {
  grid-area: mid;
  height: 100%;
  min-height: 0;
  width: 100%;
}

.edge {
  align-self: center;
  color: var(--muted);
  font-size: var(--size-3);
  justify-self: center;
}

.top {
  display: flex;
  gap: 16px;
  grid-area: top;
}

.top em {
  color: var(--doubt);
  font-style: normal;
}

.bottom {
  grid-area: bottom;
}

.left {
  grid-area: left;
}

.right {
  grid-area: right;
}

.casting {
  fill: var(--panel);
  stroke: var(--line);
  stroke-width: var(--hair);
}

.bore {
  fill: var(--ground);
  stroke: var(--line);
  stroke-width: var(--hair);
}

/* What is off is not drawn as if it were there. */
.away {
  fill: none;
  stroke: var(--line-strong);
  stroke-dasharray: 14 10;
}

.hole-left {
  fill: none;
  stroke: var(--muted);
  stroke-dasharray: 3 3;
  stroke-width: var(--hair);
}

.lying {
  display: flex;
  flex-wrap: wrap;
  font-size: var(--size-3);
  gap: 4px 18px;
  grid-column: 1 / -1;
  justify-content: center;
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}

.lying em {
  color: var(--muted);
  font-style: normal;
  margin-left: 6px;
}

.lying .hung em,
.lying .unknown em {
  color: var(--doubt);
}

.hose {
  fill: none;
  stroke: #8b6a3e;
  stroke-linecap: round;
}

.seat {
  fill: #0c1012;
}

.nut {
  fill: #51626b;
  stroke: #8a9ca5;
  stroke-width: var(--hair);
}

.hole {
  fill: #0c1012;
}

.stud {
  fill: #6d808a;
  stroke: #39474e;
  stroke-width: var(--hair);
}

.tool {
  fill: #2c3a41;
  stroke: #8a9ca5;
  stroke-dasharray: calc(var(--hair) * 9) calc(var(--hair) * 4);
  stroke-width: calc(var(--hair) * 1.7);
}

.stroke {
  stroke: var(--paint);
  stroke-linecap: round;
}

.stroke.line {
  stroke-linecap: butt;
}

.name.on {
  paint-order: stroke;
  stroke: #1a2125;
  stroke-width: 3px;
}

.ghost {
  stroke: var(--paint);
  stroke-dasharray: calc(var(--hair) * 2);
  stroke-opacity: 0.6;
  stroke-width: calc(var(--hair) * 1.7);
}

.collar {
  fill: none;
  stroke-width: calc(var(--hair) * 4);
}

.collar.out {
  stroke: var(--out);
  stroke-dasharray: calc(var(--hair) * 4) calc(var(--hair) * 2.5);
}

.collar.near {
  stroke: var(--doubt);
  stroke-dasharray: calc(var(--hair)) calc(var(--hair) * 5);
  stroke-linecap: round;
}

.collar.waits {
  stroke: var(--ink);
  stroke-dasharray: calc(var(--hair) * 2) calc(var(--hair) * 2);
}

.collar.movement {
  stroke: var(--doubt);
  stroke-dasharray: calc(var(--hair) * 7) calc(var(--hair) * 4);
  stroke-width: calc(var(--hair) * 2);
}

.collar.named {
  stroke: var(--ink);
  stroke-width: calc(var(--hair) * 1.3);
}

.pointer circle {
  fill: none;
  stroke: var(--now);
  stroke-width: calc(var(--hair) * 3.3);
}

.pointer path {
  fill: var(--now);
}

.name {
  fill: var(--ink);
  font-weight: 700;
}

.beside-left text {
  text-anchor: end;
}

.beside-middle text {
  text-anchor: middle;
}

.holder {
  fill: var(--ink);
  font-weight: 700;
}

.holder.mine {
  fill: var(--now);
}

.current .name {
  fill: var(--now);
}

.clamp {
  fill: var(--muted);
}

.head {
  cursor: pointer;
  outline: none;
}

.head:focus-visible .nut {
  stroke: var(--now);
  stroke-width: calc(var(--hair) * 3.3);
}
</style>
