<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import { counted } from "@/shared/problem";
import { useRouter } from "vue-router";
import { api, answerOf, newId } from "@/api/client";
import { orLastAnswer } from "@/shared/lastAnswer";
import type { Berth, EngineStrip, JointCell } from "@/api/types";
import EngineSection from "@/berth/EngineSection.vue";
import StartDialog from "@/berth/StartDialog.vue";
import { dayText, whenText } from "@/shared/format";
import ForYou from "@/plan/ForYou.vue";
import ReasonDialog from "@/bench/ReasonDialog.vue";
import ProblemNote from "@/shared/ProblemNote.vue";
import { useActing } from "@/shared/acting";
import { useFollowed } from "@/shared/followed";
import { useSession } from "@/shared/session";

const i18n = useI18n();
const { t } = i18n;
const router = useRouter();
const session = useSession();
const berth = ref<Berth | null>(null);
/** When the server last said it, while it does not answer. */
const asAt = ref<string | null>(null);
const picked = ref<{ engine: EngineStrip; joint: JointCell } | null>(null);
const mayStart = computed(() => session.rights.has("start_run"));

async function fetchBerth(): Promise<void> {
  const said = await orLastAnswer("berth", () => answerOf(api.GET("/api/berth")));
  berth.value = said.value;
  asAt.value = said.fresh ? null : said.at;
}

useFollowed(fetchBerth);

/** What stands in the way is a touch away. */
function goTo(key: string): void {
  const engine = picked.value?.engine;
  const joint = engine?.joints.find((one) => one.key === key);
  if (engine && joint) picked.value = { engine, joint };
}

async function started(run: string): Promise<void> {
  picked.value = null;
  await router.push({ name: "bench", params: { run } });
}

/** What can go on now, engine by engine; more than a few would be a plan. */
const NEXT_SHOWN = 4;
const following = computed(() =>
  (berth.value?.engines ?? [])
    .flatMap((engine) => engine.joints.filter((j) => j.next).map((joint) => ({ engine, joint })))
    .sort((a, b) => Number(a.joint.home) - Number(b.joint.home))
    .slice(0, NEXT_SHOWN),
);
const firstOffer = (joint: JointCell): string =>
  joint.offers.find((offer) => offer.when === "now" && offer.barriers.length === 0)?.title ?? "";

/** What is due on the engines later; the nearest first. */
const LATER_SHOWN = 5;
const doing = ref<Berth["later"][number] | null>(null);
const acting = useActing();
function laterWords(d: Berth["later"][number]): string {
  if (d.over && !d.late) {
    if (d.latest_at !== null) return t("berth.later_window_at", { at: whenText(d.latest_at) });
    return t("berth.later_window_hours", { hours: Math.round(d.latest_left ?? 0) });
  }
  if (d.due_at !== null) return t(d.over ? "berth.later_over" : "berth.later_at", { at: whenText(d.due_at) });
  if (d.hours_left === null) return t("berth.later_start");
  const hours = Math.round((d.late ? d.latest_left : null) ?? d.hours_left);
  return t(d.over ? "berth.later_hours_over" : "berth.later_hours", { hours: Math.abs(hours) });
}
/** The stops of a running-in have names of the engine sheet; the first start has none. */
function laterTitle(d: Berth["later"][number]): string {
  if (d.overhaul_id === null) return d.title;
  return t(d.method === "" ? "berth.first_start" : "berth.run_in");
}
const laterWhat = (d: Berth["later"][number]): string => [laterTitle(d), d.method].filter(Boolean).join(": ");
async function followUp(words: string): Promise<void> {
  const work = doing.value;
  doing.value = null;
  if (work === null) return;
  await acting.act(async () => {
    if (work.run_id !== null) {
      const params = { path: { run_id: work.run_id, step: work.step } };
      await answerOf(api.POST("/api/runs/{run_id}/follow-ups/{step}", { params, body: { words } }));
    } else if (work.overhaul_id !== null) {
      const params = { path: { overhaul_id: work.overhaul_id } };
      const command = { kind: "note_run_in" as const, id: newId(), stop: work.step, words };
      const body = { command, pin: null, other_pin: null, kept_s: null };
      await answerOf(api.POST("/api/overhauls/{overhaul_id}/commands", { params, body }));
    }
    await fetchBerth();
  });
}

