<script setup lang="ts">
import type { Component } from "vue";
import { useI18n } from "vue-i18n";
import type { QuestionName } from "@/api/types";
import AnglePicture from "@/reckoner/pictures/AnglePicture.vue";
import BackOffPicture from "@/reckoner/pictures/BackOffPicture.vue";
import ExtensionPicture from "@/reckoner/pictures/ExtensionPicture.vue";
import FrictionPicture from "@/reckoner/pictures/FrictionPicture.vue";
import HoldPicture from "@/reckoner/pictures/HoldPicture.vue";
import PressurePicture from "@/reckoner/pictures/PressurePicture.vue";
import StretchPicture from "@/reckoner/pictures/StretchPicture.vue";
import StripPicture from "@/reckoner/pictures/StripPicture.vue";
import TorquePicture from "@/reckoner/pictures/TorquePicture.vue";
import UnitsPicture from "@/reckoner/pictures/UnitsPicture.vue";
import WorkingPicture from "@/reckoner/pictures/WorkingPicture.vue";

defineProps<{ question: QuestionName; numbers: Record<string, number>; focus: string | null }>();
const { t } = useI18n();
const PICTURES: Record<QuestionName, Component> = {
  pressure: PressurePicture,
  torque: TorquePicture,
  angle: AnglePicture,
  extension: ExtensionPicture,
  stretch: StretchPicture,
  back_off: BackOffPicture,
  units: UnitsPicture,
  strip: StripPicture,
  friction: FrictionPicture,
  working: WorkingPicture,
  hold: HoldPicture,
};
</script>

<template>
  <figure
    class="picture"
    role="img"
    :aria-label="t('reckoner.picture', { question: t(`reckoner.question.${question}`) })"
    translate="no"
  >
    <component :is="PICTURES[question]" :numbers="numbers" :focus="focus" />
  </figure>
</template>

<style>
.picture {
  margin: 6px 0;
}

.picture svg {
  display: block;
  width: 100%;
}

.picture text {
  fill: var(--ink);
  font-family: var(--run);
  font-size: var(--size-1);
}

.picture .part,
.picture .part * {
  fill: var(--panel-2);
  stroke: var(--ink);
  stroke-width: 1.3;
}

.picture .part .stud {
  fill: #c3c9c6;
}

.picture .axis {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.2;
}

.picture .limit {
  fill: none;
  stroke: var(--out);
  stroke-dasharray: 7 4;
  stroke-width: 2;
}

.picture .force {
  fill: none;
  stroke: var(--now);
  stroke-width: 3;
}

.picture .force.bad {
  stroke: var(--out);
}

.picture .bar {
  fill: var(--fill);
}

.picture .bar.left,
.picture .bar.thread {
  fill: #8fa4ad;
}

.picture .bar.left + .bar {
  fill: var(--fill);
}

.picture .bar.stretch {
  fill: var(--now);
}

.picture .band {
  fill: #cfd8d5;
  stroke: #8fa4ad;
}

.picture .trap {
  fill: var(--hatch);
  stroke: var(--out);
}

.picture .dot {
  fill: var(--now);
}

.picture .strip {
  fill: #c2560b;
}

.picture .arm {
  stroke: var(--fill);
  stroke-width: 12;
}

.picture .grip {
  stroke: var(--ink);
  stroke-width: 20;
}

.picture .extension {
  stroke: #8fa4ad;
  stroke-width: 14;
}

.picture text.lit {
  fill: var(--now);
  font-size: var(--size-3);
  font-weight: 700;
}

.picture .lit:not(text) {
  stroke: var(--now);
  stroke-width: 3;
}

.picture .extension.lit:not(text) {
  stroke-width: 14;
}
</style>
