<script setup lang="ts">
/** One panel of the board: a heading, what stands there, what may be done. */
defineProps<{ title: string; none?: string; empty?: boolean; hot?: boolean }>();
</script>

<template>
  <section class="panel" :class="{ hot }">
    <header>
      <h2>{{ title }}</h2>
      <slot name="act" />
    </header>
    <p v-if="empty" class="muted">{{ none }}</p>
    <slot />
  </section>
</template>

<style scoped>
.panel {
  background: var(--panel);
  border: 1px solid var(--line);
  padding: 12px 16px;
}

.panel.hot {
  border-left: 6px solid var(--out);
}

header {
  align-items: center;
  display: flex;
  gap: 10px;
  margin-bottom: 4px;
}

h2 {
  font-size: var(--size-4);
  margin-right: auto;
}

p {
  margin: 0;
}

header :deep(.v-btn) {
  font-size: var(--size-3);
  height: 44px !important;
  padding: 0 14px;
}
</style>
