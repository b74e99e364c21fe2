import { nextTick, onBeforeUnmount, onMounted, ref, watch, type Ref } from "vue";

/**
 * How far a row of keys has to fold so that all of it is on the screen: 0 as it is, up to `most`.
 *
 * Measured, not guessed from the width of the screen: words differ by language, letters by setting.
 *
 * @param row what must not be wider than its place.
 * @param least what the screen's size alone asks for.
 * @param most the furthest.
 */
export function useFolds(row: Ref<HTMLElement | null>, least: Ref<number>, most: number): Ref<number> {
  const folds = ref(least.value);
  let fitted = 0;
  let seen: ResizeObserver | null = null;
  const watched = new WeakSet<Element>();

  /** A key that comes back when the row unfolds is another element, and its words grow like any other's. */
  function watchAll(): void {
    for (const part of [row.value, ...(row.value?.children ?? [])]) {
      if (part === null || watched.has(part)) continue;
      watched.add(part);
      seen?.observe(part);
    }
  }

  async function fit(from: number): Promise<void> {
    folds.value = Math.max(from, least.value);
    await nextTick();
    while (row.value !== null && row.value.scrollWidth > row.value.clientWidth + 1 && folds.value < most) {
      folds.value += 1;
      await nextTick();
    }
    watchAll();
  }
  onMounted(() => {
    if (row.value === null || typeof ResizeObserver === "undefined") return;
    seen = new ResizeObserver(() => {
      // Only more room unfolds; what stands in the row may come and go without a flicker.
      const wide = row.value?.clientWidth ?? 0;
      void fit(wide > fitted ? 0 : folds.value);
      fitted = wide;
    });
    watchAll();
  });
  onBeforeUnmount(() => seen?.disconnect());
  watch(least, () => void fit(0));
  return folds;
}
