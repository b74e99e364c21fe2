<script setup lang="ts">
import { mdiCamera } from "@mdi/js";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import { useActions } from "@/bench/actions";
import { useBench } from "@/bench/store";

/** Put a photograph to the call, from the tablet's camera or from a file. */
const props = defineProps<{ cell: string; taken: number | null; small?: boolean }>();
const { t } = useI18n();
const bench = useBench();
const actions = useActions();
const field = ref<HTMLInputElement | null>(null);
const sending = ref(false);
/** Pictures of this call that are only on this tablet yet. */
const here = computed(
  () =>
    bench.waiting.filter(({ command }) => command.kind === "picture" && command.cell === props.cell).length,
);

async function chosen(): Promise<void> {
  const file = field.value?.files?.[0];
  if (file === undefined) return;
  sending.value = true;
  try {
    await actions.photograph(props.cell, file);
  } finally {
    sending.value = false;
    if (field.value) field.value.value = "";
  }
}
</script>

<template>
  <div class="photo" :class="{ small }">
    <v-btn v-if="small" :disabled="sending" :aria-label="t('bench.photo_add')" @click="field?.click()">
      <v-icon :icon="mdiCamera" size="30" />
    </v-btn>
    <v-btn v-else :disabled="sending" @click="field?.click()">
      {{ sending ? t("bench.photo_sending") : t("bench.photo_add") }}
    </v-btn>
    <span v-if="here > 0 && bench.offline" class="words muted">{{
      t("bench.photos_here", { n: here })
    }}</span>
    <span v-else-if="taken !== null" class="words muted">{{ t("bench.photos_taken", { n: taken }) }}</span>
    <input
      ref="field"
      class="visually-hidden"
      type="file"
      accept="image/jpeg,image/png,image/webp"
      capture="environment"
      tabindex="-1"
      :aria-label="t('bench.photo')"
      @change="chosen"
    />
  </div>
</template>

<style scoped>
.photo {
  align-items: center;
  display: grid;
  gap: 12px;
  grid-template-columns: 1fr auto;
}

.v-btn {
  font-size: var(--size-4);
  height: 64px !important;
}

.photo.small {
  display: block;
  position: absolute;
  right: 8px;
  top: 6px;
}

.photo.small .v-btn {
  height: 64px !important;
  min-width: 72px;
  padding: 0;
}
</style>
