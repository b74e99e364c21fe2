import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { createApp, type Ref } from "vue";
import { useI18n } from "vue-i18n";
import { i18n, learnLanguage, localeNow } from "@/i18n";
import { dayText, figureText, numberText, timeText } from "@/shared/format";
import { counted, named } from "@/shared/problem";
import { firstLanguage, isLanguage, showIn } from "@/shared/language";

const now = i18n.global.locale as Ref<string>;

beforeEach(() => {
  localStorage.clear();
});
afterEach(() => {
  now.value = "en";
});

describe("a name that runs the other way", () => {
  it("leaves what stands beside it as it is, wherever a message is asked for", async () => {
    await learnLanguage("en");
    const name = "\u05d0\u05d1\u05d2";
    for (const t of [i18n.global.t, useGlobal()]) {
      expect(t("engine.leave_name", { name })).toBe(`\u2068${name}\u2069 is out`);
      expect(t("engine.leave_name", { name: "\u202eLio" })).toBe("\u2068Lio\u2069 is out");
      expect(t("engine.leave_name", { name: "Lio" })).toBe("Lio is out");
    }
  });
});

/** What a component gets. */
function useGlobal(): (key: string, named: Record<string, string>) => string {
  let t: (key: string, named: Record<string, string>) => string = () => "";
  const app = createApp({
    setup(): () => null {
      t = useI18n().t;
      return () => null;
    },
  });
  app.use(i18n).mount(document.createElement("div"));
  return t;
}

describe("a language", () => {
  it("shows its words, numbers, days and a clock of 24 hours", async () => {
    const at = new Date(2026, 10, 23, 16, 5).toISOString();
    for (const [code, words, number, day] of [
      ["en", "Cross it out", "621.028 mm", "23 Nov 2026"],
      ["de", "Durchstreichen", "621,028 mm", "23. Nov. 2026"],
      ["es", "Tacharla", "621,028 mm", "23 nov 2026"],
      ["nb", "Stryk den", "621,028 mm", "23. nov. 2026"],
    ] as const) {
      await showIn(code);
      expect(i18n.global.t("bench.strike_it")).toBe(words);
      expect(figureText({ text: "621.028", unit: "mm" })).toBe(number);
      expect(dayText(at)).toBe(day);
      expect(timeText(at)).toBe("16:05");
      expect(document.documentElement.lang).toBe(code);
      expect(document.cookie).toContain(`jorvek_language=${code}`);
    }
  });

  it("touches nothing but a lone number with a decimal point", async () => {
    await learnLanguage("de");
    now.value = "de";
    for (const same of ["980 … 1020", "12.5 + 3.5", "rev 1.2.3", "", "1020", "M52x3.5"])
      expect(numberText(same)).toBe(same);
    expect(numberText("−0.004")).toBe("−0,004");
    expect(numberText("621.028 mm")).toBe("621,028 mm");
    expect(localeNow()).toBe("de-DE");
  });

  it("says the figures and moments of a refusal as its reader writes them", async () => {
    await learnLanguage("de");
    now.value = "de";
    const at = new Date(new Date().getFullYear(), 2, 2, 16, 30);
    const words = i18n.global as unknown as Parameters<typeof named>[0];
    const told = named(words, "engine.entry.isolated", {
      read: "0.842 mm",
      lock: "4.2",
      earliest: at.toISOString(),
      n: 3,
    });
    expect(told).toMatchObject({ read: "0,842 mm", lock: "4.2", n: 3 });
    expect(told.earliest).toBe("02. März, 16:30");
    expect(named(words, "refusal.written_when", { got: "2026-99-99T99:99+00:00" }).got).toBe(
      "2026-99-99T99:99+00:00",
    );
  });

  it("counts in the form that its plural rules ask for", async () => {
    const words = i18n.global as unknown as Parameters<typeof named>[0];
    for (const [code, one, more] of [
      ["en", "1 stroke", "3 strokes"],
      ["de", "1 Strich", "3 Striche"],
      ["es", "1 trazo", "3 trazos"],
      ["nb", "1 strek", "3 streker"],
    ] as const) {
      await showIn(code);
      expect(counted(words, "bench.strokes", { n: 1 })).toBe(one);
      expect(counted(words, "bench.strokes", { n: 3 })).toBe(more);
      expect(counted(words, "bench.strike_it", {})).toBe(i18n.global.t("bench.strike_it"));
    }
  });

  it("is at first what the tablet was left in, else the browser's, else English", () => {
    const browser = (...languages: string[]): void => {
      Object.defineProperty(navigator, "languages", { value: languages, configurable: true });
    };
    browser("fr-FR", "no", "de");
    expect(firstLanguage()).toBe("nb");
    browser("fr-FR");
    expect(firstLanguage()).toBe("en");
    localStorage.setItem("jorvek.language", "es");
    expect(firstLanguage()).toBe("es");
    localStorage.setItem("jorvek.language", "xx");
    expect(firstLanguage()).toBe("en");
    expect(isLanguage("nb")).toBe(true);
    expect(isLanguage(null)).toBe(false);
  });
});
