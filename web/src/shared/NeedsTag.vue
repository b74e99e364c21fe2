<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { Right } from "@/api/types";
import { useSession } from "@/shared/session";

/** Whose PIN an act will ask for, said on its key before it is pressed; nothing for whoever may do it. */
const props = defineProps<{ act: Right }>();
const { t } = useI18n();
const session = useSession();
const role = computed(() => session.others(props.act));
</script>

<template>
  <small v-if="role" class="needs">{{ t("other.needs", { role: t(`role.${role}`) }) }}</small>
</template>

<style scoped>
.needs {
  border-left: 1px solid currentcolor;
  font-size: var(--size-2);
  margin-left: 8px;
  padding-left: 8px;
}
</style>
