<script setup lang="ts">
/** A paper screen: its heading, what may be done from there, and one panel under the other. */
</script>

<template>
  <main id="content" class="page">
    <header class="head">
      <div>
        <h1><slot name="title" /></h1>
        <slot name="under" />
      </div>
      <div class="acts"><slot name="acts" /></div>
    </header>
    <slot />
  </main>
</template>

<style scoped>
.page {
  display: grid;
  gap: 14px;
  grid-template-columns: minmax(0, 1fr);
  padding: 18px 24px 32px;
}

.at-narrow .page {
  padding: var(--gap-3);
}

.head {
  align-items: start;
  display: flex;
  flex-wrap: wrap;
  gap: 10px 20px;
  justify-content: space-between;
}

h1 {
  font-size: var(--size-6);
}

.head :slotted(p) {
  margin: 0;
}

.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}

.acts :slotted(.v-btn) {
  font-size: var(--size-3);
  height: 48px !important;
}
</style>
