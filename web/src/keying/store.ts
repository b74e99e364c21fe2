import { defineStore } from "pinia";
import { computed, ref } from "vue";
import { api, LinkError, newId, ProblemError, answerOf } from "@/api/client";
import type { PaperLine, Problem, WorkSheet } from "@/api/types";

/** Who wrote on the sheet, and when. */
export interface Pencil {
  by: string;
  at: string;
}

/** A work sheet that is being keyed in, line by line. */
export const useKeying = defineStore("sheet", () => {
  const runId = ref("");
  const sheet = ref<WorkSheet | null>(null);
  const problem = ref<Problem | null>(null);
  const linkLost = ref(false);
  const busy = ref(false);

  const lines = computed<PaperLine[]>(() => sheet.value?.lines ?? []);
  const open = computed(() => lines.value.filter((line) => line.row === null && line.by_hand));
  const next = computed<PaperLine | null>(() => lines.value.find((line) => line.row === null) ?? null);

  async function fetchSheet(id: string): Promise<void> {
    runId.value = id;
    sheet.value = await answerOf(api.GET("/api/runs/{run_id}/sheet", { params: { path: { run_id: id } } }));
  }

  /** Key one line in; true when it is stored. What was refused stays where it was typed. */
  async function keyIn(line: PaperLine, text: string, unit: string | null, pencil: Pencil): Promise<boolean> {
    if (busy.value) return false;
    busy.value = true;
    problem.value = null;
    linkLost.value = false;
    const command = {
      kind: "key_in" as const,
      id: newId(),
      tablet_at: new Date().toISOString(),
      cell: line.cell,
      attempt: line.attempt,
      text,
      unit,
      written_by: pencil.by,
      written_at: new Date(pencil.at).toISOString(),
    };
    const params = { path: { run_id: runId.value } };
    try {
      await answerOf(api.POST("/api/runs/{run_id}/commands", { params, body: { command } }));
      await fetchSheet(runId.value);
      return true;
    } catch (error) {
      if (error instanceof ProblemError) problem.value = error.problem;
      else if (error instanceof LinkError) linkLost.value = true;
      else throw error;
      return false;
    } finally {
      busy.value = false;
    }
  }

  return { sheet, lines, open, next, problem, linkLost, busy, fetchSheet, keyIn };
});
