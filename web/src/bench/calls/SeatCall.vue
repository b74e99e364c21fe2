<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { Call } from "@/api/types";

/** The direction of the job decides: pistons home and left there, or home and then backed off. */
defineProps<{ call: Call }>();
const { t } = useI18n();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M52 58 V30 h16 v28 M36 30 h48 v-18 h-48 z" />
      <path v-if="call.details['direction'] === 'loosen'" class="now" d="M98 30 V10 m-6 7 l6 -8 l6 8" />
      <path v-else class="now" d="M98 8 V28 m-6 -7 l6 8 l6 -8" />
    </svg>
    <p class="words way">
      {{ t(`procedure.code.${call.details["direction"] ?? "tighten"}`) }}
      <span v-if="call.details['back_off']" class="figure" translate="no">{{
        call.details["back_off"]
      }}</span>
    </p>
  </div>
</template>

<style scoped>
.way {
  font-size: var(--size-4);
  margin: 0;
}
</style>
