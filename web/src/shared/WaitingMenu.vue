<script setup lang="ts">
import { mdiHandBackRight } from "@mdi/js";
import { useI18n } from "vue-i18n";
import { waitingForMe } from "@/shared/mine";

/** What waits for whoever is signed in, a touch away on every screen. */
const { t } = useI18n();
</script>

<template>
  <v-menu v-if="waitingForMe.length > 0">
    <template #activator="{ props: opens }">
      <button class="for-me words" type="button" v-bind="opens">
        <v-icon :icon="mdiHandBackRight" size="22" aria-hidden="true" />
        {{ t("waits.count", { n: waitingForMe.length }) }}
      </button>
    </template>
    <nav class="menu" :aria-label="t('berth.waiting')">
      <router-link
        v-for="one in waitingForMe"
        :key="one.run_id + one.what + one.since"
        class="words"
        :to="{ name: 'bench', params: { run: one.run_id } }"
      >
        <span>
          <span translate="no">{{ one.engine }} · {{ one.joint }}</span> —
          {{ one.what === "close" ? t("berth.close_it") : t(`berth.${one.what}`) }}
        </span>
        <small v-if="one.title" translate="no">{{ one.title }}</small>
      </router-link>
    </nav>
  </v-menu>
</template>

<style scoped>
.for-me {
  background: none;
  border: 0;
  color: #ff9142;
  cursor: pointer;
  flex: none;
  font-size: var(--size-4);
  gap: var(--gap-1);
  min-width: var(--touch);
  padding: 0 var(--gap-1);
  white-space: nowrap;
}
</style>
