<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { Call } from "@/api/types";

/** Right beside wrong, in the author's words. */
defineProps<{ call: Call }>();
const { t } = useI18n();
</script>

<template>
  <div class="sides">
    <p class="right">
      <b class="words">{{ t("choice.right") }}</b> <span translate="no">{{ call.details["right"] }}</span>
    </p>
    <p class="wrong">
      <b class="words">{{ t("choice.wrong") }}</b> <span translate="no">{{ call.details["wrong"] }}</span>
    </p>
  </div>
</template>

<style scoped>
.sides {
  display: grid;
  gap: 10px;
  grid-template-columns: 1fr 1fr;
}

p {
  border-top: 4px solid var(--fill);
  font-size: var(--size-3);
  margin: 0;
  padding: 6px 4px;
}

.wrong {
  border-top: 4px dashed var(--out);
}

b {
  display: block;
  font-size: var(--size-4);
}
</style>
