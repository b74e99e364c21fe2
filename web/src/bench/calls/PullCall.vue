<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { Call } from "@/api/types";
import { figureText } from "@/shared/format";

/** A pull: the torque across the engine, about how far the head moves, what it holds so far. */
defineProps<{ call: Call }>();
const { t } = useI18n();
</script>

<template>
  <div v-if="call.item === 'pull'" class="body column">
    <p class="torque figure" translate="no">{{ call.details["torque"] }}</p>
    <p class="beside">
      <span v-if="call.movement">{{ t("bench.about", { angle: figureText(call.movement) }) }}</span>
      <span v-if="call.holds">{{ t("bench.holds", { load: figureText(call.holds) }) }}</span>
      <span v-if="call.details['lubricant']" translate="no">{{ call.details["lubricant"] }}</span>
    </p>
  </div>
</template>
