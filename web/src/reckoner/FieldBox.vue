<script setup lang="ts">
import { computed, useId } from "vue";
import { useI18n } from "vue-i18n";
import type { AskedField } from "@/api/types";
import { unitText } from "@/shared/format";

const props = defineProps<{ field: AskedField; trouble: string | null; big: boolean }>();
const emit = defineEmits<{ focused: [name: string] }>();
const text = defineModel<string>("text", { required: true });
const unit = defineModel<string>("unit", { required: true });
const { t } = useI18n();
const id = useId();
const label = computed(() => t(`reckoner.field.${props.field.name}`));
</script>

<template>
  <div class="field" :class="{ wrong: trouble !== null, big }">
    <label :for="id">{{ label }}</label>
    <div class="box">
      <select v-if="field.choices.length > 0" :id="id" v-model="text" @focus="emit('focused', field.name)">
        <option v-for="word in field.choices" :key="word" :value="word">
          {{ t(`reckoner.choice.${word}`) }}
        </option>
      </select>
      <template v-else>
        <input
          :id="id"
          v-model="text"
          class="figure"
          inputmode="decimal"
          maxlength="24"
          autocomplete="off"
          :aria-invalid="trouble !== null"
          :aria-describedby="trouble === null ? undefined : `${id}-trouble`"
          @focus="
            (event) => {
              (event.target as HTMLInputElement).select();
              emit('focused', field.name);
            }
          "
        />
        <span v-if="field.unit" class="unit" :class="{ turns: field.units.length > 1 }" translate="no">
          {{ unitText(unit || field.unit) }}
          <select
            v-if="field.units.length > 1"
            v-model="unit"
            :aria-label="t('reckoner.unit_of', { field: label })"
            translate="no"
          >
            <option v-for="name in field.units" :key="name" :value="name">{{ unitText(name) }}</option>
          </select>
        </span>
      </template>
    </div>
    <p v-if="trouble" :id="`${id}-trouble`" class="trouble">{{ trouble }}</p>
  </div>
</template>

<style scoped>
.field {
  display: flex;
  flex-direction: column;
  justify-content: flex-end;
  min-width: 0;
}

label {
  font-family: var(--words);
  font-size: var(--size-2);
  line-height: 1.15;
  padding-bottom: 3px;
}

.box {
  background: var(--panel);
  border: 1px solid var(--line-strong);
  display: flex;
  height: 44px;
}

.big .box {
  height: 64px;
}

.box:focus-within {
  outline: 3px solid var(--now);
  outline-offset: 1px;
}

input,
select {
  background: none;
  border: 0;
  color: var(--ink);
  font-family: var(--figures);
  font-size: var(--size-3);
  min-width: 0;
  padding: 0 4px 0 9px;
  width: 100%;
}

.box > select:first-child {
  font-family: var(--run);
  font-size: var(--size-2);
}

.big input {
  font-size: var(--size-5);
}

input:focus,
select:focus {
  outline: none;
}

.unit {
  align-items: center;
  border-left: 1px solid var(--line);
  color: var(--muted);
  display: flex;
  flex: none;
  font-size: var(--size-1);
  justify-content: center;
  min-width: 40px;
  padding: 0 6px;
  position: relative;
}

.unit.turns {
  text-decoration: underline dotted;
  text-underline-offset: 4px;
}

/* The list of units lies unseen over the unit, so that the box is as narrow as the unit shown. */
.unit select {
  cursor: pointer;
  inset: 0;
  opacity: 0;
  position: absolute;
}

.big .unit {
  font-size: var(--size-3);
  padding: 0 12px;
}

.wrong .box {
  background-color: var(--panel);
  background-image: repeating-linear-gradient(45deg, var(--hatch) 0 4px, transparent 4px 12px);
  border-color: var(--out);
}

.trouble {
  color: var(--out);
  font-size: var(--size-1);
  line-height: 1.25;
  margin: 3px 0 0;
}
</style>
