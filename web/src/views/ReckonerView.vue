<script setup lang="ts">
import { onMounted, ref } from "vue";
import { api, take } from "@/api/client";
import type { QuestionListed, StudPreset } from "@/api/types";
import ReckonerDesk from "@/components/reckoner/ReckonerDesk.vue";

defineProps<{ question?: string }>();
const questions = ref<QuestionListed[] | null>(null);
const studs = ref<StudPreset[]>([]);

onMounted(async () => {
  const [asked, known] = await Promise.all([
    take(api.GET("/api/reckoner")),
    take(api.GET("/api/reckoner/studs")),
  ]);
  studs.value = known;
  questions.value = asked;
});
</script>

<template>
  <reckoner-desk v-if="questions" :questions="questions" :studs="studs" :wanted="question ?? ''" />
</template>