/** Where no overhaul is open, whoever starts says that everything stands closed up, as it ran. */
const openOverhaul = computed(
  () => berth.value?.engines.find((one) => one.id === doing.value?.engine_id)?.overhaul != null,
);
async function beginFollowUp(): Promise<void> {
  const work = doing.value;
  if (work === null || work.run_id === null) return;
  const params = { path: { run_id: work.run_id, step: work.step } };
  const body = { id: newId(), run_id: newId(), as_it_ran: !openOverhaul.value };
  doing.value = null;
  await acting.act(async () => {
    const run = await answerOf(api.POST("/api/runs/{run_id}/follow-ups/{step}/run", { params, body }));
    await started(run.run_id);
  });
}

function dueWords(days: number): string {
  if (days < 0) return counted(i18n, "berth.due_over", { days: -days });
  return days === 0 ? t("berth.due_today") : counted(i18n, "berth.due_in", { days });
}

const benchOf = (run: string): { name: string; params: { run: string } } => ({
  name: "bench",
  params: { run },
});
</script>

<template>
  <main id="content" class="berth">
    <h1 class="visually-hidden">{{ t("berth.title") }}</h1>
    <div class="engines">
      <p v-if="asAt" class="as-at words" role="status">{{ t("berth.as_at", { at: whenText(asAt) }) }}</p>
      <p v-if="berth?.engines.length === 0">{{ t("berth.empty") }}</p>
      <engine-section
        v-for="engine in berth?.engines ?? []"
        :key="engine.id"
        :engine="engine"
        @pick="(joint) => (picked = { engine, joint })"
      />
    </div>
    <aside v-if="berth">
      <problem-note :problem="acting.problem.value" :unsent="acting.unsent.value" />
      <for-you />
      <section>
        <h2>{{ t("berth.next_title") }}</h2>
        <p v-if="following.length === 0" class="none muted">{{ t("berth.next_none") }}</p>
        <button
          v-for="one in following"
          :key="one.engine.id + one.joint.key"
          class="entry"
          type="button"
          @click="picked = one"
        >
          <span class="words lead" translate="no">{{ one.engine.name }} · {{ one.joint.label }}</span>
          <span class="muted" translate="no">{{ firstOffer(one.joint) }}</span>
        </button>
      </section>
      <section>
        <h2>{{ t("berth.waiting") }}</h2>
        <p v-if="berth.waiting.length === 0" class="none muted">{{ t("berth.waiting_none") }}</p>
        <router-link
          v-for="w in berth.waiting"
          :key="w.run_id + w.what + w.since"
          class="entry"
          :to="benchOf(w.run_id)"
        >
          <span class="words lead">
            <span translate="no">{{ w.engine }} · {{ w.joint }}</span> —
            {{ w.what === "close" ? t("berth.close_it") : t(`berth.${w.what}`) }}
          </span>
          <span class="muted">
            <span v-if="w.title" translate="no">{{ w.title }}. </span>
            <i18n-t keypath="berth.since" scope="global">
              <template #by
                ><span translate="no">{{ w.by }}</span></template
              >
              <template #at
                ><span class="time" translate="no">{{ whenText(w.since) }}</span></template
              >
            </i18n-t>
          </span>
        </router-link>
      </section>
      <section v-if="berth.later.length > 0">
        <h2>{{ t("berth.later_work") }}</h2>
        <button
          v-for="d in berth.later.slice(0, LATER_SHOWN)"
          :key="(d.run_id ?? d.overhaul_id) + d.step"
          class="entry"
          type="button"
          @click="doing = d"
        >
          <span class="words lead">
            <span translate="no">{{ d.engine }} · {{ d.joint }}</span> ·
            <span :class="{ over: d.over }">{{ laterWords(d) }}</span>
          </span>
          <span class="muted" translate="no">{{ laterWhat(d) }}</span>
        </button>
      </section>
      <section>
        <h2>
          <router-link :to="{ name: 'tools' }">{{ t("berth.tools") }}</router-link>
        </h2>
        <p v-if="berth.due.length === 0" class="none muted">{{ t("berth.due_none") }}</p>
        <div v-for="d in berth.due" :key="d.tool" class="entry">
          <span class="words lead">
            <span translate="no">{{ d.tool }}</span> —
            <span :class="{ over: d.days < 0 }">{{ dueWords(d.days) }}</span>
          </span>
          <span class="muted" translate="no">{{ d.name }} · {{ dayText(d.due) }}</span>
        </div>
      </section>
      <section>
        <h2>{{ t("berth.now") }}</h2>
        <p v-if="berth.on_engine.length === 0" class="none muted">{{ t("berth.now_none") }}</p>
        <router-link v-for="o in berth.on_engine" :key="o.run_id" class="entry" :to="benchOf(o.run_id)">
          <span class="words lead" translate="no">{{ o.by }} — {{ o.engine }} · {{ o.joint }}</span>
          <span class="muted">
            {{ t(`berth.${o.status}`) }}<span v-if="o.title" translate="no">, {{ o.title }}</span>
          </span>
        </router-link>
      </section>
    </aside>

    <reason-dialog
      :open="doing !== null"
      :title="t('berth.later_title', { title: doing ? laterTitle(doing) : '' })"
      :text="[doing?.state, doing?.method].filter(Boolean).join('. ')"
      :label="t('berth.later_label')"
      :confirm="t('berth.later_done')"
      :leave="t('ui.cancel')"
      @done="followUp"
      @shut="doing = null"
    >
      <v-btn v-if="doing?.under_way" class="main wide" :to="benchOf(doing.under_way)">{{
        t("berth.later_at_it", { by: doing.by ?? "" })
      }}</v-btn>
      <v-btn v-else-if="doing?.again && mayStart" class="main wide" @click="beginFollowUp">{{
        t(openOverhaul ? "berth.later_begin" : "berth.later_begin_as_it_ran")
      }}</v-btn>
    </reason-dialog>
    <v-dialog
      :model-value="picked !== null"
      :aria-label="t('berth.sheet', { label: picked?.joint.label ?? '' })"
      @update:model-value="picked = null"
    >
      <start-dialog
        v-if="picked"
        :engine-id="picked.engine.id"
        :engine="picked.engine.name"
        :overhaul="picked.engine.overhaul !== null"
        :serial="picked.engine.serial"
        :joint="picked.joint"
        :may-start="mayStart"
        @shut="picked = null"
        @started="started"
        @go="goTo"
      />
    </v-dialog>
  </main>
