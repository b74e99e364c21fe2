<script setup lang="ts">
import { mdiChevronDown, mdiHelp, mdiMagnify, mdiMenu } from "@mdi/js";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import { useRoute, useRouter } from "vue-router";
import { useDisplay } from "vuetify";
import UnitsDialog from "@/shared/UnitsDialog.vue";
import HelpDialog from "@/shared/HelpDialog.vue";
import SearchDialog from "@/shared/SearchDialog.vue";
import WaitingMenu from "@/shared/WaitingMenu.vue";
import { useFolds } from "@/shared/folding";
import { useGoing, useShortcuts } from "@/shared/shortcuts";
import { useOutbox } from "@/shared/outbox";
import { useSession } from "@/shared/session";

const { t } = useI18n();
const session = useSession();
const router = useRouter();
const route = useRoute();
const outbox = useOutbox();
const unitsOpen = ref(false);
const helpOpen = ref(false);
const searchOpen = ref(false);
useGoing();
useShortcuts({ "?": () => (helpOpen.value = true), "/": () => (searchOpen.value = true) });
const places = [
  { key: "berth", to: "/" },
  { key: "bench", to: "/bench" },
  { key: "strips", to: "/strips" },
  { key: "gates", to: "/gates" },
  { key: "records", to: "/records" },
  { key: "procedures", to: "/procedures" },
  { key: "reckoner", to: "/reckoner" },
] as const;

const { lgAndUp, xlAndUp, xs } = useDisplay();
/** How much of the bar stands in its menu: nothing, the places, or everything. */
const [PLACES, EVERYTHING] = [1, 2];
const row = ref<HTMLElement | null>(null);
const least = computed(() => (xs.value ? EVERYTHING : lgAndUp.value ? 0 : PLACES));
const folds = useFolds(row, least, EVERYTHING);
const small = computed(() => folds.value >= EVERYTHING);
const isHere = (to: string): boolean => (to === "/" ? route.path === "/" : route.path.startsWith(to));
const here = computed(() => places.find((place) => isHere(place.to)));

async function leave(): Promise<void> {
  await session.signOut();
  await router.push({ name: "sign-in" });
}
</script>

<template>
  <header ref="row" class="bar">
    <a class="visually-hidden" href="#content">{{ t("nav.skip") }}</a>
    <span v-if="folds < PLACES" class="name words">{{ t("ui.app") }}</span>
    <nav v-if="folds < PLACES" :aria-label="t('nav.go')">
      <router-link
        v-for="place in places"
        :key="place.key"
        :to="place.to"
        class="place words"
        :class="{ here: isHere(place.to) }"
      >
        {{ t(`nav.${place.key}`) }}
      </router-link>
    </nav>
    <v-menu v-else>
      <template #activator="{ props: opens }">
        <button class="fold words" type="button" v-bind="opens">
          <v-icon :icon="mdiMenu" size="26" aria-hidden="true" />
          {{ here ? t(`nav.${here.key}`) : t("ui.app") }}
          <span class="visually-hidden">{{ t("nav.go") }}</span>
        </button>
      </template>
      <nav class="menu" :aria-label="t('nav.go')">
        <router-link v-for="place in places" :key="place.key" class="words" :to="place.to">
          {{ t(`nav.${place.key}`) }}
        </router-link>
        <template v-if="small">
          <button type="button" class="words" @click="searchOpen = true">{{ t("search.title") }}</button>
          <button type="button" class="words" @click="helpOpen = true">{{ t("help.title") }}</button>
          <button type="button" class="words" @click="unitsOpen = true">{{ t("units.title") }}</button>
          <button type="button" class="words" @click="leave">{{ t("nav.sign_out") }}</button>
        </template>
      </nav>
    </v-menu>
    <span id="bar-slot" class="slot">
      <span v-if="outbox.mine.length > 0 && route.name !== 'bench'" class="waits" role="status">{{
        t("bench.waiting_short", { n: outbox.mine.length })
      }}</span>
    </span>
    <waiting-menu />
    <button v-if="session.me && !small" class="who words" type="button" @click="unitsOpen = true">
      <span translate="no">{{ session.me.name }}</span>
      <template v-if="xlAndUp"> · {{ t(`role.${session.me.role}`) }}</template>
      <v-icon :icon="mdiChevronDown" size="20" aria-hidden="true" />
      <span class="visually-hidden">{{ t("units.title") }}</span>
    </button>
    <button
      v-if="!small"
      class="icon"
      type="button"
      :aria-label="t('search.title')"
      @click="searchOpen = true"
    >
      <v-icon :icon="mdiMagnify" size="26" aria-hidden="true" />
    </button>
    <button v-if="!small" class="icon" type="button" :aria-label="t('help.title')" @click="helpOpen = true">
      <v-icon :icon="mdiHelp" size="24" aria-hidden="true" />
    </button>
    <units-dialog :open="unitsOpen" @shut="unitsOpen = false" />
    <help-dialog :open="helpOpen" @shut="helpOpen = false" />
    <search-dialog :open="searchOpen" @shut="searchOpen = false" />
    <button v-if="!small" class="leave words" type="button" @click="leave">{{ t("nav.sign_out") }}</button>
  </header>
</template>

<style scoped>
.bar {
  align-items: stretch;
  background: var(--bar);
  color: #eef1ee;
  display: flex;
  flex: none;
  font-size: var(--size-4);
  gap: 8px;
  height: 64px;
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
  font-size: var(--size-5);
  margin-right: 14px;
}

nav {
  gap: 2px;
}

/* A key that shrank would cut its words, and the bar would not know that it has to fold. */
.fold,
.who,
.leave {
  flex: none;
}

.fold {
  background: none;
  border: 0;
  color: #fff;
  cursor: pointer;
  font-size: var(--size-4);
  gap: var(--gap-2);
  min-width: var(--touch);
  padding: 0 var(--gap-2) 0 0;
}

.at-narrow .bar {
  gap: 4px;
  padding: 0 var(--gap-3);
}

.place {
  border-bottom: 4px solid transparent;
  border-top: 4px solid transparent;
  color: #c6d1d5;
  display: flex;
  align-items: center;
  height: 100%;
  padding: 0 11px;
  text-decoration: none;
  white-space: nowrap;
}

.place.here {
  border-bottom-color: #ff9142;
  color: #fff;
}

.slot {
  flex: 1;
  flex-wrap: wrap;
  line-height: 1.1;
  min-width: 0;
  justify-content: flex-end;
  font-size: var(--size-3);
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
  font-size: var(--size-4);
  gap: 5px;
  padding-left: 10px;
  white-space: nowrap;
}

.icon {
  background: none;
  border: 0;
  color: #c6d1d5;
  cursor: pointer;
  justify-content: center;
  min-width: var(--touch);
}

.leave {
  background: none;
  border: 0;
  border-left: 1px solid #45565e;
  color: #c6d1d5;
  cursor: pointer;
  margin-left: 10px;
  padding: 0 0 0 16px;
  white-space: nowrap;
}
</style>
