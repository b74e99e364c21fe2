import { defineStore } from "pinia";
import { computed, ref } from "vue";
import { answerOf, api, newId } from "@/api/client";
import type { PaperLine, WorkSheet } from "@/api/types";

import { useActing } from "@/shared/acting";

/** Who wrote on the sheet, and when. */
export interface Pencil {
  by: string;
  at: string;
}

/** A work sheet that is being keyed in, line by line. */
export const useKeying = defineStore("sheet", () => {
  const runId = ref("");
  const sheet = ref<WorkSheet | null>(null);
  const { busy, problem, unsent, act } = useActing();

  const lines = computed<PaperLine[]>(() => sheet.value?.lines ?? []);
  const open = computed(() => lines.value.filter((line) => line.row === null && line.by_hand));
  const next = computed<PaperLine | null>(() => lines.value.find((line) => line.row === null) ?? null);

  async function fetchSheet(id: string): Promise<void> {
    runId.value = id;
    sheet.value = await answerOf(api.GET("/api/runs/{run_id}/sheet", { params: { path: { run_id: id } } }));
  }

  /** Turn to the sheet of a run; where there is none, what stands against it is said in its place. */
  async function turnTo(id: string): Promise<boolean> {
    sheet.value = null;
    return await act(() => fetchSheet(id));
  }

  /** Key one line in; true when it is stored. What was refused or asked about stays where it was typed. */
  async function keyIn(
    line: PaperLine,
    text: string,
    unit: string | null,
    pencil: Pencil,
    sure = false,
  ): Promise<boolean> {
    const command = {
      kind: "key_in" as const,
      id: newId(),
      tablet_at: new Date().toISOString(),
      cell: line.cell,
      attempt: line.attempt,
      text,
      unit,
      sure,
      written_by: pencil.by,
      written_at: new Date(pencil.at).toISOString(),
    };
    const params = { path: { run_id: runId.value } };
    return act(async () => {
      await answerOf(api.POST("/api/runs/{run_id}/commands", { params, body: { command } }));
      await fetchSheet(runId.value);
    });
  }

  return { sheet, lines, open, next, problem, unsent, busy, turnTo, keyIn };
});
