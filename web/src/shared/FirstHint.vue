<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import { useRoute } from "vue-router";
import { hints } from "@/shared/look";

/** What a screen is for, said once on each tablet, and never again there. */
const i18n = useI18n();
const { t } = i18n;
const route = useRoute();
const STORED = "jorvek.seen";
const seen = ref(new Set((localStorage.getItem(STORED) ?? "").split(" ")));
const name = computed(() => String(route.name ?? ""));
const shown = computed(
  () => hints.value === "on" && i18n.te(`help.${name.value}`) && !seen.value.has(name.value),
);

function shut(): void {
  seen.value = new Set([...seen.value, name.value]);
  localStorage.setItem(STORED, [...seen.value].join(" ").trim());
}
</script>

<template>
  <aside v-if="shown" class="hint" :aria-label="t('help.title')">
    <span>{{ t(`help.${name}`) }}</span>
    <v-btn @click="shut">{{ t("help.seen") }}</v-btn>
  </aside>
</template>

<style scoped>
.hint {
  align-items: center;
  background: var(--panel);
  border-bottom: 1px solid var(--line);
  border-left: 5px solid var(--fill);
  display: flex;
  flex-wrap: wrap;
  font-size: var(--size-3);
  gap: 8px 16px;
  padding: 6px 19px;
}

span {
  flex: 1 1 260px;
}
</style>
