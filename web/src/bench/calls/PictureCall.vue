<script setup lang="ts">
import { computed } from "vue";
import type { Call } from "@/api/types";
import FactRows from "@/bench/calls/FactRows.vue";
import { pictureOf } from "@/bench/calls/pictures";

/** A step with a picture that stays as it is, and what the step states. */
const props = defineProps<{ call: Call }>();
const picture = computed(() => pictureOf(props.call.kind));
const drawn = computed(() => Object.keys(picture.value ?? {}).some((part) => part !== "facts"));
</script>

<template>
  <div v-if="picture" class="body">
    <svg v-if="drawn" viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path v-if="picture.lines" :d="picture.lines" />
      <circle v-for="([x, y, r], k) in picture.circles" :key="k" :cx="x" :cy="y" :r="r" />
      <path v-if="picture.wiped" class="wipe" :d="picture.wiped" />
      <path v-if="picture.now" class="now" :d="picture.now" />
    </svg>
    <fact-rows v-if="picture.facts.length > 0" :call="call" :of="picture.facts" />
  </div>
</template>
