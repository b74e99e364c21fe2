<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { PhotoView } from "@/api/types";
import { dayTimeText } from "@/shared/format";

/** The photographs of a run, each with what it was taken for. */
defineProps<{ photos: readonly PhotoView[] }>();
const { t } = useI18n();
</script>

<template>
  <section class="card">
    <h2>{{ t("record.photos") }}</h2>
    <div class="photos">
      <figure v-for="one in photos" :key="`${one.photo}${one.cell}${one.at}`">
        <a :href="`/api/photos/${one.photo}.jpg`" target="_blank" rel="noopener">
          <img
            :src="`/api/photos/${one.photo}.jpg`"
            :alt="t('record.photo_of', { title: [one.title, one.fastener].filter(Boolean).join(' ') })"
            translate="no"
            loading="lazy"
          />
        </a>
        <figcaption translate="no">
          {{ one.title }} {{ one.fastener }} <template v-if="one.words">— {{ one.words }}</template>
          <small>{{ one.by }}, {{ dayTimeText(one.at) }}</small>
        </figcaption>
      </figure>
    </div>
  </section>
</template>

<style scoped>
.photos {
  display: grid;
  gap: 16px;
  grid-template-columns: repeat(auto-fill, minmax(220px, 1fr));
}

figure {
  margin: 0;
}

img {
  aspect-ratio: 4 / 3;
  border: 1px solid var(--rule, currentcolor);
  object-fit: cover;
  width: 100%;
}

figcaption {
  font-size: var(--size-2);
}

small {
  display: block;
}
</style>
