<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { Call } from "@/api/types";

/** A second trip at the same torque: it should hardly move. */
defineProps<{ call: Call }>();
const { t } = useI18n();
</script>

<template>
  <div class="body column">
    <p class="torque figure" translate="no">{{ call.details["torque"] }}</p>
    <p class="limit">
      {{ t("procedure.fact.moves_at_most") }}
      <b class="figure" translate="no">{{ call.details["moves_at_most"] }}</b>
    </p>
  </div>
</template>

<style scoped>
.limit {
  color: var(--muted);
  font-size: var(--size-3);
  margin: 0;
}

b {
  color: var(--ink);
}
</style>
