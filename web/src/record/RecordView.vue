<script setup lang="ts">
import WideTable from "@/shared/WideTable.vue";
import { computed, nextTick, useTemplateRef, watch } from "vue";
import { useI18n } from "vue-i18n";
import { api, answerOf } from "@/api/client";
import type { FoundView, RunRecord } from "@/api/types";
import MovementCard from "@/record/MovementCard.vue";
import PhotoCard from "@/record/PhotoCard.vue";
import ClaimLines from "@/record/ClaimLines.vue";
import EntryTable from "@/record/EntryTable.vue";
import { dayText, dayTimeText, figureText } from "@/shared/format";
import { useAsking } from "@/shared/acting";
import NotHere from "@/shared/NotHere.vue";

/** A stud that somebody looked for is marked where the record tells of it. */
const props = defineProps<{ run: string; stud?: string | undefined }>();
const { t } = useI18n();
const asking = useAsking<RunRecord>();
const record = asking.answer;
const FILES = ["pdf", "csv", "json"] as const;

function fetchRecord(): Promise<void> {
  const params = { path: { run_id: props.run } };
  return asking.ask(() => answerOf(api.GET("/api/runs/{run_id}/record", { params })));
}
watch(() => props.run, fetchRecord, { immediate: true });

const tellsOf = (name: string): boolean =>
  (record.value?.studs.some((one) => one.fastener === name) ?? false) ||
  filled.value.some((section) => section.rows.some((row) => row.fastener === name));
const whole = (value: number | null | undefined): string =>
  typeof value === "number" ? String(Math.round(value)) : "";

/** What several readings together say of fasteners. */
function foundWords(one: FoundView): string {
  const { names, share_pct, least_pct, most_pct } = one;
  const range = { share: whole(share_pct), least: whole(least_pct), most: whole(most_pct) };
  return t(`expected.${one.code}`, { ...range, names: names.join(", ") });
}

const page = useTemplateRef<HTMLElement>("page");
watch([record, (): unknown => props.stud], async () => {
  await nextTick();
  page.value?.querySelector("[aria-current=true]")?.scrollIntoView({ block: "center" });
});

/** Columns of which something is known. */
const COLUMNS = ["stretch", "clamp_stretch", "clamp_pressure", "clamp_turn", "after_neighbours"] as const;
const told = computed(() => COLUMNS.filter((c) => record.value?.studs.some((stud) => stud[c] !== null)));
const weighed = computed(() => record.value?.studs.some((stud) => stud.agreement !== null) ?? false);
const filled = computed(() => record.value?.sections.filter((section) => section.rows.length > 0) ?? []);
</script>

