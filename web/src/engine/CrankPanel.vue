<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import type { CrankView } from "@/api/types";
import BoardPanel from "@/engine/BoardPanel.vue";
import CrankDial from "@/engine/CrankDial.vue";
import CrankHeight from "@/engine/CrankHeight.vue";
import FreeGearDialog from "@/engine/FreeGearDialog.vue";
import SweepLines from "@/engine/SweepLines.vue";
import { useEngine } from "@/engine/engine";
import ReasonDialog from "@/bench/ReasonDialog.vue";
import ChoiceField from "@/shared/ChoiceField.vue";
import FormDialog from "@/shared/FormDialog.vue";
import { partWords } from "@/shared/problem";
import ProblemNote from "@/shared/ProblemNote.vue";
import { whenText } from "@/shared/format";

/** Where the crank is, and the one place where it is moved from outside a joint's own calls. */
const i18n = useI18n();
const { t } = i18n;
const engine = useEngine();
const crank = computed(() => engine.overhaul.value?.crank ?? null);
const works = computed(() => engine.page.value?.may_work ?? false);
const leads = computed(() => engine.page.value?.may_lead ?? false);
const first = computed(() => engine.page.value?.engine.firing_order[0] ?? "");
const byWord = computed(() => crank.value?.obstacles.some((one) => one.by_word) ?? false);
const heights = computed(() =>
  Object.entries(crank.value?.below_top_mm ?? {})
    .map(([name, mm]) => `${name}:\u00a0${Math.round(mm)}\u00a0mm`)
    .join(" · "),
);

const open = ref<"move" | "find" | "lose" | "free" | null>(null);
const angle = ref("");
const way = ref<"ahead" | "astern">("ahead");
const commander = ref("");
/** What was looked at, and which open doors and bores have answered: nothing is said before somebody says it. */
const LOOKS = ["sweep", "doors", "gear"] as const;
const looked = ref<string[]>([]);
const cleared = ref<string[]>([]);
const allClear = computed(
  () => crank.value?.to_clear.every((one) => cleared.value.includes(one.id)) ?? false,
);
const proof = ref("");
const stays = ref("");
const figure = computed(() => Number(angle.value.trim().replace(",", ".")));
const good = computed(() => angle.value.trim() !== "" && Number.isFinite(figure.value));

function begin(what: "move" | "find" | "lose" | "free"): void {
  engine.acting.clear();
  angle.value = "";
  stays.value = "";
  looked.value = [];
  cleared.value = [];
  commander.value = "";
  open.value = what;
}

const openWords = ({ joint, what, sort }: CrankView["to_clear"][number]): string =>
  sort === "part"
    ? t("engine.open_part", { joint, what: partWords(i18n, what) })
    : t(`engine.open_${sort}`, { joint });

async function move(): Promise<void> {
  open.value = null;
  await engine.send({
    kind: "move_crank",
    to_deg: figure.value,
    way: way.value,
    commander: commander.value.trim(),
    looked_at: looked.value,
    clear: cleared.value,
    stays: stays.value.trim() === "" ? null : stays.value.trim(),
  });
}

/** The log says that the turning gear is locked: it is freed for the move, by name, and locked again after it. */
async function freeGear(by: string): Promise<void> {
  if (open.value === "free") open.value = null;
  await engine.send({ kind: "free_gear", commander: by, run: null });
}

async function find(): Promise<void> {
  open.value = null;
  await engine.send({ kind: "find_crank", angle_deg: figure.value, proof: proof.value.trim() });
}

async function lose(words: string): Promise<void> {
  open.value = null;
  await engine.send({ kind: "lose_crank", words });
}
</script>

