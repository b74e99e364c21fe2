<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { ClaimView } from "@/api/types";
import { useClaimWords } from "@/bench/claims";
import { dayTimeText } from "@/shared/format";

/** Work that came late from a lost link, and what was decided on each. */
defineProps<{ claims: readonly ClaimView[] }>();
const { t } = useI18n();
const said = useClaimWords();
</script>

<template>
  <section>
    <h3 class="words">{{ t("record.claims") }}</h3>
    <ul class="plain">
      <li v-for="claim in claims" :key="claim.seq">
        <span translate="no">
          {{ claim.about?.title }} <b>{{ claim.about?.fastener }}</b>
          {{ " " }}
          <a v-if="claim.photo" :href="`/api/photos/${claim.photo}.jpg`" target="_blank" rel="noopener">{{
            said(claim)
          }}</a>
          <template v-else>{{ said(claim) }}</template> — {{ claim.by }}, {{ dayTimeText(claim.made_at) }}:
        </span>
        {{ " " }}
        <b v-if="claim.taken === null" class="words">{{ t("record.open") }}</b>
        <i18n-t v-else :keypath="claim.taken ? 'claim.taken' : 'claim.left'" scope="global" tag="span">
          <template #by
            ><span translate="no">{{ claim.settled_by }}</span></template
          >
          <template #words
            ><span translate="no">{{ claim.words }}</span></template
          >
        </i18n-t>
      </li>
    </ul>
  </section>
</template>

<style scoped>
h3 {
  font-size: var(--size-3);
  margin: 10px 0 2px;
}

li {
  padding: 2px 0;
}
</style>
