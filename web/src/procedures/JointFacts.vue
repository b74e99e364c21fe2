<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { ProcedureRead } from "@/api/types";
import { partWords } from "@/shared/problem";

/** What a procedure holds for and what it works on: variants, fasteners, lubricants, reuse, tools. */
const props = defineProps<{ document: ProcedureRead["document"] }>();
const i18n = useI18n();
const { t } = i18n;
const bare = (text: string): string => text.replace(" mm", "");

const groups = computed(() =>
  props.document.fasteners.map((group) => ({
    id: group.id,
    text: `${group.positions.length} × ${group.title} M${bare(group.thread.diameter)} × ${group.thread.pitch}, ${group.yield_strength}`,
    lubricant: `${group.lubricant.product}: ${group.lubricant.faces.join(", ")}`,
    friction: group.lubricant.friction,
    reuse: group.reuse
      ? t(`procedure.reuse.${group.reuse.rule}`, {
          growth: group.reuse.growth_limit ?? "",
          uses: group.reuse.uses ?? "",
        })
      : null,
  })),
);
const variants = computed(() =>
  props.document.variants.map((key) => ({
    id: key.id,
    title: key.title,
    text: key.serials
      ? `${key.serials.first} – ${key.serials.last}`
      : `${key.values.join(", ")}${key.others.length > 0 ? ` (≠ ${key.others.join(", ")})` : ""}`,
    evidence: key.evidence,
  })),
);
const parts = computed(() => [
  ...new Set(
    props.document.parts.map((part) =>
      String(part.title ?? partWords(i18n, part.which ? `${part.which}:${part.kind}` : part.kind)),
    ),
  ),
]);
</script>

<template>
  <dl>
    <template v-for="key in variants" :key="key.id">
      <dt translate="no">{{ key.title }}</dt>
      <dd>
        <b translate="no">{{ key.text }}</b>
        <span>{{ t("procedure.evidence", { words: key.evidence }) }}</span>
      </dd>
    </template>
    <template v-for="group in groups" :key="group.id">
      <dt>{{ t("procedure.fasteners") }}</dt>
      <dd>
        <b translate="no">{{ group.text }}</b>
        <span translate="no">
          {{ group.lubricant }}
          {{
            group.friction
              ? `· µ ${group.friction.least} – ${group.friction.usual} – ${group.friction.most}`
              : ""
          }}
        </span>
        <span v-if="group.reuse">{{ group.reuse }}</span>
      </dd>
    </template>
    <template v-for="group in document.redo" :key="group.id">
      <dt>{{ t("procedure.redo") }}</dt>
      <dd translate="no">{{ group.why }}</dd>
    </template>
    <template v-for="one in document.departures" :key="one.step">
      <dt>{{ t("procedure.departures") }}</dt>
      <dd>
        {{ one.rule }}
        <span>{{ t(`role.${one.authority}`) }}</span>
      </dd>
    </template>
    <template v-if="document.from && document.leaves">
      <dt>{{ t("procedure.condition") }}</dt>
      <dd>
        <b>{{ t(`condition.${document.from}`) }} → {{ t(`condition.${document.leaves}`) }}</b>
      </dd>
    </template>
    <template v-if="parts.length > 0">
      <dt>{{ t("procedure.parts") }}</dt>
      <dd>{{ parts.join(", ") }}</dd>
    </template>
    <template v-if="document.applies_to.undone_by">
      <dt>{{ t("procedure.undone_by") }}</dt>
      <dd translate="no">{{ document.applies_to.undone_by }}</dd>
    </template>
  </dl>
  <p v-if="groups.length === 0" class="muted">{{ t("procedure.no_fasteners") }}</p>
</template>

<style scoped>
dl {
  display: grid;
  font-size: var(--size-1);
  gap: 5px 12px;
  grid-template-columns: 92px 1fr;
  line-height: 1.3;
  margin: 8px 0 12px;
}

dt {
  color: var(--muted);
}

dd {
  margin: 0;
}

dd b {
  display: block;
}

dd span {
  color: var(--muted);
  display: block;
}
</style>
