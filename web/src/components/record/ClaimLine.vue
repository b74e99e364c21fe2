<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { ClaimView } from "@/api/types";
import { useClaimWords } from "@/bench/claims";
import { dayTimeText } from "@/format";

/** Work that came late from a lost link, and what was decided on it. */
defineProps<{ claim: ClaimView }>();
const { t } = useI18n();
const said = useClaimWords();
</script>

<template>
  <p class="remark">
    <b class="words">{{ t("record.claims") }}</b>
    <span translate="no"
      >{{ claim.title }} {{ claim.fastener }}: {{ said(claim) }} — {{ claim.by }},
      {{ dayTimeText(claim.made_at) }}</span
    >
    <span v-if="claim.taken === null">{{ t("record.open") }}</span>
    <i18n-t v-else :keypath="claim.taken ? 'claim.taken' : 'claim.left'" scope="global" tag="span">
      <template #by
        ><span translate="no">{{ claim.settled_by }}</span></template
      >
      <template #words
        ><span translate="no">{{ claim.words }}</span></template
      >
    </i18n-t>
  </p>
</template>

<style scoped>
.remark {
  margin: 6px 0 0;
}
</style>
