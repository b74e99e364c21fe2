<script setup lang="ts">
/** One name of the board, what is said of it, and one act. */
defineProps<{ name: string; large?: boolean }>();
</script>

<template>
  <div class="person" :class="{ large }">
    <strong class="words" translate="no">{{ name }}</strong>
    <span><slot /></span>
    <slot name="act" />
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

.person > :slotted(.v-btn) {
  grid-column: 2;
  grid-row: 1 / span 2;
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
