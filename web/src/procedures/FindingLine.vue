<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { FoundFinding } from "@/api/types";
import { named } from "@/shared/problem";

defineProps<{ finding: FoundFinding }>();
const i18n = useI18n();
const { t } = i18n;
</script>

<template>
  <p class="finding" :class="finding.severity">
    <strong class="words">{{ t(`check.severity.${finding.severity}`) }}</strong>
    {{ t(`check.${finding.code}.what`, named(i18n, `check.${finding.code}.what`, finding.params)) }}
    <em>{{ t(`check.${finding.code}.cure`, named(i18n, `check.${finding.code}.cure`, finding.params)) }}</em>
  </p>
</template>

<style scoped>
.finding {
  border-left: 12px solid var(--doubt);
  font-size: var(--size-1);
  line-height: 1.35;
  margin: 6px 0;
  padding: 2px 10px;
}

/* Hatched like everything out of band; the words stand on plain ground. */
.finding.error {
  border-image: repeating-linear-gradient(45deg, var(--out) 0 3px, transparent 3px 6px) 12;
  border-image-width: 0 0 0 12px;
}

strong {
  color: var(--doubt);
  font-size: var(--size-3);
  margin-right: 6px;
}

/* Good to know: nothing to mend, and nothing to be alarmed by. */
.finding.note {
  border-left-color: var(--muted);
}

.note strong {
  color: var(--muted);
}

.error strong {
  color: var(--out);
}

em {
  display: block;
  font-style: normal;
  font-weight: 700;
}
</style>
