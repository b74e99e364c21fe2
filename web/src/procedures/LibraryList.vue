<script setup lang="ts">
import ChoiceField from "@/shared/ChoiceField.vue";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import type { ProcedureListed } from "@/api/types";
import { useSession } from "@/shared/session";

/** The library: found by words, engine, kind of joint and status. */
const props = defineProps<{ listed: ProcedureListed[]; here: string | undefined }>();
defineEmits<{ bring: [] }>();
const { t } = useI18n();
const session = useSession();
const wanted = ref("");
const engine = ref("");
const joint = ref("");
const status = ref("");

const engines = computed(() => [...new Set(props.listed.map((p) => p.engine_type))].sort());
const joints = computed(() => [...new Set(props.listed.map((p) => p.joint))].sort());
const STATUSES = ["draft", "approved", "withdrawn"] as const;

const found = computed(() => {
  const words = wanted.value.toLowerCase().split(/\s+/).filter(Boolean);
  return props.listed.filter((p) => {
    if (engine.value !== "" && p.engine_type !== engine.value) return false;
    if (joint.value !== "" && p.joint !== joint.value) return false;
    if (status.value !== "" && p.status !== status.value) return false;
    const text =
      `${p.title} ${p.engine_type} ${p.joint} ${p.author} ${t(`procedure.status.${p.status}`)}`.toLowerCase();
    return words.every((word) => text.includes(word));
  });
});
/** A library of thousands is not drawn whole; what is looked for is near the top. */
const MOST = 200;
const drawn = computed(() => found.value.slice(0, MOST));
</script>

<template>
  <nav class="list" :aria-label="t('procedure.title')">
    <div class="tools">
      <v-text-field v-model="wanted" class="find" type="search" :label="t('procedure.find')" />
      <v-btn v-if="session.rights.has('import_procedure')" height="48" @click="$emit('bring')">
        {{ t("procedure.bring_in_short") }}
      </v-btn>
    </div>
    <div class="filters">
      <choice-field
        v-model="engine"
        :label="t('procedure.by_engine')"
        :items="[
          { value: '', title: t('procedure.engine_any') },
          ...engines.map((one) => ({ value: one, title: one, raw: true })),
        ]"
      />
      <choice-field
        v-model="joint"
        :label="t('procedure.by_joint')"
        :items="[
          { value: '', title: t('procedure.joint_any') },
          ...joints.map((one) => ({ value: one, title: t(`joint.${one}`) })),
        ]"
      />
      <choice-field
        v-model="status"
        :label="t('procedure.by_status')"
        :items="[
          { value: '', title: t('procedure.status_any') },
          ...STATUSES.map((one) => ({ value: one, title: t(`procedure.status.${one}`) })),
        ]"
      />
    </div>
    <p v-if="found.length === 0" class="none">{{ t("procedure.none") }}</p>
    <router-link
      v-for="p in drawn"
      :key="p.hash"
      class="entry"
      :class="{ here: p.hash === here }"
      :aria-current="p.hash === here ? 'page' : undefined"
      :to="`/procedures/${p.hash}`"
    >
      <span class="words name" translate="no">{{ p.title }}</span>
      <span class="words status" :class="p.status">{{ t(`procedure.status.${p.status}`) }}</span>
      <span class="small">
        {{ t("ui.revision", { revision: p.revision }) }} · {{ t(`joint.${p.joint}`) }} ·
        <span translate="no">{{ p.author }}</span>
      </span>
    </router-link>
    <p v-if="found.length > MOST" class="none">
      {{ t("procedure.more", { n: found.length - MOST }) }}
    </p>
    <p class="foot">
      <a class="words" href="/api/procedures/archive.zip">{{ t("procedure.zip") }}</a>
    </p>
  </nav>
</template>

<style scoped>
.list {
  background: var(--panel-2);
  border-right: 1px solid var(--line);
}

.tools {
  display: flex;
  gap: 8px;
  padding: 12px 12px 8px;
}

.find:focus-visible,
.filters select:focus-visible {
  outline: 3px solid var(--now);
}

.filters {
  display: grid;
  gap: 6px;
  grid-template-columns: 1fr 1fr;
  padding: 0 12px 10px;
}

.none,
.foot {
  padding: 8px 14px;
}

.foot a {
  color: var(--ink);
  font-size: var(--size-3);
}

.entry {
  border-bottom: 1px solid var(--line);
  border-left: 6px solid transparent;
  color: var(--ink);
  display: grid;
  gap: 0 8px;
  grid-template-columns: 1fr auto;
  padding: 9px 12px 9px 10px;
  text-decoration: none;
}

.entry.here {
  background: var(--panel);
  border-left-color: var(--now);
}

.name {
  font-size: var(--size-3);
}

.status {
  align-self: start;
  border: 1px solid var(--line-strong);
  font-size: var(--size-2);
  padding: 0 7px;
}

.status.approved {
  background: var(--fill);
  color: #fff;
}

.status.draft {
  border-style: dashed;
}

.status.withdrawn {
  text-decoration: line-through;
}

.small {
  color: var(--muted);
  font-size: var(--size-1);
  grid-column: 1 / -1;
  margin: 2px 0 0;
}

.filters :first-child {
  grid-column: 1 / -1;
}

.at-narrow .list {
  height: auto;
  max-height: none;
  position: static;
}
</style>
