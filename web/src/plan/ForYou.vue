<script setup lang="ts">
import { ref } from "vue";
import { useI18n } from "vue-i18n";
import { answerOf, api } from "@/api/client";
import type { ForMe } from "@/api/types";
import { whyText } from "@/plan/plan";
import { useBeside } from "@/shared/followed";
import { whenText } from "@/shared/format";
import { orLastAnswer } from "@/shared/lastAnswer";

/** What is next for whoever is signed in, by the plans in force. */
const props = defineProps<{ most?: number }>();
const { t } = useI18n();
const next = ref<readonly ForMe[]>([]);
useBeside(async () => {
  next.value = (await orLastAnswer("today", () => answerOf(api.GET("/api/today")))).value;
});
const why = (one: ForMe): string => whyText(t, one.work);
const shown = (): readonly ForMe[] => next.value.slice(0, props.most ?? next.value.length);
</script>

<template>
  <section v-if="next.length > 0" class="for-you">
    <h2>{{ t("plan.for_you") }}</h2>
    <router-link
      v-for="one in shown()"
      :key="one.work.id"
      class="entry"
      :to="{ name: 'plan', params: { engine: one.engine_id } }"
    >
      <span class="words lead" translate="no">{{
        [whenText(one.work.start_at), one.engine, one.work.label].join(" · ")
      }}</span>
      <span class="muted">
        <span translate="no">{{ one.work.title }}</span><template v-if="why(one)">, {{ why(one) }}</template
        ><template v-if="one.others.length > 0"
          >, {{ t("plan.with", { who: one.others.join(", ") }) }}</template
        >
      </span>
    </router-link>
  </section>
</template>

<style scoped>
.for-you {
  margin-bottom: 20px;
}

h2 {
  border-bottom: 2px solid currentcolor;
  font-size: var(--size-4);
  padding-bottom: 5px;
}

.entry {
  border-bottom: 1px solid var(--line);
  color: inherit;
  display: block;
  min-height: var(--touch);
  padding: 9px 0;
  text-decoration: none;
}

.entry > span {
  display: block;
}

.lead {
  font-size: var(--size-3);
  text-decoration: underline;
  text-decoration-color: var(--line-strong);
  text-underline-offset: 4px;
}

.entry .muted {
  font-size: var(--size-1);
}
</style>