</template>

<style scoped>
.as-at {
  border-left: 5px solid var(--doubt);
  font-size: var(--size-4);
  margin: 0 0 10px;
  padding: 4px 12px;
}

.berth {
  align-items: start;
  display: grid;
  gap: 20px 28px;
  grid-template-columns: minmax(0, 1fr) 326px;
  padding: 18px 24px 32px;
}

.engines {
  display: grid;
  gap: 14px;
}

.at-narrow .berth {
  grid-template-columns: minmax(0, 1fr);
  padding: var(--gap-3);
}

aside section {
  margin-bottom: 20px;
}

aside h2 {
  border-bottom: 2px solid var(--ink);
  font-size: var(--size-4);
  padding-bottom: 5px;
}

.entry,
.none {
  border-bottom: 1px solid var(--line);
  color: inherit;
  display: block;
  margin: 0;
  min-height: var(--touch);
  padding: 9px 0;
  text-decoration: none;
}

button.entry {
  background: none;
  border-left: 0;
  border-right: 0;
  border-top: 0;
  cursor: pointer;
  font: inherit;
  text-align: left;
  width: 100%;
}

button.entry .lead {
  text-decoration: underline;
  text-decoration-color: var(--line-strong);
  text-underline-offset: 4px;
}

h2 a {
  color: inherit;
}

.entry > span {
  display: block;
}

.lead {
  font-size: var(--size-3);
}

a.entry .lead {
  text-decoration: underline;
  text-decoration-color: var(--line-strong);
  text-underline-offset: 4px;
}

.entry .muted {
  font-size: var(--size-1);
}

.over {
  color: var(--out);
}
</style>
