<script setup lang="ts">
import { computed } from "vue";
import { useRoute } from "vue-router";
import AppBar from "@/components/AppBar.vue";
import { useSession } from "@/stores/session";

const route = useRoute();
const session = useSession();
const theme = computed(() => (route.name === "bench" || route.name === "bench-pick" ? "bench" : "paper"));
</script>

<template>
  <v-app :theme="theme">
    <app-bar v-if="session.me && route.name !== 'sign-in'" />
    <router-view />
  </v-app>
</template>
