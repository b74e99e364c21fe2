<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import { useEngine } from "@/engine/engine";

/** What is lifted for a test, and a turning gear that is free for a move: hands stay out until it is put back. */
const { t } = useI18n();
const engine = useEngine();
const works = computed(() => engine.page.value?.may_work ?? false);
const lifted = computed(() => engine.overhaul.value?.tests ?? []);
</script>

<template>
  <div v-for="one in lifted" :key="one.entry" class="lifted">
    <span class="words">{{
      one.moves_crank
        ? t("engine.gear_open", { by: one.guards })
        : t("engine.test_open", { test: one.test, guards: one.guards })
    }}</span>
    <v-btn v-if="works" class="main" @click="engine.send({ kind: 'put_back_after_test', lifted: one.entry })">
      {{ t(one.moves_crank ? "engine.gear_lock" : "engine.test_back") }}
    </v-btn>
  </div>
</template>

<style scoped>
.lifted {
  align-items: center;
  border: 2px solid var(--out);
  color: var(--out);
  display: flex;
  flex-wrap: wrap;
  font-weight: 700;
  gap: 10px;
  justify-content: space-between;
  margin-bottom: 8px;
  padding: 6px 10px;
}
</style>
