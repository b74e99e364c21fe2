<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { Call } from "@/api/types";

/** Things that the step states, each with its word: the fields named, in this order. */
const props = defineProps<{ call: Call; of: readonly string[] }>();
const i18n = useI18n();
const { t } = i18n;
const rows = computed(() =>
  props.of.flatMap((name) => {
    const single = props.call.details[name];
    const several = props.call.lines[name];
    if (single !== undefined) return [{ name, values: [single] }];
    return several && several.length > 0 ? [{ name, values: several }] : [];
  }),
);
const coded = (value: string): boolean => i18n.te(`procedure.code.${value}`);
</script>

<template>
  <dl v-if="rows.length > 0">
    <template v-for="row in rows" :key="row.name">
      <dt class="words">{{ t(`procedure.fact.${row.name}`) }}</dt>
      <dd>
        <template v-for="value in row.values" :key="value">
          <span v-if="coded(value)">{{ t(`procedure.code.${value}`) }}</span>
          <span v-else translate="no">{{ value }}</span>
        </template>
      </dd>
    </template>
  </dl>
</template>

<style scoped>
dl {
  display: grid;
  font-size: var(--size-3);
  gap: 4px 14px;
  grid-template-columns: auto 1fr;
  line-height: 1.3;
  margin: 0;
}

dt {
  color: var(--muted);
  font-size: var(--size-3);
}

dd {
  margin: 0;
}

dd span {
  display: block;
}
</style>
