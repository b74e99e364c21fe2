<script setup lang="ts">
import { useI18n } from "vue-i18n";
import { api, answerOf } from "@/api/client";
import type { PersonListed, Right } from "@/api/types";
import { useAsking } from "@/shared/acting";
import PeopleKeys from "@/shared/PeopleKeys.vue";
import ProblemNote from "@/shared/ProblemNote.vue";

/** Who does an act that whoever is signed in may not. */
const props = defineProps<{ act: Right }>();
const emit = defineEmits<{ pick: [person: PersonListed]; shut: [] }>();
const { t } = useI18n();
const able = useAsking<PersonListed[]>();
void able.ask(() => answerOf(api.GET("/api/people", { params: { query: { may: props.act } } })));
</script>

<template>
  <v-dialog :model-value="true" :aria-label="t('other.who_title')" @update:model-value="emit('shut')">
    <div class="sheet">
      <h2>{{ t("other.who_title") }}</h2>
      <p>{{ t("other.who_text") }}</p>
      <problem-note :problem="able.problem.value" :unsent="able.unsent.value" />
      <p v-if="able.answer.value?.length === 0">{{ t("other.nobody") }}</p>
      <people-keys :people="able.answer.value ?? []" @pick="(person) => emit('pick', person)" />
      <div class="row">
        <v-btn @click="emit('shut')">{{ t("ui.cancel") }}</v-btn>
      </div>
    </div>
  </v-dialog>
</template>
