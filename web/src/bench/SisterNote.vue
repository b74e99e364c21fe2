<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { SisterView } from "@/api/types";
import { useActions } from "@/bench/actions";

/** A fault found on a sister, and whether it is here, too. */
defineProps<{ check: SisterView }>();
const { t } = useI18n();
const actions = useActions();
</script>

<template>
  <section class="note" :aria-label="t('sister.title', { joint: check.joint })">
    <p class="words">
      <i18n-t keypath="sister.title" scope="global">
        <template #joint
          ><span translate="no">{{ check.joint }}</span></template
        > </i18n-t
      >:
      <span translate="no">{{ check.cause }}</span>
    </p>
    <p class="why">
      {{ t(check.done_again ? "sister.text" : "sister.first") }} <span translate="no">{{ check.title }}</span>
    </p>
    <div v-if="check.done_again" class="ways">
      <v-btn @click="actions.dialog.value = { kind: 'sister', check, too: false }">{{
        t("sister.sound")
      }}</v-btn>
      <v-btn @click="actions.dialog.value = { kind: 'sister', check, too: true }">{{
        t("sister.too")
      }}</v-btn>
    </div>
  </section>
</template>
