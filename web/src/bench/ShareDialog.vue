<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import { useActions } from "@/bench/actions";
import { useBench } from "@/bench/store";
import { useSession } from "@/shared/session";

/** Which fasteners one works on, while others do the rest. */
const { t } = useI18n();
const actions = useActions();
const bench = useBench();
const session = useSession();
const parts = computed(() => bench.view?.parts ?? []);
const others = computed(() => parts.value.filter((part) => part.person_id !== session.me?.id));
const mine = parts.value.find((part) => part.person_id === session.me?.id)?.fasteners ?? [];
const picked = ref(new Set(mine));
const names = computed(() => (bench.view?.plan.heads ?? []).map((head) => head.name));
const holder = (name: string): string | null =>
  others.value.find((part) => part.fasteners.includes(name))?.by ?? null;

function toggle(name: string): void {
  const next = new Set(picked.value);
  if (!next.delete(name)) next.add(name);
  picked.value = next;
}
const shut = (): void => {
  actions.dialog.value = null;
};
async function takeThem(fasteners: string[]): Promise<void> {
  shut();
  await actions.share(fasteners);
}
</script>

<template>
  <v-dialog :model-value="true" :aria-label="t('bench.part_title')" @update:model-value="shut">
    <div class="sheet">
      <h2>{{ t("bench.part_title") }}</h2>
      <p>{{ t("bench.part_text") }}</p>
      <div class="heads">
        <v-btn
          v-for="name in names"
          :key="name"
          :class="{ main: picked.has(name) }"
          :aria-pressed="picked.has(name)"
          :disabled="holder(name) !== null"
          @click="toggle(name)"
        >
          <span class="figure" translate="no">{{ name }}</span>
        </v-btn>
      </div>
      <p v-for="part in others" :key="part.person_id" class="muted" translate="no">
        {{ part.by }}: <span class="figure">{{ part.fasteners.join(" ") }}</span>
      </p>
      <div class="row">
        <v-btn @click="shut">{{ t("ui.cancel") }}</v-btn>
        <v-btn v-if="mine.length > 0" @click="takeThem([])">{{ t("bench.part_give") }}</v-btn>
        <v-btn class="main" :disabled="picked.size === 0" @click="takeThem([...picked])">{{
          t("bench.part_take")
        }}</v-btn>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.heads {
  display: grid;
  gap: 8px;
  grid-template-columns: repeat(auto-fill, minmax(72px, 1fr));
  margin: 12px 0;
}

.heads .v-btn {
  font-size: var(--size-5);
  height: 64px !important;
  min-width: 0;
}
</style>
