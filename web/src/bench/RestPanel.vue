<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { BenchView } from "@/api/types";
import { useActions } from "@/bench/actions";
import { useWords } from "@/bench/words";
import ForYou from "@/plan/ForYou.vue";
import NeedsTag from "@/shared/NeedsTag.vue";

/** What stands there when there is no call, and what may be done about it. */
const props = defineProps<{ view: BenchView }>();
const { t } = useI18n();
const actions = useActions();
const words = useWords();
const reasonsOwed = computed(() => props.view.owed.some((one) => one.debt === "reason"));
const who = computed(() => props.view.parts.map((part) => part.by).join(", "));
</script>

<template>
  <div class="rest">
    <h1>{{ t(`bench.${view.status}_head`) }}</h1>
    <i18n-t v-if="view.status === 'paused'" keypath="bench.paused_text" scope="global" tag="p">
      <template #by
        ><span translate="no">{{ view.watch.by }}</span></template
      >
    </i18n-t>
    <i18n-t v-else-if="view.status === 'elsewhere'" keypath="bench.elsewhere_text" scope="global" tag="p">
      <template #who
        ><span translate="no">{{ who }}</span></template
      >
    </i18n-t>
    <template v-else>
      <p>{{ t(`bench.${view.status}_text`) }}</p>
      <ul v-if="view.status === 'blocked'" class="settle">
        <li v-for="one in words.owed(view.owed)" :key="one">{{ one }}</li>
      </ul>
    </template>
    <div v-if="view.carried.length > 0" class="carried">
      <h2>{{ t("bench.left_for_others") }}</h2>
      <ul translate="no">
        <li v-for="text in view.carried" :key="text">{{ text }}</li>
      </ul>
    </div>
    <for-you :most="1" />
    <v-btn v-if="view.status === 'paused'" class="main big" block @click="actions.takeOver">
      {{ t("bench.take_over") }}
    </v-btn>
    <v-btn
      v-if="view.status === 'paused'"
      class="big"
      block
      @click="actions.dialog.value = { kind: 'hand_over' }"
    >
      {{ t("handover.title") }}
    </v-btn>
    <v-btn v-if="reasonsOwed" class="main big" block @click="actions.giveOwedReason">
      {{ t("bench.give_reason") }}
    </v-btn>
    <v-btn v-if="view.status === 'complete'" class="main big" block @click="actions.close">
      {{ t("bench.finish") }}<needs-tag act="close_run" />
    </v-btn>
    <v-btn
      v-if="view.status === 'complete' || view.status === 'closed'"
      class="big"
      block
      :to="{ name: 'record', params: { run: view.run_id } }"
    >
      {{ t("berth.look") }}
    </v-btn>
  </div>
</template>

<style scoped>
.rest {
  display: flex;
  flex: 1;
  flex-direction: column;
  gap: 14px;
  justify-content: center;
}

.note ~ .rest {
  justify-content: flex-start;
}

h1 {
  font-size: var(--size-7);
}

p {
  font-size: var(--size-3);
  margin: 0;
}

.settle {
  font-size: var(--size-4);
  margin: 0;
}

.big {
  font-size: var(--size-5);
  height: 76px !important;
}
</style>
