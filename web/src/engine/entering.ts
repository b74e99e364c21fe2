import { computed, reactive, type ComputedRef } from "vue";
import type { OverhaulCommand } from "@/api/types";
import type { Said } from "@/engine/engine";
import { figureOf, nextAt } from "@/shared/typed";

/** Stands for somebody who is not on the register. */
export const OTHER = "other";

export interface EntryForm {
  person: string;
  space: Extract<OverhaulCommand, { kind: "enter" }>["space"];
  /** Door of the sheet; empty where nobody says. */
  door: string;
  permit: string;
  /** Time of day until which the permit holds; empty where nobody says. */
  until: string;
  /** Who stands outside: somebody of the register, or `OTHER`; empty while nobody is chosen. */
  attendedBy: string;
  /** Their name, where they are not on the register. */
  attendant: string;
  oxygen: string;
  gas: string;
}

/** Somebody goes in: what is asked, and what is said once all of it is there. Nobody's air is read by default. */
export function useEntryForm(wentIn: () => Date = () => new Date()): {
  form: EntryForm;
  said: ComputedRef<Said | null>;
} {
  const form = reactive<EntryForm>({
    person: "",
    space: "crankcase",
    door: "",
    permit: "",
    until: "",
    attendedBy: "",
    attendant: "",
    oxygen: "",
    gas: "",
  });
  const said = computed<Said | null>(() => {
    const oxygen = figureOf(form.oxygen);
    const gas = figureOf(form.gas);
    const other = form.attendedBy === OTHER;
    const outside = other ? form.attendant.trim() !== "" : form.attendedBy !== "";
    const named = form.person !== "" && form.permit.trim() !== "" && outside;
    if (!named || oxygen === null || gas === null) return null;
    return {
      kind: "enter",
      person: form.person,
      space: form.space,
      door: form.door === "" ? null : form.door,
      permit: form.permit.trim(),
      until_at: nextAt(form.until, wentIn()),
      attended_by: other ? null : form.attendedBy,
      attendant: other ? form.attendant.trim() : null,
      oxygen_pct: oxygen,
      gas_pct: gas,
    };
  });
  return { form, said };
}
