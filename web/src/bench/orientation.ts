import { computed, ref, watch, type Ref } from "vue";
import type { BenchView } from "@/api/types";
import type { Orientation } from "@/bench/turning";

/** How somebody stands to the joint: kept on this tablet, joint by joint, on top of how the engine lies. */
export function useOrientation(view: Ref<BenchView | null>): {
  orientation: Ref<Orientation>;
  mirrored: Ref<boolean>;
  turn: () => void;
  mirror: () => void;
} {
  const key = computed(() => `jorvek.stand.${view.value?.engine_id ?? ""}.${view.value?.joint_key ?? ""}`);
  const own = ref<Orientation>({ quarterTurns: 0, mirrored: false });
  watch(
    key,
    (name) => {
      const kept = localStorage.getItem(name);
      own.value = kept === null ? { quarterTurns: 0, mirrored: false } : (JSON.parse(kept) as Orientation);
    },
    { immediate: true },
  );
  function change(next: Orientation): void {
    own.value = next;
    localStorage.setItem(key.value, JSON.stringify(next));
  }
  const quarter = (n: number): Orientation["quarterTurns"] => (n % 4) as Orientation["quarterTurns"];
  const orientation = computed<Orientation>(() => ({
    mirrored: own.value.mirrored,
    quarterTurns: quarter(own.value.quarterTurns + (view.value?.plan.quarter_turns ?? 0)),
  }));
  return {
    orientation,
    mirrored: computed(() => own.value.mirrored),
    turn: (): void => {
      change({ ...own.value, quarterTurns: quarter(own.value.quarterTurns + 1) });
    },
    mirror: (): void => {
      change({ ...own.value, mirrored: !own.value.mirrored });
    },
  };
}
