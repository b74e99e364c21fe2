<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { ClaimView, Row } from "@/api/types";
import { useClaimWords } from "@/bench/claims";
import { useActions } from "@/bench/actions";
import { useWords } from "@/bench/words";
import { figureText, whenText } from "@/shared/format";
import { useBench } from "@/bench/store";

/** Work that came late from a lost link, what had happened meanwhile, and the two ways to decide. */
const props = defineProps<{ claim: ClaimView; count: number; mayDecide: boolean }>();
const i18n = useI18n();
const { t } = i18n;
const words = useWords();
const bench = useBench();
const actions = useActions();
const said = useClaimWords();
const MEANWHILE = 3;

/** A reading that stands where this one would go; a strike, a note or a trouble has no such rival. */
const rival = computed(() => (props.claim.work === "record" ? props.claim.standing : null));
/** What stands there now says more than that somebody was first. */
const reason = computed(() => {
  const { code, params } = props.claim.why;
  if (rival.value !== null && code === "cell_taken") return null;
  const where = ["claim.why", "refusal"].find((place) => i18n.te(`${place}.${code}`));
  return where === undefined ? code : t(`${where}.${code}`, params);
});

/** The other reading is struck first, so that both stay in the record. */
async function takeInstead(other: Row): Promise<void> {
  const reason = t("claim.instead_reason");
  if (await actions.strike(other, reason)) {
    await actions.takeIn(props.claim.seq);
  }
}

/** One after the other in the order they were made; the first that does not fit stops it. */
async function takeAll(): Promise<void> {
  for (const one of bench.view?.claims ?? []) {
    if (!(await actions.takeIn(one.seq))) return;
  }
}
const photo = computed(() => `/api/photos/${props.claim.photo ?? ""}.jpg`);
const row = (one: Row): string =>
  `${one.fastener ?? ""} ${figureText(one.read) || words.answer(one)} · ${one.by} ${whenText(one.at)}`;
</script>

<template>
  <section class="note question" :aria-label="t('claim.title', { n: count })">
    <a v-if="claim.photo" :href="photo" target="_blank" rel="noopener"
      ><img :src="photo" :alt="t('record.photo_of', { title: claim.about?.title })"
    /></a>
    <p class="words">{{ t("claim.title", { n: count }) }}</p>
    <p class="what">
      <b v-if="claim.about?.fastener" class="figure" translate="no">{{ claim.about.fastener }}</b>
      <span class="figure" translate="no">{{ said(claim) }}</span>
      <small
        ><span v-if="claim.about" translate="no">{{ claim.about.title }} · </span>
        <i18n-t keypath="claim.made" scope="global">
          <template #by
            ><span translate="no">{{ claim.by }}</span></template
          >
          <template #at
            ><span translate="no">{{ whenText(claim.made_at) }}</span></template
          >
        </i18n-t></small
      >
    </p>
    <p v-if="reason" class="why">{{ reason }}</p>
    <p v-if="claim.standing" class="why">
      <b>{{ t("claim.standing") }}</b> <span translate="no">{{ row(claim.standing) }}</span>
    </p>
    <p v-else-if="claim.photo === null && claim.meanwhile.length > 0" class="why">
      <b>{{ t("claim.meanwhile") }}</b> {{ " " }}
      <span translate="no">{{ claim.meanwhile.slice(0, MEANWHILE).map(row).join("; ") }}</span>
    </p>
    <div v-if="mayDecide" class="ways">
      <v-btn v-if="rival" @click="takeInstead(rival)">{{ t("claim.instead") }}</v-btn>
      <v-btn v-else @click="actions.takeIn(claim.seq)">{{ t("claim.take") }}</v-btn>
      <v-btn v-if="count > 1 && !rival" @click="takeAll">{{ t("claim.take_all", { n: count }) }}</v-btn>
      <v-btn @click="actions.dialog.value = { kind: 'leave_claim', claim }">{{ t("claim.leave") }}</v-btn>
    </div>
    <p v-else class="why">{{ t("claim.wait") }}</p>
  </section>
</template>

<style scoped>
.what {
  align-items: baseline;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 9px;
}

img {
  float: right;
  height: 96px;
  margin: 0 0 4px 10px;
}

.ways {
  clear: both;
}
</style>