<template>
  <main v-if="record" id="content" ref="page" class="record">
    <header>
      <div>
        <h1 translate="no">{{ record.engine }} · {{ record.joint }}</h1>
        <p class="words sub">
          <span translate="no">{{ record.procedure_title }}</span> ·
          {{ t("ui.revision", { revision: record.revision }) }}
        </p>
      </div>
      <nav class="files" :aria-label="t('records.download')">
        <v-btn v-for="file in FILES" :key="file" :href="`/api/runs/${run}/record.${file}`">
          {{ t(`records.${file}`) }}
        </v-btn>
        <v-btn v-if="!record.closed" :href="`/api/runs/${run}/sheet.pdf`" target="_blank">{{
          t("sheet.print")
        }}</v-btn>
        <v-btn v-if="!record.closed" :to="{ name: 'sheet', params: { run } }">{{ t("sheet.open") }}</v-btn>
        <v-btn v-if="!record.closed" class="main" :to="{ name: 'bench', params: { run } }">{{
          t("berth.open")
        }}</v-btn>
      </nav>
    </header>
    <p v-if="record.brought_in" class="notice words">
      {{ t("record.brought_in", { by: record.brought_in.by, at: dayTimeText(record.brought_in.at) }) }}
    </p>
    <p v-if="stud !== undefined && !tellsOf(stud)" class="notice words" role="status">
      {{ t("record.nothing_of", { stud }) }}
    </p>
    <p v-if="!record.closed" class="notice words">{{ t("record.not_closed") }}</p>

    <section class="card">
      <h2>{{ t("record.exceptions_first") }}</h2>
      <p v-for="one in record.found" :key="`${one.code} ${one.group}`" class="found odd">
        <b translate="no">{{ one.group }}</b> {{ foundWords(one) }}
      </p>
      <p v-if="record.exceptions.length === 0 && record.found.length === 0">
        {{ t("record.exceptions_none") }}
      </p>
      <entry-table
        v-if="record.exceptions.length > 0"
        :rows="record.exceptions"
        :caption="t('record.exceptions_first')"
        :stud="stud"
      />
      <p v-for="d in record.rules_let" :key="d.rule + d.joint" class="remark">
        <b class="words">{{ t("record.rule_let") }}</b>
        <span translate="no">{{ d.rule }}, {{ d.joint }}: {{ d.reason }} · {{ d.by }}</span>
      </p>
      <p v-if="record.answered.length > 0" class="remark">
        {{ t("record.answered", { n: record.answered.length }) }}
        <span translate="no">{{ [...new Set(record.answered.map((one) => one.by))].join(", ") }}</span>
      </p>
      <p v-for="d in record.departures" :key="`${d.at}`" class="remark">
        <b class="words">{{ t("record.departures") }}</b>
        <span translate="no"
          >{{ d.title }} {{ d.fastener }}: {{ d.reason }} — {{ d.by }}, {{ dayTimeText(d.at) }}</span
        >
      </p>
      <p v-for="a in record.renewals" :key="`${a.at}`" class="remark">
        <b class="words">{{ t("record.renewals") }}</b>
        <span translate="no">{{ a.title }}: {{ a.words }} — {{ a.by }}, {{ dayTimeText(a.at) }}</span>
      </p>
      <claim-lines v-if="record.claims.length > 0" :claims="record.claims" />
      <p v-for="s in record.sister_checks" :key="s.seq" class="remark">
        <b class="words">{{ t("record.sisters") }}</b>
        <span translate="no">{{ s.joint }}, {{ s.cause }}: {{ s.title }}</span>
        <span v-if="s.found_too === null">{{ t("record.open") }}</span>
        <template v-else>
          {{ t(s.found_too ? "sister.too" : "sister.sound") }}
          <span translate="no">{{ s.words }} — {{ s.answered_by }}</span>
        </template>
      </p>
      <p v-for="s in record.stuck" :key="s.seq" class="remark">
        <b class="words">{{ t("stuck.title", { name: s.fastener ?? "" }) }}</b>
        <span v-if="s.stood" class="figure" translate="no">{{ figureText(s.stood) }}</span>
        {{ t(s.gap ? "stuck.gap" : "stuck.no_gap") }}
        <span translate="no">{{ s.by }}, {{ dayTimeText(s.at) }}</span>
        <span v-if="s.decided" translate="no">{{ s.decided }} — {{ s.decided_by }}</span>
        <span v-else>{{ t(s.freed ? "stuck.freed" : "record.open") }}</span>
      </p>
      <p v-for="(remark, i) in record.remarks" :key="i" class="remark">
        <b class="words">{{ t("bench.note") }}</b>
        <span translate="no">{{ remark.text }} — {{ remark.by }}, {{ dayTimeText(remark.at) }}</span>
      </p>
    </section>

    <div class="top" :class="{ alone: record.studs.length === 0 }">
      <section v-if="record.studs.length > 0" class="card">
        <h2>{{ t("record.studs") }}</h2>
        <wide-table
          file="studs"
          :label="t('record.studs')"
          class="studs"
          :class="{ many: record.studs.length > 8 }"
        >
          <thead>
            <tr>
              <th scope="col">{{ t("record.stud") }}</th>
              <th v-for="column in told" :key="column" scope="col" class="n">{{ t(`record.${column}`) }}</th>
              <th v-if="weighed" scope="col" class="n">{{ t("record.together") }}</th>
              <th scope="col">{{ t("record.verdict") }}</th>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="held in record.studs"
              :key="held.fastener"
              :aria-current="held.fastener === stud || undefined"
            >
              <th scope="row" class="figure" translate="no">{{ held.fastener }}</th>
              <td v-for="column in told" :key="column" class="n figure" translate="no">
                {{ figureText(held[column]) }}
              </td>
              <td v-if="held.together" class="n figure together" translate="no">
                {{ `${held.together.text} ± ${figureText(held.together_spread)}` }}
                <small v-if="held.together_own" class="words">{{
                  t("record.own", { x: figureText(held.together_own) })
                }}</small>
                <small v-if="held.by_movement" class="words odd">{{ t("record.by_movement") }}</small>
              </td>
              <td v-else-if="weighed" class="n words odd">
                {{ held.agreement ? t(`agreement.${held.agreement}`) : "" }}
              </td>
              <td class="words">{{ held.verdict ? t(`verdict.${held.verdict}`) : "" }}</td>
            </tr>
          </tbody>
        </wide-table>
      </section>
      <section class="card">
        <h2>{{ t("record.procedure") }}</h2>
        <dl>
          <dt>{{ t("record.engine") }}</dt>
          <dd translate="no">{{ record.engine_type }}, {{ record.serial }}</dd>
          <dt>{{ t("record.source") }}</dt>
          <dd translate="no">{{ record.source.document }}, {{ record.source.section }}</dd>
          <dt>{{ t("record.started") }}</dt>
          <dd translate="no">{{ record.started_by }}, {{ dayTimeText(record.started_at) }}</dd>
          <template v-if="record.closed">
            <dt>{{ t("records.closed") }}</dt>
            <dd translate="no">{{ record.closed.by }}, {{ dayTimeText(record.closed.at) }}</dd>
          </template>
          <dt>{{ t("record.crew") }}</dt>
          <dd translate="no">{{ [...new Set(record.watches.map((w) => w.by))].join(", ") }}</dd>
          <template v-for="s in record.signatures" :key="s.title">
            <dt>{{ t("record.signatures") }}</dt>
            <dd translate="no">{{ s.title }}: {{ s.by }}, {{ dayTimeText(s.at) }}</dd>
          </template>
          <dt>{{ t("record.tools") }}</dt>
          <dd translate="no">
            <span v-for="tool in record.tools" :key="tool.id" class="tool">
              {{ tool.id }} ({{ dayText(tool.calibration_due) }})
            </span>
          </dd>
          <dt>{{ t("record.hash") }}</dt>
          <dd class="figure hash" translate="no">{{ record.content_hash }}</dd>
        </dl>
      </section>
    </div>

    <movement-card
      v-if="record.movement.length > 0"
      :sheets="record.movement"
      :expected="record.moved_as_expected"
    />
    <photo-card v-if="record.photos.length > 0" :photos="record.photos" />
    <section v-for="section in filled" :key="section.step" class="card">
      <h2 translate="no">{{ section.title }}</h2>
      <entry-table :rows="section.rows" :caption="section.title" :stud="stud" />
    </section>
    <p class="muted">{{ t("record.disclaimer") }}</p>
  </main>
  <not-here v-else :problem="asking.problem.value" :unsent="asking.unsent.value" @again="fetchRecord" />
