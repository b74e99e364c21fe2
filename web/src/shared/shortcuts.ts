import { onBeforeUnmount, onMounted, ref } from "vue";
import { useRouter } from "vue-router";

export type Shortcuts = Partial<Record<string, () => void>>;

const STORED = "jorvek.letters";
const GO: Record<string, string> = {
  b: "berth",
  e: "bench-pick",
  s: "strips",
  a: "gates",
  r: "records",
  o: "procedures",
  k: "reckoner",
};
const GO_WITHIN_MS = 1500;

/** Whether single-letter keys act; each tablet remembers it. */
export const lettersOn = ref(localStorage.getItem(STORED) !== "off");

export function setLetters(on: boolean): void {
  lettersOn.value = on;
  localStorage.setItem(STORED, on ? "on" : "off");
}

function isTextField(target: EventTarget | null): boolean {
  return target instanceof HTMLInputElement || target instanceof HTMLTextAreaElement;
}

/** Single-letter keys of a screen, besides "G, then a letter"; they sleep in text fields and dialogs. */
export function useShortcuts(keys: Shortcuts): void {
  const router = useRouter();
  let goAt = -Infinity;

  function onKey(event: KeyboardEvent): void {
    if (!lettersOn.value || event.ctrlKey || event.altKey || event.metaKey || isTextField(event.target))
      return;
    if (document.querySelector(".v-dialog.v-overlay--active") !== null) return;
    const key = event.key.toLowerCase();
    const place = GO[key];
    if (performance.now() - goAt < GO_WITHIN_MS && place !== undefined) {
      goAt = -Infinity;
      event.preventDefault();
      void router.push({ name: place });
      return;
    }
    if (key === "g") {
      goAt = performance.now();
      return;
    }
    const act = keys[key];
    if (act === undefined) return;
    // The letter asks for something and is no text: a field that opens for it stays empty.
    event.preventDefault();
    act();
  }

  onMounted(() => {
    window.addEventListener("keydown", onKey);
  });
  onBeforeUnmount(() => {
    window.removeEventListener("keydown", onKey);
  });
}
