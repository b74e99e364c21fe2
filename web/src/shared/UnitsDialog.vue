<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import { unitText } from "@/shared/format";
import { useSession } from "@/shared/session";
import LookRows from "@/shared/LookRows.vue";
import SignalRows from "@/shared/SignalRows.vue";

/** The units that one likes to work in. */
defineProps<{ open: boolean }>();
const emit = defineEmits<{ shut: [] }>();
const { t } = useI18n();
const session = useSession();
const offered = computed(() => Object.entries(session.me?.units_offered ?? {}));
const mine = computed<Record<string, string>>(() => ({ ...session.me?.units }));

async function choose(quantity: string, unit: string | null): Promise<void> {
  const rest = Object.fromEntries(Object.entries(mine.value).filter(([name]) => name !== quantity));
  await session.chooseUnits(unit === null ? rest : { ...rest, [quantity]: unit });
}
</script>

<template>
  <v-dialog :model-value="open" :aria-label="t('units.title')" @update:model-value="emit('shut')">
    <div class="sheet">
      <h2>{{ t("units.title") }}</h2>
      <p v-if="session.me" class="words">
        <span translate="no">{{ session.me.name }}</span> · {{ t(`role.${session.me.role}`) }}
      </p>
      <p>{{ t("units.text") }}</p>
      <div
        v-for="[quantity, units] in offered"
        :key="quantity"
        class="line"
        role="group"
        :aria-label="t(`units.${quantity}`)"
      >
        <span class="words">{{ t(`units.${quantity}`) }}</span>
        <v-btn
          :class="{ main: mine[quantity] === undefined }"
          :aria-pressed="mine[quantity] === undefined"
          @click="choose(quantity, null)"
          >{{ t("units.author") }}</v-btn
        >
        <v-btn
          v-for="unit in units"
          :key="unit"
          :class="{ main: mine[quantity] === unit }"
          :aria-pressed="mine[quantity] === unit"
          @click="choose(quantity, unit)"
        >
          <span class="figure" translate="no">{{ unitText(unit) }}</span>
        </v-btn>
      </div>
      <look-rows />
      <signal-rows />
      <div class="row">
        <v-btn @click="emit('shut')">{{ t("ui.close") }}</v-btn>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.line {
  align-items: center;
  display: grid;
  gap: 8px;
  grid-template-columns: 120px 1.6fr repeat(3, 1fr);
  margin-top: 10px;
}

.line .words {
  font-size: var(--size-4);
}

.v-btn {
  font-size: var(--size-3);
  height: 64px !important;
  min-width: 0;
  text-transform: none;
}

.at-phone .line {
  grid-template-columns: repeat(3, 1fr);
}

.at-phone .line > .words,
.at-phone .line > .v-btn:first-of-type {
  grid-column: 1 / -1;
}

.at-phone .line > .v-btn {
  height: 52px !important;
  padding: 0 4px;
}
</style>
