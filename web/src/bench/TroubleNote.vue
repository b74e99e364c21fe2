<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { TroubleView } from "@/api/types";
import { useActions } from "@/bench/actions";
import PhotoButton from "@/bench/PhotoButton.vue";
import NeedsTag from "@/shared/NeedsTag.vue";

/** An open trouble, and the ways in which it can end. */
defineProps<{ trouble: TroubleView }>();
const { t } = useI18n();
const actions = useActions();
</script>

<template>
  <section class="note trouble pictured" :aria-label="t('trouble.open')">
    <p class="words">
      {{ t(`trouble.${trouble.what}`) }}
      <small>
        <span translate="no">{{ trouble.title }}</span>
        <template v-if="trouble.fastener"> {{ t("trouble.at", { fastener: trouble.fastener }) }}</template>
      </small>
    </p>
    <photo-button :cell="trouble.cell" :taken="null" small />
    <div class="ways">
      <v-btn @click="actions.dialog.value = { kind: 'end', trouble, how: 'fixed' }">{{
        t("trouble.fixed")
      }}</v-btn>
      <v-btn @click="actions.redoTrouble(trouble)">{{ t("bench.redo") }}</v-btn>
      <v-btn @click="actions.dialog.value = { kind: 'cause', cell: trouble.cell }">{{
        t("bench.cause")
      }}</v-btn>
      <v-btn @click="actions.dialog.value = { kind: 'end', trouble, how: 'departure' }"
        >{{ t("trouble.departure") }}<needs-tag act="accept"
      /></v-btn>
    </div>
  </section>
</template>
