<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { StuckView } from "@/api/types";
import { useActions } from "@/bench/actions";
import { useBench } from "@/bench/store";
import { figureText } from "@/shared/format";
import NeedsTag from "@/shared/NeedsTag.vue";

/** A nut that will not move, what the author says of the finding, and who decides. */
defineProps<{ stuck: StuckView }>();
const { t } = useI18n();
const actions = useActions();
const bench = useBench();
/** The call that proves zero is open beside the nuts, whatever is decided. */
const letOff = computed(() => bench.calls.find((one) => one.item === "zero") ?? null);
</script>

<template>
  <section class="note question" role="alert">
    <p class="words">
      {{ t("stuck.title", { name: stuck.fastener ?? "" }) }}
      <span v-if="stuck.stood" class="figure" translate="no">{{ figureText(stuck.stood) }}</span>
      · {{ t(stuck.gap ? "stuck.gap" : "stuck.no_gap") }}
    </p>
    <p class="author" translate="no">{{ stuck.author }}</p>
    <p class="why">{{ t("stuck.waits", { who: t(`by_rank.${stuck.authority}`) }) }}</p>
    <div class="ways">
      <v-btn v-if="letOff" @click="bench.pick(letOff)">{{ t("stuck.let_off") }}</v-btn>
      <v-btn @click="actions.dialog.value = { kind: 'decide', stuck }"
        >{{ t("stuck.decide") }}<needs-tag act="accept"
      /></v-btn>
    </div>
  </section>
</template>

<style scoped>
.author {
  font-size: var(--size-2);
  line-height: 1.25;
}
</style>
