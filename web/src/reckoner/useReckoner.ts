import { ref, type Ref, watch } from "vue";
import { api, ProblemError, answerOf } from "@/api/client";
import type { AskedField, Problem, QuestionListed, QuestionName, Reckoned } from "@/api/types";

export interface Entry {
  text: string;
  unit: string;
}

export type Entries = Record<string, Entry>;

const STORED = "jorvek.reckoner";
const PAUSE_MS = 90;

interface Kept {
  entries: Record<string, Entries>;
  units: Record<string, string>;
}

/** What this tablet had in the fields last; a damaged memory counts as none. */
function remembered(): Kept {
  try {
    const kept = JSON.parse(localStorage.getItem(STORED) ?? "") as Partial<Kept>;
    return { entries: kept.entries ?? {}, units: kept.units ?? {} };
  } catch {
    return { entries: {}, units: {} };
  }
}

/** Fields of a question that count with the choices made. */
export function counting(fields: AskedField[], entries: Entries): AskedField[] {
  return fields.filter(({ shown_if }) => !shown_if || entries[shown_if.field]?.text === shown_if.choice);
}

interface Reckoner {
  entries: Ref<Record<string, Entries>>;
  units: Ref<Record<string, string>>;
  answer: Ref<Reckoned | null>;
  problem: Ref<Problem | null>;
  away: Ref<boolean>;
  fields: () => AskedField[];
  current: () => Entries;
  ask: () => Promise<void>;
}

/** The Reckoner's state: fields kept on this tablet, an answer that follows the typing. */
export function useReckoner(questions: QuestionListed[], name: Ref<QuestionName>): Reckoner {
  const kept = remembered();
  const units = ref(kept.units);
  const entries = ref<Record<string, Entries>>({});
  for (const question of questions) {
    const before = kept.entries[question.name] ?? {};
    entries.value[question.name] = Object.fromEntries(
      question.fields.map((field) => [
        field.name,
        before[field.name] ?? { text: field.default, unit: field.unit },
      ]),
    );
  }
  const answer = ref<Reckoned | null>(null);
  const problem = ref<Problem | null>(null);
  const away = ref(false);
  let asked = 0;
  let timer: ReturnType<typeof setTimeout> | undefined;

  const fields = (): AskedField[] => questions.find((q) => q.name === name.value)?.fields ?? [];
  const current = (): Entries => entries.value[name.value] ?? {};

  async function ask(): Promise<void> {
    const turn = ++asked;
    const typed = Object.fromEntries(
      counting(fields(), current()).map((f) => [f.name, current()[f.name] ?? { text: "", unit: "" }]),
    );
    try {
      const said = await answerOf(
        api.POST("/api/reckoner/{question}", {
          params: { path: { question: name.value } },
          body: { typed, units: units.value },
        }),
      );
      if (turn !== asked) return;
      answer.value = said;
      problem.value = null;
      away.value = false;
    } catch (error) {
      if (turn !== asked) return;
      if (error instanceof ProblemError) problem.value = error.problem;
      else away.value = true;
    }
  }

  watch(
    [entries, units, name],
    (_now, before) => {
      localStorage.setItem(STORED, JSON.stringify({ entries: entries.value, units: units.value }));
      if (before[2] !== name.value) answer.value = null;
      clearTimeout(timer);
      timer = setTimeout(() => void ask(), PAUSE_MS);
    },
    { deep: true },
  );
  void ask();

  return { entries, units, answer, problem, away, fields, current, ask };
}
