<script setup lang="ts">
import { ref } from "vue";
import { useI18n } from "vue-i18n";
import { answerOf, api } from "@/api/client";
import { useActing } from "@/shared/acting";
import ProblemNote from "@/shared/ProblemNote.vue";

defineProps<{ open: boolean }>();
const emit = defineEmits<{ shut: []; taken: [hash: string]; brought: [] }>();
const { t } = useI18n();
const text = ref("");
const packed = ref<File | null>(null);
const name = ref("");
const { problem, unsent, act } = useActing();
const said = ref("");

async function choose(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement;
  const file = input.files?.[0];
  problem.value = null;
  said.value = "";
  // The last file's text must not be sent while this one is being read.
  text.value = "";
  packed.value = null;
  if (!file) return;
  name.value = file.name;
  if (file.name.toLowerCase().endsWith(".zip")) packed.value = file;
  else text.value = await file.text();
  // A browser says nothing when the same file is chosen again, mended; emptied, it does.
  input.value = "";
}

/** The archive goes as it is; the typed client would write it as text. */
async function bringArchive(file: File): Promise<void> {
  const bodySerializer = (): Blob => file;
  const headers = { "Content-Type": "application/octet-stream" };
  const brought = await answerOf(
    api.POST("/api/procedures/archive", { body: file.name, bodySerializer, headers }),
  );
  said.value = t("procedure.brought", { taken: brought.taken.length, known: brought.known.length });
  emit("brought");
}

async function bringIn(): Promise<void> {
  await act(async () => {
    if (packed.value) await bringArchive(packed.value);
    else {
      const { hash } = await answerOf(api.POST("/api/procedures", { body: { document: text.value } }));
      emit("taken", hash);
    }
    text.value = "";
    packed.value = null;
  });
}
</script>

<template>
  <v-dialog
    :model-value="open"
    max-width="760"
    :aria-label="t('procedure.bring_in')"
    @update:model-value="emit('shut')"
  >
    <div class="sheet">
      <h2>{{ t("procedure.bring_in") }}</h2>
      <p>{{ t("procedure.bring_in_text") }}</p>
      <!-- The browser's own: a library's field says nothing when the same file is chosen again, mended. -->
      <label class="file words">
        {{ t("procedure.file") }} <input type="file" accept=".yaml,.yml,.zip" @change="choose" />
        <span class="figure" translate="no">{{ name }}</span>
      </label>
      <p v-if="said !== ''" role="status">{{ said }}</p>
      <problem-note :problem="problem" :unsent="unsent" @again="bringIn" />
      <ol v-if="problem" class="lines">
        <li v-for="(found, k) in problem.findings" :key="k">
          <b class="figure" translate="no">{{ t("procedure.line", { n: found.line }) }}</b>
          <span translate="no">{{ found.where }}: {{ found.message }}</span>
        </li>
      </ol>
      <div class="row">
        <v-btn @click="emit('shut')">{{ t("ui.cancel") }}</v-btn>
        <v-btn class="main" :disabled="text === '' && packed === null" @click="bringIn">{{
          t("procedure.take_in")
        }}</v-btn>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.file {
  display: block;
  font-size: var(--size-3);
  padding: 8px 0 12px;
}

.lines {
  font-size: var(--size-1);
  list-style: none;
  max-height: 280px;
  overflow-y: auto;
  padding: 0;
}

.lines li {
  border-top: 1px solid var(--line);
  padding: 5px 0;
}

.lines b {
  margin-right: 10px;
}
</style>
