<script setup lang="ts">
import { useI18n } from "vue-i18n";
import { LANGUAGES } from "@/i18n";
import { useActing } from "@/shared/acting";
import { chooseLanguage } from "@/shared/language";
import { aloud, choose, hints, large, LOOKS, look, type Look } from "@/shared/look";
import ProblemNote from "@/shared/ProblemNote.vue";

/** Language of the person; light, size and voice of the tablet. */
const { t, locale } = useI18n();
const { problem, unsent, act } = useActing();
const SWITCHES = { large, aloud, hints };
const flip = (name: keyof typeof SWITCHES): void => {
  choose(name, SWITCHES[name], SWITCHES[name].value === "on" ? "off" : "on");
};

const chooseLook = (one: Look): void => {
  choose("look", look, one);
};
</script>

<template>
  <h3>{{ t("mine.language") }}</h3>
  <div class="keys four" role="group" :aria-label="t('mine.language')">
    <v-btn
      v-for="one in LANGUAGES"
      :key="one.code"
      :class="{ main: locale === one.code }"
      :aria-pressed="locale === one.code"
      @click="act(() => chooseLanguage(one.code))"
    >
      <span class="name"
        ><span :lang="one.code" translate="no">{{ one.name }}</span
        ><small v-if="!one.read">{{ t("mine.unread") }}</small></span
      >
    </v-btn>
  </div>
  <problem-note :problem="problem" :unsent="unsent" />
  <h3>{{ t("mine.look") }}</h3>
  <div class="keys" role="group" :aria-label="t('mine.look')">
    <v-btn
      v-for="one in LOOKS"
      :key="one"
      :class="{ main: look === one }"
      :aria-pressed="look === one"
      @click="chooseLook(one)"
      >{{ t(`mine.look_${one}`) }}</v-btn
    >
    <v-btn
      v-for="(what, name) in SWITCHES"
      :key="name"
      :class="{ main: what.value === 'on' }"
      :aria-pressed="what.value === 'on'"
      @click="flip(name)"
      >{{ t(`mine.${name}`) }}</v-btn
    >
  </div>
</template>

<style scoped>
h3 {
  font-size: var(--size-4);
  margin-top: 18px;
}

.keys {
  display: grid;
  gap: 8px;
  grid-template-columns: repeat(3, 1fr);
  margin-top: 8px;
}

.keys.four {
  grid-template-columns: repeat(4, 1fr);
}

.at-phone .keys {
  grid-template-columns: repeat(2, 1fr);
}

.v-btn {
  font-size: var(--size-3);
  height: auto !important;
  min-height: 56px;
  min-width: 0;
  padding: 4px 8px;
}

.name {
  display: grid;
  justify-items: center;
  white-space: normal;
}

small {
  font-size: var(--size-1);
  font-weight: 400;
}
</style>
