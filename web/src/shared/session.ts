import { defineStore } from "pinia";
import { computed, ref, watch } from "vue";
import { api, LinkError, answerOf } from "@/api/client";
import { learnUnitSymbols } from "@/shared/format";
import { orLastAnswer } from "@/shared/lastAnswer";
import type { Me, Right } from "@/api/types";
import { forgetKept, keep } from "@/shared/tabletDisk";

/** Who is at the tablet. */
export const useSession = defineStore("session", () => {
  const me = ref<Me | null>(null);
  const asked = ref(false);

  async function ensure(): Promise<void> {
    if (asked.value) return;
    const found = await orLastAnswer("session", () => answerOf(api.GET("/api/session")));
    me.value = found.value;
    asked.value = true;
  }

  async function signIn(personId: string, pin: string): Promise<void> {
    const known = await answerOf(api.POST("/api/session", { body: { person_id: personId, pin } }));
    await keep("session", { value: known, at: new Date().toISOString() }).catch(() => undefined);
    me.value = known;
  }

  /** Leave this tablet; only the server can end a session, so that it needs a link. */
  async function signOut(): Promise<void> {
    try {
      await api.DELETE("/api/session");
    } catch (cause) {
      throw new LinkError("no answer", { cause });
    }
    await forgetKept().catch(() => undefined);
    me.value = null;
  }

  async function chooseUnits(units: Record<string, string>): Promise<void> {
    me.value = await answerOf(api.PUT("/api/session/units", { body: { units } }));
  }

  watch(me, (known) => {
    learnUnitSymbols(known?.unit_symbols ?? {});
  });

  const rights = computed(() => new Set(me.value?.rights ?? []));
  /** Who does what this person may not; null where they may. */
  const others = (act: Right): string | null => me.value?.others[act] ?? null;
  return { me, rights, others, ensure, signIn, signOut, chooseUnits };
});
