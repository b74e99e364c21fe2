<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { answerOf, api, newId } from "@/api/client";
import type { OverhaulCommand, Sweep } from "@/api/types";
import { useBench } from "@/bench/store";
import type { Said } from "@/engine/engine";
import FreeGearDialog from "@/engine/FreeGearDialog.vue";
import SweepLines from "@/engine/SweepLines.vue";
import { useActing } from "@/shared/acting";
import { useBeside } from "@/shared/followed";
import ProblemNote from "@/shared/ProblemNote.vue";

/** A move of the crank at a joint: what is in its way on the whole engine, and its gear, freed and locked again. */
const props = defineProps<{ run: string; turns: boolean; moves: boolean }>();
const { t } = useI18n();
const acting = useActing();
const bench = useBench();
const sweep = ref<Sweep | null>(null);
const asking = ref(false);
const crank = computed(() => sweep.value?.crank ?? null);
const gear = computed(() => bench.view?.gear ?? null);

async function fetchSweep(): Promise<void> {
  const params = { path: { run_id: props.run } };
  sweep.value = await answerOf(api.GET("/api/runs/{run_id}/sweep", { params }));
}
const lookAgain = useBeside(fetchSweep);
watch(() => [props.run, bench.view?.seq], lookAgain);

async function say(said: Said): Promise<void> {
  const overhaul = sweep.value?.overhaul;
  if (!overhaul) return;
  const command = { ...said, id: newId(), tablet_at: new Date().toISOString() } as OverhaulCommand;
  const body = { command, pin: null, other_pin: null, kept_s: null };
  const params = { path: { overhaul_id: overhaul } };
  const stored = await acting.act(async () => {
    await answerOf(api.POST("/api/overhauls/{overhaul_id}/commands", { params, body }));
  });
  // It is stored: that the Bench cannot be fetched just now is no refusal, the next news brings it.
  if (stored) await Promise.allSettled([bench.open(props.run), fetchSweep()]);
}

async function freeGear(commander: string): Promise<void> {
  asking.value = false;
  await say({ kind: "free_gear", commander, run: props.run });
}

async function lockGear(): Promise<void> {
  if (sweep.value?.freed != null) await say({ kind: "put_back_after_test", lifted: sweep.value.freed });
}
</script>

<template>
  <div v-if="crank || gear" class="gear">
    <sweep-lines v-if="crank && turns" :crank="crank" brief />
    <p v-if="gear" class="state" role="status">{{ t("engine.gear_open", { by: gear.commander }) }}</p>
    <p v-else-if="moves && crank?.gear_locked" class="state">{{ t("engine.obstacle.gear_isolated") }}</p>
    <problem-note :problem="acting.problem.value" :unsent="acting.unsent.value" />
    <v-btn v-if="gear?.own && !bench.offline" class="big" :class="{ main: !turns }" block @click="lockGear">{{
      t("engine.gear_lock")
    }}</v-btn>
    <v-btn v-else-if="moves && !gear && crank?.gear_locked" class="big" block @click="asking = true">{{
      t("engine.move_lift")
    }}</v-btn>
    <free-gear-dialog :open="asking" @done="freeGear" @shut="asking = false" />
  </div>
</template>

<style scoped>
.gear {
  display: grid;
  gap: 6px;
}

.state {
  border-left: 5px solid var(--out);
  font-size: var(--size-2);
  font-weight: 700;
  margin: 0;
  padding-left: 8px;
}
</style>
