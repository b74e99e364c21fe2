<script setup lang="ts">
import { computed, watch } from "vue";
import { useI18n } from "vue-i18n";
import { useSession } from "@/shared/session";
import { useSiteSeal } from "@/shared/siteSeal";

/** What this tablet has seen of the record is not part of what the server has now. */
const { t } = useI18n();
const session = useSession();
const seal = useSiteSeal();
watch(() => session.me?.id, seal.again, { immediate: true });
const keeps = computed(() => session.me?.rights.includes("keep_register") ?? false);
</script>

<template>
  <section v-if="seal.clockBehind !== null" class="seal-lost" role="alert">
    <p class="words">
      <strong>{{ t("seal.clock_back") }}</strong>
      {{ t("seal.clock_back_text", { minutes: Math.ceil(seal.clockBehind / 60) }) }}
    </p>
  </section>
  <section v-else-if="seal.clockForward !== null" class="seal-lost" role="status">
    <p class="words">
      <strong>{{ t("seal.clock_forward") }}</strong>
      {{ t("seal.clock_forward_text", { minutes: Math.ceil(seal.clockForward / 60) }) }}
    </p>
  </section>
  <section v-if="seal.lost && seal.seen" class="seal-lost" role="alert">
    <p class="words">
      <strong>{{ t("seal.lost") }}</strong>
      {{ t("seal.lost_text", { seen: seal.seen.size, now: seal.now?.size ?? 0 }) }}
    </p>
    <v-btn v-if="keeps" @click="seal.known">{{ t("seal.known") }}</v-btn>
  </section>
</template>

<style scoped>
.seal-lost {
  align-items: center;
  border-left: 6px solid var(--out);
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  margin: 10px 24px;
  padding: 6px 12px;
}

.at-narrow .seal-lost {
  margin: var(--gap-3);
}

p {
  flex: 1 1 320px;
  font-size: var(--size-4);
  margin: 0;
}

strong {
  color: var(--out);
  display: block;
}
</style>
