<script setup lang="ts">
import { ref, watch } from "vue";
import { answerOf, api } from "@/api/client";
import type { CrankView } from "@/api/types";
import SweepLines from "@/engine/SweepLines.vue";
import { useBeside } from "@/shared/followed";

/** Before the crank moves, from a joint's own call: what is in its way on the whole engine. */
const props = defineProps<{ run: string }>();
const crank = ref<CrankView | null>(null);

async function fetchSweep(): Promise<void> {
  const params = { path: { run_id: props.run } };
  crank.value = (await answerOf(api.GET("/api/runs/{run_id}/sweep", { params }))).crank;
}
watch(() => props.run, useBeside(fetchSweep));
</script>

<template>
  <sweep-lines v-if="crank" :crank="crank" brief />
</template>
