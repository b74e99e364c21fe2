import { onBeforeUnmount, onMounted, ref, watch } from "vue";
import { useRouter } from "vue-router";

export type Shortcuts = Partial<Record<string, () => void>>;

const STORED = "jorvek.letters";
const GO: Partial<Record<string, string>> = {
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

/** Whether a key press asks for something here: not in a text field, not beside a dialog, not with a modifier. */
function asks(event: KeyboardEvent): boolean {
  if (!lettersOn.value || event.ctrlKey || event.altKey || event.metaKey || isTextField(event.target))
    return false;
  return document.querySelector(".v-dialog.v-overlay--active") === null;
}

function listen(onKey: (event: KeyboardEvent) => void): void {
  onMounted(() => {
    window.addEventListener("keydown", onKey);
  });
  onBeforeUnmount(() => {
    window.removeEventListener("keydown", onKey);
  });
}

/** When "G" was pressed last: the letter after it names a screen and nothing else. */
let goAt = -Infinity;
const going = (): boolean => performance.now() - goAt < GO_WITHIN_MS;

/** Single-letter keys of a screen; they sleep in text fields and dialogs. */
export function useShortcuts(keys: Shortcuts): void {
  listen((event) => {
    const act = keys[event.key.toLowerCase()];
    if (act === undefined || !asks(event) || (going() && GO[event.key.toLowerCase()] !== undefined)) return;
    // The letter asks for something and is no text: a field that opens for it stays empty.
    event.preventDefault();
    act();
  });
}

/** So long a list has to stand before a digit picks from it: a digit too many of the entry before is no choice. */
const STANDS_MS = 700;

/** Digits pick from a list by its numbers; they sleep in text fields and dialogs. */
export function useDigits(list: () => unknown, pick: (index: number) => void): void {
  let since = performance.now();
  watch(list, () => (since = performance.now()), { flush: "sync" });
  listen((event) => {
    if (!/^[1-9]$/.test(event.key) || event.repeat || !asks(event)) return;
    if (performance.now() - since < STANDS_MS) return;
    event.preventDefault();
    pick(Number(event.key) - 1);
  });
}

/** "G, then a letter" goes to a screen from any other. */
export function useGoing(): void {
  const router = useRouter();
  listen((event) => {
    if (!asks(event)) return;
    const key = event.key.toLowerCase();
    const place = GO[key];
    if (going() && place !== undefined) {
      event.preventDefault();
      void router.push({ name: place }).finally(() => {
        goAt = -Infinity;
      });
    } else if (key === "g") {
      goAt = performance.now();
    }
  });
}
