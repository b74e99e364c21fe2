<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { Owed } from "@/api/types";
import PhotoButton from "@/bench/PhotoButton.vue";

/** A photograph that a look still owes, once its own call has gone by. */
defineProps<{ owed: Pick<Owed, "cell" | "title"> }>();
const { t } = useI18n();
</script>

<template>
  <section class="note" :aria-label="t('bench.owed_photo')">
    <p class="words">
      {{ t("bench.photo_owed") }} <span translate="no">{{ owed.title }}</span>
    </p>
    <photo-button :cell="owed.cell" :taken="null" />
  </section>
</template>
