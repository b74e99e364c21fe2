<script setup lang="ts">
/** One name of the board, what is said of it, and one act. */
defineProps<{ name: string; large?: boolean }>();
</script>

<template>
  <div class="person" :class="{ large }">
    <strong class="words" translate="no">{{ name }}</strong>
    <span><slot /></span>
    <div v-if="$slots.act" class="acts"><slot name="act" /></div>
  </div>
</template>

<style scoped>
.person {
  align-items: center;
  border-top: 1px solid var(--line);
  display: grid;
  gap: 2px 12px;
  grid-template-columns: minmax(0, 1fr) auto;
  padding: 8px 0;
}

.person > strong {
  font-size: var(--size-4);
}

.person > span {
  font-size: var(--size-1);
  grid-column: 1;
}

.acts {
  display: grid;
  gap: 8px;
  grid-column: 2;
  grid-row: 1 / span 2;
}

/* On a phone the words have the whole width, and what is pressed stands under them. */
.at-phone .person {
  grid-template-columns: minmax(0, 1fr);
}

.at-phone .acts {
  display: flex;
  flex-wrap: wrap;
  grid-column: 1;
  grid-row: auto;
}

.at-phone .acts :slotted(.v-btn) {
  flex: 1 1 auto;
}

:slotted(.against) {
  color: var(--doubt);
  display: block;
  font-size: var(--size-2);
}

/* Somebody has to come out, or stop, now. */
:slotted(.alarm) {
  color: var(--out);
  display: block;
  font-size: var(--size-4);
}

.large > strong {
  font-size: var(--size-6);
}

.large > span {
  font-size: var(--size-3);
}

.large :slotted(.alarm) {
  font-size: var(--size-5);
}
</style>
