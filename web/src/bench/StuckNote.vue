<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { StuckView } from "@/api/types";
import { useActions } from "@/bench/actions";
import { figureText } from "@/shared/format";

/** A nut that will not move, what the author says of the finding, and who decides. */
defineProps<{ stuck: StuckView; mayDecide: boolean }>();
const { t } = useI18n();
const actions = useActions();
</script>

<template>
  <section class="note question" role="alert">
    <p class="words">
      {{ t("stuck.title", { name: stuck.fastener ?? "" }) }}
      <span v-if="stuck.stood" class="figure" translate="no">{{ figureText(stuck.stood) }}</span>
      · {{ t(stuck.gap ? "stuck.gap" : "stuck.no_gap") }}
    </p>
    <p translate="no">{{ stuck.author }}</p>
    <p class="why">{{ t("stuck.waits", { role: t(`role.${stuck.authority}`) }) }}</p>
    <div v-if="mayDecide" class="ways">
      <v-btn @click="actions.dialog.value = { kind: 'decide', stuck }">{{ t("stuck.decide") }}</v-btn>
    </div>
  </section>
</template>
