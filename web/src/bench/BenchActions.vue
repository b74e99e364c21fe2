<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { BenchView } from "@/api/types";
import { useActions } from "@/bench/actions";

/** One touch each: turn, mirror, strike, trouble, note, hand over. */
const props = defineProps<{ view: BenchView; mirrored: boolean }>();
const emit = defineEmits<{ turn: []; mirror: [] }>();
const { t } = useI18n();
const actions = useActions();
const underWay = computed(() => ["call", "blocked", "elsewhere"].includes(props.view.status));
</script>

<template>
  <div class="actions">
    <v-btn @click="emit('turn')">{{ t("bench.turn") }}<span class="key" translate="no">R</span></v-btn>
    <v-btn :aria-pressed="mirrored" @click="emit('mirror')">
      {{ t("bench.mirror") }}<span class="key" translate="no">F</span>
    </v-btn>
    <v-btn :disabled="!view.last_may_strike" @click="actions.strikeLast">
      {{ t("bench.strike") }}<span class="key" translate="no">⌫</span>
    </v-btn>
    <v-btn :disabled="!underWay" @click="actions.dialog.value = { kind: 'trouble' }">
      {{ t("trouble.button") }}<span class="key" translate="no">T</span>
    </v-btn>
    <v-btn @click="actions.dialog.value = { kind: 'note' }"
      >{{ t("bench.note") }}<span class="key" translate="no">N</span></v-btn
    >
    <v-btn :disabled="view.status === 'closed'" @click="actions.dialog.value = { kind: 'hand_over' }">
      {{ t("bench.hand_over") }}<span class="key" translate="no">H</span>
    </v-btn>
  </div>
</template>

<style scoped>
.actions {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  padding: 6px 20px 10px;
}

.at-narrow .actions {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  padding: var(--gap-2) var(--gap-3);
}

.actions .v-btn {
  flex: 1 1 auto;
  font-size: var(--size-4);
  min-width: max-content;
  padding: 0 10px;
}

.at-narrow .actions .v-btn {
  min-width: 0;
}

/* On a small tablet the words need the room; the letters stand in the help. */
@media (width < 1200px) and (width >= 960px) {
  .actions {
    gap: 4px;
    padding: 4px 12px 6px;
  }

  .actions .v-btn {
    font-size: var(--size-3);
    padding: 0 6px;
  }

  .actions .v-btn :deep(.key),
  .actions .key {
    display: none;
  }
}
</style>
