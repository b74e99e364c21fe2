<script setup lang="ts">
import { computed, defineAsyncComponent, watch, watchEffect } from "vue";
import { useI18n } from "vue-i18n";
import { useRoute } from "vue-router";
import { useDisplay } from "vuetify";
import { useLink } from "@/shared/link";
import { marked } from "@/i18n";
import { isLanguage, showIn } from "@/shared/language";
import { large, look } from "@/shared/look";
import { useSession } from "@/shared/session";

/** What only somebody who has signed in sees is fetched then. */
const AppBar = defineAsyncComponent(() => import("@/shared/AppBar.vue"));
const FirstHint = defineAsyncComponent(() => import("@/shared/FirstHint.vue"));
const SealNote = defineAsyncComponent(() => import("@/shared/SealNote.vue"));
const WaitNote = defineAsyncComponent(() => import("@/shared/WaitNote.vue"));

const route = useRoute();
const { t } = useI18n();
const link = useLink();
const { xs, smAndDown, height } = useDisplay();
watch(
  () => route.fullPath,
  () => (link.pageMissing = false),
);
const session = useSession();
/** Dark at the engine and light on paper, unless the place wants it otherwise. */
const theme = computed(() => {
  if (look.value !== "own") return look.value === "dark" ? "bench" : "paper";
  return route.name === "bench" || route.name === "bench-pick" ? "bench" : "paper";
});

/** Whoever signs in reads in their own language, whatever the tablet was left in. */
watch(
  () => session.me?.language,
  (code) => {
    if (!marked && isLanguage(code)) void showIn(code);
  },
);

const LOW_PX = 700;
/** Of what size the screen is: dialogs lie beside the page, and are to know it, too. */
watchEffect(() => {
  const { classList } = document.documentElement;
  classList.toggle("at-phone", xs.value);
  classList.toggle("at-narrow", smAndDown.value);
  classList.toggle("at-low", height.value < LOW_PX);
  classList.toggle("large", large.value === "on");
});
</script>

<template>
  <v-app :theme="theme">
    <app-bar v-if="session.me && route.name !== 'sign-in'" />
    <wait-note v-if="session.me && route.name !== 'sign-in'" :key="session.me.id" />
    <seal-note v-if="session.me && route.name !== 'sign-in'" />
    <first-hint v-if="session.me && route.name !== 'sign-in'" />
    <p v-if="link.pageMissing" class="unheard words" role="alert">{{ t("error.page") }}</p>
    <router-view />
  </v-app>
</template>

<style scoped>
.unheard {
  border-left: 5px solid var(--out);
  font-size: var(--size-4);
  margin: 10px 24px;
  padding: 6px 12px;
}
</style>
