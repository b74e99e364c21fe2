<script setup lang="ts">
import { mdiChevronDown } from "@mdi/js";
import { ref } from "vue";
import { useI18n } from "vue-i18n";
import { useRoute, useRouter } from "vue-router";
import UnitsDialog from "@/shared/UnitsDialog.vue";
import { useOutbox } from "@/shared/outbox";
import { useSession } from "@/shared/session";

const { t } = useI18n();
const session = useSession();
const router = useRouter();
const route = useRoute();
const outbox = useOutbox();
const unitsOpen = ref(false);
const places = [
  { key: "berth", to: "/" },
  { key: "bench", to: "/bench" },
  { key: "strips", to: "/strips" },
  { key: "gates", to: "/gates" },
  { key: "records", to: "/records" },
  { key: "procedures", to: "/procedures" },
  { key: "reckoner", to: "/reckoner" },
] as const;

async function leave(): Promise<void> {
  await session.signOut();
  await router.push({ name: "sign-in" });
}
</script>

<template>
  <header class="bar">
    <a class="visually-hidden" href="#content">{{ t("nav.skip") }}</a>
    <span class="name words">{{ t("ui.app") }}</span>
    <nav :aria-label="t('nav.go')">
      <router-link
        v-for="place in places"
        :key="place.key"
        :to="place.to"
        class="place words"
        :class="{ here: place.to === '/' ? route.path === '/' : route.path.startsWith(place.to) }"
      >
        {{ t(`nav.${place.key}`) }}
      </router-link>
    </nav>
    <span id="bar-slot" class="slot">
      <span v-if="outbox.mine.length > 0 && route.name !== 'bench'" class="waits" role="status">{{
        t("bench.waiting_short", { n: outbox.mine.length })
      }}</span>
    </span>
    <button v-if="session.me" class="who words" type="button" @click="unitsOpen = true">
      <span translate="no">{{ session.me.name }}</span> · {{ t(`role.${session.me.role}`) }}
      <v-icon :icon="mdiChevronDown" size="20" aria-hidden="true" />
      <span class="visually-hidden">{{ t("units.title") }}</span>
    </button>
    <units-dialog :open="unitsOpen" @shut="unitsOpen = false" />
    <button class="leave words" type="button" @click="leave">{{ t("nav.sign_out") }}</button>
  </header>
</template>

<style scoped>
.bar {
  align-items: stretch;
  background: var(--bar);
  color: #eef1ee;
  display: flex;
  flex: none;
  font-size: 20px;
  gap: 8px;
  height: 56px;
  padding: 0 24px;
}

.bar > * {
  align-items: center;
  display: flex;
}

.bar .visually-hidden:focus {
  clip-path: none;
  height: auto;
  position: static;
  width: auto;
}

.name {
  font-size: 25px;
  margin-right: 14px;
}

nav {
  gap: 2px;
}

.place {
  border-bottom: 4px solid transparent;
  border-top: 4px solid transparent;
  color: #c6d1d5;
  display: flex;
  align-items: center;
  height: 100%;
  padding: 0 14px;
  text-decoration: none;
}

.place.here {
  border-bottom-color: #ff9142;
  color: #fff;
}

.slot {
  flex: 1;
  justify-content: flex-end;
  font-size: 17px;
  font-family: var(--words);
  gap: 14px;
  color: #c6d1d5;
}

.waits {
  color: #ffd65a;
  font-weight: 600;
}

.who {
  background: none;
  border: 0;
  color: inherit;
  cursor: pointer;
  font-size: 20px;
  gap: 5px;
  padding-left: 10px;
}

.leave {
  background: none;
  border: 0;
  border-left: 1px solid #45565e;
  color: #c6d1d5;
  cursor: pointer;
  margin-left: 10px;
  padding: 0 0 0 16px;
}
</style>
