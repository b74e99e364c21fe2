<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { PersonListed } from "@/api/types";

/** People to pick from, each a key as large as a glove. */
defineProps<{ people: readonly PersonListed[] }>();
const emit = defineEmits<{ pick: [person: PersonListed] }>();
const { t } = useI18n();
</script>

<template>
  <div class="people">
    <v-btn v-for="person in people" :key="person.id" @click="emit('pick', person)">
      <span class="who">
        <b translate="no">{{ person.name }}</b>
        <small>{{ t(`role.${person.role}`) }}</small>
      </span>
    </v-btn>
  </div>
</template>

<style scoped>
.people {
  display: grid;
  gap: 8px;
  grid-template-columns: repeat(auto-fill, minmax(min(190px, 100%), 1fr));
}

.people .v-btn {
  height: auto !important;
  min-height: 64px;
  padding: 6px 12px;
}

.who {
  display: grid;
  justify-items: center;
  white-space: normal;
}

.who b {
  font-size: var(--size-4);
}

.who small {
  color: var(--muted);
  font-size: var(--size-2);
}
</style>