</template>

<style scoped>
.found {
  border-left: 12px solid var(--out);
  border-image: repeating-linear-gradient(45deg, var(--out) 0 3px, transparent 3px 6px) 12;
  border-image-width: 0 0 0 12px;
  margin: 8px 0;
  padding: 2px 10px;
}

.record {
  display: grid;
  gap: 14px;
  margin: 0 auto;
  max-width: 1240px;
  padding: 20px 24px 40px;
  width: 100%;
}

header {
  align-items: flex-end;
  display: flex;
  justify-content: space-between;
}

h1 {
  font-size: var(--size-6);
}

.sub {
  font-size: var(--size-4);
  margin: 0;
}

.files {
  display: flex;
  gap: 8px;
}

.notice {
  border: 2px solid var(--now);
  color: var(--now);
  font-size: var(--size-3);
  margin: 0;
  padding: 8px 14px;
}

.top {
  display: grid;
  gap: 14px;
  grid-template-columns: 640px 1fr;
}

.top.alone {
  grid-template-columns: 1fr;
}

.card {
  background: var(--panel);
  border: 1px solid var(--line);
  padding: 12px 18px 14px;
}

.card h2 {
  font-size: var(--size-4);
  margin-bottom: 6px;
}

.studs {
  border-collapse: collapse;
  width: 100%;
}

.studs th {
  font-family: var(--words);
  font-size: var(--size-2);
  line-height: 1.2;
  padding: 4px 7px;
  text-align: left;
}

.studs thead th {
  border-bottom: 1px solid var(--ink);
}

.studs td,
.studs tbody th {
  border-bottom: 1px solid var(--line);
  font-size: var(--size-2);
  height: 44px;
  padding: 0 7px;
  white-space: nowrap;
}

.studs.many td,
.studs.many tbody th {
  height: 27px;
}

.studs .together {
  font-weight: 700;
}

/* On a line of its own: it is looked for where two fasteners differ. */
.studs small {
  color: var(--muted);
  display: block;
  font-size: var(--size-1);
  font-weight: 400;
}

.studs .odd {
  color: var(--out);
  white-space: normal;
}

.studs .n {
  text-align: right;
}

dl {
  display: grid;
  font-size: var(--size-1);
  gap: 3px 14px;
  grid-template-columns: 130px 1fr;
  margin: 0;
}

dt {
  color: var(--muted);
  font-family: var(--words);
  font-size: var(--size-2);
}

dd {
  margin: 0;
}

.tool {
  display: inline-block;
  margin-right: 12px;
}

.hash {
  font-size: var(--size-1);
  overflow-wrap: anywhere;
}

.remark {
  margin: 8px 0 0;
}

.remark b {
  font-size: var(--size-3);
  margin-right: 10px;
}

.at-narrow .record {
  grid-template-columns: minmax(0, 1fr);
  padding: var(--gap-3);
}

.at-narrow .record > header {
  align-items: flex-start;
  flex-direction: column;
  gap: var(--gap-2);
}

.at-narrow .files {
  flex-wrap: wrap;
}

.at-narrow .top {
  grid-template-columns: minmax(0, 1fr);
}

.at-narrow .card {
  min-width: 0;
  padding: var(--gap-3);
}

.at-phone dl {
  grid-template-columns: minmax(0, 1fr);
}
</style>
