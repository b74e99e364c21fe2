<script setup lang="ts">
/** One lane of a day: its name, the hours outside the shift, and what lies on it. */
defineProps<{ name: string; night: readonly Record<string, string>[]; thin?: boolean; raw?: boolean }>();
</script>

<template>
  <div class="lane" :class="{ thin }" :aria-hidden="thin || undefined">
    <span class="name words" :translate="raw ? 'no' : undefined">{{ name }}</span>
    <div class="line">
      <span v-for="(dark, k) in night" :key="k" class="night" :style="dark" />
      <slot />
    </div>
  </div>
</template>

<style scoped>
.lane {
  display: grid;
  grid-template-columns: 132px minmax(0, 1fr);
}

.name {
  align-self: center;
  font-size: var(--size-2);
  overflow-wrap: anywhere;
  padding-right: 8px;
}

.line {
  background: var(--panel-2);
  height: 48px;
  position: relative;
}

.thin .line {
  height: 30px;
}

.night {
  background: repeating-linear-gradient(
    45deg,
    transparent 0 5px,
    color-mix(in srgb, var(--line-strong) 34%, transparent) 5px 6px
  );
  bottom: 0;
  position: absolute;
  top: 0;
}
</style>
