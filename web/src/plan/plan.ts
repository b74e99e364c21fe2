import { computed, reactive, type ComputedRef } from "vue";
import { useI18n } from "vue-i18n";
import type { PlanShown, PlannedWork } from "@/api/types";
import { timeText } from "@/shared/format";

/** Minutes as people say them: 3 h 20 min. */
export function spanText(minutes: number): string {
  const hours = Math.floor(minutes / 60);
  const rest = Math.round(minutes % 60);
  return [hours > 0 ? `${hours} h` : "", rest > 0 || hours === 0 ? `${rest} min` : ""]
    .filter(Boolean)
    .join(" ");
}

/** The day of a moment by the tablet's own clock: 2026-11-29. */
export function dayOf(at: string): string {
  const then = new Date(at);
  const pad = (n: number): string => String(n).padStart(2, "0");
  return [then.getFullYear(), pad(then.getMonth() + 1), pad(then.getDate())].join("-");
}

export interface PlanWords {
  who: (k: number) => string;
  why: (work: PlannedWork) => string;
  span: (work: PlannedWork) => string;
}

type Translate = (key: string, params?: Record<string, string>) => string;

/** Why a piece of work is not sooner. */
export function whyText(t: Translate, work: PlannedWork): string {
  const why = work.why;
  if (why === null) return "";
  const code = why.code === "hands" && why.what.length === 0 ? "hands_any" : why.code;
  return t(`plan.because.${code}`, { what: why.what.join(", ") });
}

/** Names and reasons of a plan in words. */
export function usePlanWords(plan: () => PlanShown): PlanWords {
  const { t } = useI18n();
  const people: ComputedRef<readonly string[]> = computed(() => plan().people);
  return {
    who: (k) => people.value[k] ?? t("plan.hand_number", { n: k + 1 }),
    why: (work) => whyText(t, work),
    span: (work) => [timeText(work.start_at), timeText(work.end_at)].join("–"),
  };
}

export interface Pins {
  at: Record<string, string>;
  keep: (id: string, at: string) => void;
  letGo: (id: string) => void;
  moveBy: (work: PlannedWork, minutes: number) => void;
  takeFrom: (plan: PlanShown) => void;
}

const MINUTE_MS = 60_000;

/** What somebody keeps in its place for the next plan. */
export function usePins(): Pins {
  const at = reactive<Record<string, string>>({});
  const keep = (id: string, when: string): void => {
    at[id] = when;
  };
  return {
    at,
    keep,
    letGo: (id): void => {
      // eslint-disable-next-line @typescript-eslint/no-dynamic-delete -- a record of ids
      delete at[id];
    },
    moveBy: (work, minutes): void => {
      const from = new Date(at[work.id] ?? work.start_at).getTime();
      keep(work.id, new Date(from + minutes * MINUTE_MS).toISOString());
    },
    takeFrom: (plan): void => {
      for (const [id, when] of Object.entries(plan.asked.pins)) if (!(id in at)) at[id] = when;
    },
  };
}
