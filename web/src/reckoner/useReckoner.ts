import { ref, type Ref, watch } from "vue";
import { answerOf, api } from "@/api/client";
import type { AskedField, Problem, QuestionListed, QuestionName, Reckoned } from "@/api/types";
import { useAsking } from "@/shared/acting";

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
  unsent: Ref<boolean>;
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
  const { answer, problem, unsent, ask: askLast, forget } = useAsking<Reckoned>();
  let timer: ReturnType<typeof setTimeout> | undefined;

  const fields = (): AskedField[] => questions.find((q) => q.name === name.value)?.fields ?? [];
  const current = (): Entries => entries.value[name.value] ?? {};

  function ask(): Promise<void> {
    const typed = Object.fromEntries(
      counting(fields(), current()).map((f) => [f.name, current()[f.name] ?? { text: "", unit: "" }]),
    );
    const params = { path: { question: name.value } };
    return askLast(() =>
      answerOf(api.POST("/api/reckoner/{question}", { params, body: { typed, units: units.value } })),
    );
  }

  watch(
    [entries, units, name],
    (_now, before) => {
      localStorage.setItem(STORED, JSON.stringify({ entries: entries.value, units: units.value }));
      if (before[2] !== name.value) forget();
      clearTimeout(timer);
      timer = setTimeout(() => void ask(), PAUSE_MS);
    },
    { deep: true },
  );
  void ask();

  return { entries, units, answer, problem, unsent, fields, current, ask };
}
