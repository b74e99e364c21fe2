import { computed, ref, watch, type Ref } from "vue";
import type { BenchView } from "@/api/types";
import type { Stand } from "./turning";

/** How somebody stands to the joint: kept on this tablet, joint by joint, on top of how the engine lies. */
export function useStand(view: Ref<BenchView | null>): {
  stand: Ref<Stand>;
  mirrored: Ref<boolean>;
  turn: () => void;
  mirror: () => void;
} {
  const key = computed(() => `jorvek.stand.${view.value?.engine_id ?? ""}.${view.value?.joint_key ?? ""}`);
  const own = ref<Stand>({ quarterTurns: 0, mirrored: false });
  watch(
    key,
    (name) => {
      const kept = localStorage.getItem(name);
      own.value = kept === null ? { quarterTurns: 0, mirrored: false } : (JSON.parse(kept) as Stand);
    },
    { immediate: true },
  );
  function change(next: Stand): void {
    own.value = next;
    localStorage.setItem(key.value, JSON.stringify(next));
  }
  const quarter = (n: number): Stand["quarterTurns"] => (n % 4) as Stand["quarterTurns"];
  const stand = computed<Stand>(() => ({
    mirrored: own.value.mirrored,
    quarterTurns: quarter(own.value.quarterTurns + (view.value?.plan.quarter_turns ?? 0)),
  }));
  return {
    stand,
    mirrored: computed(() => own.value.mirrored),
    turn: (): void => {
      change({ ...own.value, quarterTurns: quarter(own.value.quarterTurns + 1) });
    },
    mirror: (): void => {
      change({ ...own.value, mirrored: !own.value.mirrored });
    },
  };
}
