<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import type { PointNow } from "@/api/types";
import BoardPanel from "@/engine/BoardPanel.vue";
import LiftedNote from "@/engine/LiftedNote.vue";
import { useEngine } from "@/engine/engine";
import FormDialog from "@/shared/FormDialog.vue";
import { whenText } from "@/shared/format";

/** The isolations point by point: who shut what, under which lock, and tests for which some are lifted. */
const { t } = useI18n();
const engine = useEngine();
const over = engine.overhaul;
const works = computed(() => engine.page.value?.may_work ?? false);
const points = computed(() => over.value?.points ?? []);

const picked = ref<PointNow | null>(null);
const lock = ref("");
const permit = ref("");
function pick(point: PointNow): void {
  engine.acting.clear();
  lock.value = "";
  picked.value = point;
}
async function done(): Promise<void> {
  const point = picked.value;
  picked.value = null;
  if (point === null) return;
  if (point.state === "open") {
    const said = { lock: lock.value.trim() || null, permit: permit.value.trim() || null };
    await engine.send({ kind: "isolate", point: point.point, ...said });
  } else {
    await engine.send({ kind: "restore_point", point: point.point });
  }
}

const testing = ref(false);
const lifted = ref<PointNow["point"][]>([]);
const test = ref("");
const guards = ref("");
const liftable = computed(() => points.value.filter((one) => one.for_test && one.state === "isolated"));
async function lift(): Promise<void> {
  testing.value = false;
  await engine.send({
    kind: "lift_for_test",
    points: lifted.value,
    test: test.value.trim(),
    guards: guards.value.trim(),
  });
}
</script>

<template>
  <board-panel v-if="over" :title="t('engine.isolations')">
    <template v-if="works && liftable.length > 0 && over.tests.length === 0" #act>
      <v-btn @click="((lifted = []), (testing = true))">{{ t("engine.test") }}</v-btn>
    </template>
    <lifted-note />
    <ul class="plain points">
      <li v-for="point in points" :key="point.point" :class="point.state">
        <component
          :is="works ? 'button' : 'span'"
          class="point"
          :type="works ? 'button' : undefined"
          @click="works && pick(point)"
        >
          <span class="lockmark" aria-hidden="true">{{
            point.state === "isolated" ? "■" : point.state === "lifted" ? "◩" : "□"
          }}</span>
          <span class="words">{{ t(`isolation.${point.point}`) }}</span>
          <span class="said">
            {{
              t(
                point.state === "open"
                  ? "engine.point_open"
                  : point.state === "lifted"
                    ? "engine.lifted"
                    : "engine.isolated",
              )
            }}
            <span v-if="point.by && point.at" translate="no">
              · {{ [point.lock, point.by, whenText(point.at)].filter(Boolean).join(", ") }}</span
            >
          </span>
        </component>
      </li>
    </ul>
    <form-dialog
      :open="picked !== null"
      :title="picked ? t(`isolation.${picked.point}`) : ''"
      :text="[picked?.text, picked?.place].filter(Boolean).join(', ')"
      :confirm="picked?.state === 'open' ? t('engine.isolate') : t('engine.restore')"
      :ready="picked !== null && picked.state !== 'lifted'"
      @done="done"
      @shut="picked = null"
    >
      <template v-if="picked?.state === 'open'">
        <v-text-field v-if="picked.locks" v-model="lock" :label="t('engine.lock')" maxlength="60" />
        <v-text-field v-model="permit" :label="t('engine.permit')" maxlength="60" />
      </template>
    </form-dialog>
    <form-dialog
      :open="testing"
      :title="t('engine.test_title')"
      :confirm="t('engine.test')"
      :ready="lifted.length > 0 && test.trim() !== '' && guards.trim() !== ''"
      @done="lift"
      @shut="testing = false"
    >
      <v-checkbox
        v-for="point in liftable"
        :key="point.point"
        v-model="lifted"
        :value="point.point"
        :label="t(`isolation.${point.point}`)"
      />
      <v-text-field v-model="test" :label="t('engine.test_what')" maxlength="200" />
      <v-text-field v-model="guards" :label="t('engine.test_guards')" maxlength="200" />
    </form-dialog>
  </board-panel>
</template>

<style scoped>
.points {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(230px, 1fr));
}

.point {
  align-items: baseline;
  background: none;
  border: 0;
  border-top: 1px solid var(--line);
  color: inherit;
  display: grid;
  font: inherit;
  gap: 0 8px;
  grid-template-columns: auto minmax(0, 1fr);
  min-height: var(--touch);
  padding: 6px 8px 6px 0;
  text-align: left;
  width: 100%;
}

button.point {
  cursor: pointer;
}

.lockmark {
  font-size: var(--size-4);
  grid-row: span 2;
}

.words {
  font-size: var(--size-3);
}

.said {
  color: var(--muted);
  font-size: var(--size-1);
}

.open .words {
  font-weight: 400;
}

.lifted .words {
  color: var(--out);
}
</style>
