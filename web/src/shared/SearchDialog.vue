<script setup lang="ts">
import { onBeforeUnmount, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { useRouter, type RouteLocationRaw } from "vue-router";
import { api, answerOf } from "@/api/client";
import type { Hit } from "@/api/types";
import { useAsking } from "@/shared/acting";
import { vFocusFirst } from "@/shared/focusFirst";
import ProblemNote from "@/shared/ProblemNote.vue";

/** Everything that has a name, found from anywhere by a few letters of it. */
const props = defineProps<{ open: boolean }>();
const emit = defineEmits<{ shut: [] }>();
const { t } = useI18n();
const router = useRouter();
const words = ref("");
const found = useAsking<Hit[]>();

watch(
  () => props.open,
  () => {
    words.value = "";
    found.forget();
  },
);
/** Whoever is still typing does not ask yet. */
const TYPED_MS = 250;
let asking: ReturnType<typeof setTimeout> | undefined;
watch(words, (asked) => {
  clearTimeout(asking);
  found.forget();
  if (asked.trim() === "") return;
  asking = setTimeout(() => {
    void found.ask(() => answerOf(api.GET("/api/search", { params: { query: { words: asked } } })));
  }, TYPED_MS);
});
onBeforeUnmount(() => {
  clearTimeout(asking);
});

/** Where one goes from something that was found. */
function place(hit: Hit): RouteLocationRaw {
  switch (hit.kind) {
    case "engine":
    case "joint":
      return { name: "engine", params: { engine: hit.key } };
    case "stud":
      return { name: "record", params: { run: hit.key }, query: { stud: hit.stud } };
    case "run":
      return { name: "record", params: { run: hit.key } };
    case "procedure":
      return { name: "procedures", params: { hash: hit.key } };
    case "tool":
      return { name: "tools" };
    case "person":
      return { name: "records", query: { words: hit.key } };
  }
}

const also = (hit: Hit): string => (hit.kind === "person" ? t(`role.${hit.also}`) : hit.also);

async function go(hit: Hit | undefined): Promise<void> {
  if (hit === undefined) return;
  emit("shut");
  await router.push(place(hit));
}
</script>

<template>
  <v-dialog :model-value="open" :aria-label="t('search.title')" @update:model-value="emit('shut')">
    <form class="sheet" @submit.prevent="go(found.answer.value?.[0])">
      <h2>{{ t("search.title") }}</h2>
      <v-text-field v-model="words" v-focus-first :label="t('search.label')" type="search" maxlength="200" />
      <problem-note :problem="found.problem.value" :unsent="found.unsent.value" />
      <p v-if="found.answer.value?.length === 0" role="status">{{ t("search.none") }}</p>
      <ul class="plain">
        <li v-for="hit in found.answer.value ?? []" :key="`${hit.kind} ${hit.key} ${hit.title}`">
          <button type="button" @click="go(hit)">
            <small class="words">{{ t(`search.${hit.kind}`) }}</small>
            <b translate="no">{{ hit.title }}</b>
            <span class="muted" :translate="hit.kind === 'person' ? undefined : 'no'">{{ also(hit) }}</span>
          </button>
        </li>
      </ul>
      <div class="row">
        <v-btn @click="emit('shut')">{{ t("ui.close") }}</v-btn>
      </div>
    </form>
  </v-dialog>
</template>

<style scoped>
ul {
  margin-top: 8px;
  max-height: 52vh;
  overflow-y: auto;
}

li button {
  align-items: baseline;
  background: none;
  border: 0;
  border-bottom: 1px solid var(--line);
  color: var(--ink);
  cursor: pointer;
  display: flex;
  flex-wrap: wrap;
  font-size: var(--size-3);
  gap: 2px 12px;
  min-height: 48px;
  padding: 8px 4px;
  text-align: left;
  width: 100%;
}

small {
  color: var(--muted);
  font-size: var(--size-2);
  min-width: 90px;
}
</style>
