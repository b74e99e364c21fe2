import first from "virtual:first-words/en";
import { createI18n } from "vue-i18n";
import { en as vuetifyEn } from "vuetify/locale";

interface Tree {
  [key: string]: string | Tree;
}

const ACCENTED: Record<string, string> = {
  a: "á",
  e: "é",
  i: "í",
  o: "ó",
  u: "ú",
  n: "ñ",
  s: "š",
  c: "č",
  y: "ý",
};

/** A made-up language that marks every message, so that untranslated text stands out. */
function pseudo(tree: Tree): Tree {
  const marked = (text: string): string => {
    const parts = text.split(/(\{[^}]*\})/);
    const turned = parts.map((part) =>
      part.startsWith("{") ? part : part.replace(/[aeiounscy]/g, (letter) => ACCENTED[letter] ?? letter),
    );
    return `⟦${turned.join("")}⟧`;
  };
  return Object.fromEntries(
    Object.entries(tree).map(([key, value]) => [
      key,
      typeof value === "string" ? marked(value) : pseudo(value),
    ]),
  );
}

export type Language = "en" | "de" | "es" | "nb";

/** The languages that have a catalogue, by their own names, and whether somebody who grew up with it has read it. */
export const LANGUAGES: readonly { code: Language; name: string; read: boolean }[] = [
  { code: "en", name: "English", read: true },
  { code: "de", name: "Deutsch", read: false },
  { code: "es", name: "Español", read: false },
  { code: "nb", name: "Norsk bokmål", read: false },
];

/** How days and times are written in each; the clock has 24 hours in all of them. */
export const LOCALE_OF: Record<Language, string> = { en: "en-GB", de: "de-DE", es: "es-ES", nb: "nb-NO" };

/** For trials: every text that does not come from the catalogue stands out. */
export const marked = localStorage.getItem("jorvek.language") === "pseudo";

export const i18n = createI18n({
  legacy: false,
  locale: marked ? "pseudo" : "en",
  fallbackLocale: "en",
  messages: { en: { ...first, $vuetify: vuetifyEn }, pseudo: {} },
});

/** Letters that run from right to left, and the marks that turn what follows. */
const OTHER_WAY = /[\u0590-\u08ff\u202a-\u202e\u2066-\u2069\ufb1d-\ufdff\ufe70-\ufefc]/u;
const MARKS = /[\u202a-\u202e\u2066-\u2069]/gu;

/** Names and notes that run the other way leave what stands beside them as it is (Unicode Standard Annex 9, 2.4.2). */
export function isolated(value: unknown): unknown {
  if (typeof value !== "string" || !OTHER_WAY.test(value)) return value;
  return `\u2068${value.replace(MARKS, "")}\u2069`;
}

const plainly = i18n.global.t.bind(i18n.global) as (...said: unknown[]) => string;
/** Every message isolates what is put into it, wherever it is asked for. */
function isolating(...said: unknown[]): string {
  const words = said.map((one) =>
    typeof one === "object" && one !== null && !Array.isArray(one)
      ? Object.fromEntries(Object.entries(one).map(([name, value]) => [name, isolated(value)]))
      : one,
  );
  return plainly(...words);
}
Object.assign(i18n.global, { t: isolating });

/** The words until somebody has signed in. */
const FIRST: Record<Language, () => Promise<{ default: Tree }>> = {
  en: () => Promise.resolve({ default: first }),
  de: async () => await import("virtual:first-words/de"),
  es: async () => await import("virtual:first-words/es"),
  nb: async () => await import("virtual:first-words/nb"),
};
/** Fetched when somebody wants them: nobody waits for the words of four languages. */
const WHOLE: Record<Language, () => Promise<[Tree, unknown]>> = {
  en: async () => [(await import("@messages/en.json")).default, vuetifyEn],
  de: async () => [
    (await import("@messages/de.json")).default,
    (await import("vuetify/lib/locale/de.js")).default,
  ],
  es: async () => [
    (await import("@messages/es.json")).default,
    (await import("vuetify/lib/locale/es.js")).default,
  ],
  nb: async () => [
    (await import("@messages/nb.json")).default,
    (await import("vuetify/lib/locale/no.js")).default,
  ],
};
const whole = new Set<string>();

/** Have what signing in says at hand in a language. */
export async function learnFirstWords(code: Language): Promise<void> {
  if (whole.has(code) || code === "en") return;
  i18n.global.setLocaleMessage(code, (await FIRST[code]()).default as never);
}

/** Have all words of a language at hand. */
export async function learnLanguage(code: Language): Promise<void> {
  if (whole.has(code)) return;
  const [words, parts] = await WHOLE[code]();
  i18n.global.setLocaleMessage(code, { ...words, $vuetify: parts } as never);
  whole.add(code);
}

/** Have all words at hand of the language that everything is shown in; for trials marked ones. */
export async function learnWords(): Promise<void> {
  const now: string = i18n.global.locale.value;
  if (!marked) await learnLanguage(LANGUAGES.find((one) => one.code === now)?.code ?? "en");
  if (!marked || whole.has("pseudo")) return;
  const [words] = await WHOLE.en();
  i18n.global.setLocaleMessage("pseudo", {
    ...pseudo(words),
    $vuetify: pseudo(vuetifyEn as unknown as Tree),
  } as never);
  whole.add("pseudo");
}

/** How numbers, days and times are written now. */
export function localeNow(): string {
  const now: string = i18n.global.locale.value;
  return LOCALE_OF[LANGUAGES.find((one) => one.code === now)?.code ?? "en"];
}
