import type { Ref } from "vue";
import { i18n, type Language, LANGUAGES, learnFirstWords, learnLanguage } from "@/i18n";
import { api, answerOf } from "@/api/client";

const STORED = "jorvek.language";
const COOKIE = "jorvek_language";
const YEAR_S = 365 * 86_400;

export const isLanguage = (code: unknown): code is Language => LANGUAGES.some((one) => one.code === code);

/** Show everything in a language; the server answers and prints in it, too, and this tablet remembers it. */
export async function showIn(code: Language): Promise<void> {
  await learnLanguage(code);
  turnTo(code);
}

/** Show what signing in needs in a language; the rest of its words comes after. */
export async function showFirstIn(code: Language): Promise<void> {
  await learnFirstWords(code);
  turnTo(code);
}

function turnTo(code: Language): void {
  (i18n.global.locale as Ref<string>).value = code;
  document.documentElement.lang = code;
  localStorage.setItem(STORED, code);
  document.cookie = `${COOKIE}=${code}; path=/; max-age=${YEAR_S}; SameSite=Strict`;
}

/** Choose a language for the person at the tablet. */
export async function chooseLanguage(code: Language): Promise<void> {
  await showIn(code);
  await answerOf(api.PUT("/api/session/language", { body: { language: code } }));
}

/** What this tablet was left in, else what its browser is in, else English. */
export function firstLanguage(): Language {
  const left = localStorage.getItem(STORED);
  if (isLanguage(left)) return left;
  const browsers = navigator.languages
    .map((one) => one.split("-")[0] ?? "")
    .map((one) => (one === "no" ? "nb" : one));
  return browsers.find(isLanguage) ?? "en";
}