<template>
  <board-panel v-if="crank" :title="t('engine.crank')">
    <div class="both">
      <crank-dial :crank="crank" />
      <div class="facts">
        <p v-if="crank.angle_deg === null" class="big words">{{ t("engine.crank_unknown") }}</p>
        <p v-else class="big words">
          {{ t("engine.crank_at", { angle: Math.round(crank.angle_deg * 10) / 10, first }) }}
          <span v-if="crank.at_top.length > 0">
            · {{ t("engine.crank_top", { who: crank.at_top.join(", ") }) }}</span
          >
        </p>
        <p v-if="heights !== ''" class="muted">{{ t("engine.crank_heights", { heights }) }}</p>
        <p v-if="crank.by && crank.at" class="muted" translate="no">
          {{ t("engine.crank_by", { by: crank.by, at: whenText(crank.at) }) }}
        </p>
        <sweep-lines :crank="crank" />
      </div>
    </div>
    <div v-if="works" class="row">
      <v-btn @click="begin('find')">{{ t("engine.crank_find") }}</v-btn>
      <v-btn @click="begin('lose')">{{ t("engine.crank_lose") }}</v-btn>
      <v-btn v-if="crank.gear_locked" @click="begin('free')">{{ t("engine.gear_free_title") }}</v-btn>
      <v-btn class="main" @click="begin('move')">{{ t("engine.crank_move") }}</v-btn>
    </div>
    <form-dialog
      :open="open === 'move'"
      :title="t('engine.move_title')"
      :confirm="t('engine.move_do')"
      :ready="good && commander.trim() !== '' && looked.length > 0 && allClear && !crank.gear_locked"
      @done="move"
      @shut="open = null"
    >
      <sweep-lines :crank="crank" />
      <p class="muted to">{{ t("engine.move_to_cylinder") }}</p>
      <div class="tops" role="group" :aria-label="t('engine.move_to_cylinder')">
        <v-btn v-for="(deg, name) in crank.dead_centres" :key="name" @click="angle = deg.toFixed(1)">
          <span translate="no">{{ name }}</span>
        </v-btn>
      </div>
      <crank-height
        v-if="engine.page.value"
        :engine="engine.page.value.engine.id"
        :crank="crank"
        @found="angle = $event"
      />
      <v-text-field
        v-model="angle"
        :label="t('engine.move_to', { first })"
        inputmode="decimal"
        maxlength="8"
      />
      <choice-field
        v-model="way"
        :label="t('engine.move_way')"
        :items="crank.ways.map((value) => ({ value, title: t(`engine.way.${value}`) }))"
      />
      <v-text-field v-model="commander" :label="t('engine.move_commander')" maxlength="60" />
      <p v-if="crank.gear_locked" class="locked">{{ t("engine.obstacle.gear_isolated") }}</p>
      <v-btn
        v-if="crank.gear_locked"
        :disabled="commander.trim() === '' || engine.acting.busy.value"
        @click="freeGear(commander.trim())"
        >{{ t("engine.move_lift") }}</v-btn
      >
      <fieldset class="ticks">
        <legend>{{ t("engine.move_looked") }}</legend>
        <v-checkbox
          v-for="one in LOOKS"
          :key="one"
          v-model="looked"
          :value="t(`engine.look.${one}`)"
          :label="t(`engine.look.${one}`)"
          hide-details
        />
      </fieldset>
      <fieldset v-if="crank.to_clear.length > 0" class="ticks">
        <legend>{{ t("engine.move_clear") }}</legend>
        <v-checkbox
          v-for="one in crank.to_clear"
          :key="one.id"
          v-model="cleared"
          :value="one.id"
          :label="openWords(one)"
          hide-details
        />
      </fieldset>
      <problem-note :problem="engine.acting.problem.value" :unsent="engine.acting.unsent.value" />
      <v-text-field v-if="byWord && leads" v-model="stays" :label="t('engine.move_stays')" maxlength="200" />
    </form-dialog>
    <form-dialog
      :open="open === 'find'"
      :title="t('engine.find_title')"
      :confirm="t('engine.crank_find')"
      :ready="good && proof.trim() !== ''"
      @done="find"
      @shut="open = null"
    >
      <v-text-field
        v-model="angle"
        :label="t('engine.move_to', { first })"
        inputmode="decimal"
        maxlength="8"
      />
      <v-text-field v-model="proof" :label="t('engine.find_proof')" maxlength="200" />
    </form-dialog>
    <free-gear-dialog :open="open === 'free'" @done="freeGear" @shut="open = null" />
    <reason-dialog
      :open="open === 'lose'"
      :title="t('engine.lose_title')"
      text=""
      :label="t('engine.lose_label')"
      :confirm="t('engine.crank_lose')"
      :leave="t('ui.cancel')"
      @done="lose"
      @shut="open = null"
    />
  </board-panel>
</template>

<style scoped>
.to {
  margin: 0;
}

.both {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
}

.facts {
  display: grid;
  flex: 1 1 220px;
  gap: 4px;
}

.facts p {
  margin: 0;
}

.big {
  font-size: var(--size-4);
}

.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 8px;
}

.row .v-btn {
  flex: 1 1 auto;
  font-size: var(--size-3);
  height: 52px !important;
}

.tops {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}

.locked {
  border-left: 5px solid var(--out);
  font-weight: 700;
  margin: 0;
  padding-left: 8px;
}

.ticks {
  border: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(170px, 1fr));
  margin: 0;
  padding: 0;
}

.tops .v-btn {
  height: 48px !important;
  min-width: 48px;
  padding: 0 10px;
}
</style>
