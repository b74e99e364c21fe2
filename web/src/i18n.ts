import en from "@messages/en.json";
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

const STORED = "jorvek.language";
const wanted = localStorage.getItem(STORED) ?? "en";

export const i18n = createI18n({
  legacy: false,
  locale: wanted === "pseudo" ? "pseudo" : "en",
  fallbackLocale: "en",
  messages: {
    en: { ...en, $vuetify: vuetifyEn },
    pseudo: wanted === "pseudo" ? { ...pseudo(en), $vuetify: pseudo(vuetifyEn as unknown as Tree) } : {},
  },
});
