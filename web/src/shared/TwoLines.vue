<script setup lang="ts">
/** What a key does, and under it what comes of it. */
defineProps<{ word: string; then: string }>();
</script>

<template>
  <span class="two">
    <b>{{ word }}<slot /></b>
    <small>{{ then }}</small>
  </span>
</template>

<style scoped>
.two {
  display: grid;
  justify-items: start;
  padding: 6px 0;
  text-align: left;
  white-space: normal;
}

.two b {
  font-weight: 600;
}

.two small {
  color: var(--muted);
  font-family: var(--run);
  font-size: var(--size-2);
  font-weight: 400;
  letter-spacing: 0;
  line-height: 1.2;
}
</style>
