<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import { useRoute } from "vue-router";
import { lettersOn, setLetters } from "@/shared/shortcuts";

/** What this screen is for, the keys, and what the words on the screens mean. */
defineProps<{ open: boolean }>();
const emit = defineEmits<{ shut: [] }>();
const i18n = useI18n();
const { t } = i18n;
const route = useRoute();
const KEYS = [
  "space",
  "digits",
  "star",
  "equals",
  "picks",
  "enter",
  "backspace",
  "r",
  "f",
  "t",
  "n",
  "h",
  "p",
  "l",
  "g",
  "slash",
  "q",
];
const WORDS = [
  "run",
  "joint",
  "stage",
  "band",
  "too_near",
  "cross_out",
  "do_again",
  "accept",
  "hold_point",
  "isolation",
  "crank",
  "stretch",
  "stage_pressure",
  "sister",
  "departure",
  "claim",
  "seal",
];
const name = computed(() => String(route.name ?? ""));
</script>

<template>
  <v-dialog :model-value="open" :aria-label="t('help.title')" @update:model-value="emit('shut')">
    <div class="sheet">
      <h2>{{ t("help.title") }}</h2>
      <p v-if="i18n.te(`help.${name}`)">{{ t(`help.${name}`) }}</p>
      <h3>{{ t("keys.title") }}</h3>
      <ul class="plain">
        <li v-for="key in KEYS" :key="key">{{ t(`keys.${key}`) }}</li>
      </ul>
      <v-checkbox
        :model-value="lettersOn"
        :label="t('keys.letters')"
        @update:model-value="(on) => setLetters(on === true)"
      />
      <p class="muted">{{ t("keys.letters_hint") }}</p>
      <h3>{{ t("help.words_title") }}</h3>
      <dl>
        <template v-for="word in WORDS" :key="word">
          <dt class="words">{{ t(`help.words.${word}.word`) }}</dt>
          <dd>{{ t(`help.words.${word}.means`) }}</dd>
        </template>
      </dl>
      <div class="row">
        <v-btn @click="emit('shut')">{{ t("ui.close") }}</v-btn>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
h3 {
  font-size: var(--size-4);
  margin: 18px 0 6px;
}

ul {
  line-height: 1.9;
}

dt {
  font-size: var(--size-3);
}

dd {
  margin: 0 0 8px;
}
</style>
