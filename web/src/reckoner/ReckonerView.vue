<script setup lang="ts">
import { onMounted, ref } from "vue";
import { api, answerOf } from "@/api/client";
import type { QuestionListed, StudPreset } from "@/api/types";
import ReckonerDesk from "@/reckoner/ReckonerDesk.vue";

defineProps<{ question?: string }>();
const questions = ref<QuestionListed[] | null>(null);
const studs = ref<StudPreset[]>([]);

onMounted(async () => {
  const [asked, known] = await Promise.all([
    answerOf(api.GET("/api/reckoner")),
    answerOf(api.GET("/api/reckoner/studs")),
  ]);
  studs.value = known;
  questions.value = asked;
});
</script>

<template>
  <reckoner-desk v-if="questions" :questions="questions" :studs="studs" :wanted="question ?? ''" />
</template>
