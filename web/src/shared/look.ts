import { ref, type Ref } from "vue";

/** How this tablet looks and speaks: each tablet remembers it, because the light is the place's. */
export type Look = "own" | "light" | "dark";
export const LOOKS: readonly Look[] = ["own", "light", "dark"];

function kept<T extends string>(name: string, allowed: readonly T[], usual: T): Ref<T> {
  const said = localStorage.getItem(`jorvek.${name}`);
  return ref(allowed.find((one) => one === said) ?? usual) as Ref<T>;
}

const ON_OFF = ["on", "off"] as const;
export const look = kept("look", LOOKS, "own");
export const large = kept("large", ON_OFF, "off");
export const aloud = kept("aloud", ON_OFF, "off");
export const hints = kept("hints", ON_OFF, "on");

export function choose<T extends string>(
  name: "look" | "large" | "aloud" | "hints",
  what: Ref<T>,
  value: T,
): void {
  what.value = value;
  localStorage.setItem(`jorvek.${name}`, value);
}

/** Say something in a language by the browser's own voice; whatever was being said stops. */
export function speak(words: string, locale: string): void {
  if (!("speechSynthesis" in window)) return;
  window.speechSynthesis.cancel();
  const said = new SpeechSynthesisUtterance(words);
  said.lang = locale;
  window.speechSynthesis.speak(said);
}
