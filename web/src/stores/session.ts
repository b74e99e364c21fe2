import { defineStore } from "pinia";
import { computed, ref } from "vue";
import { api, take } from "@/api/client";
import type { Me } from "@/api/types";

/** Who is at the tablet. */
export const useSession = defineStore("session", () => {
  const me = ref<Me | null>(null);
  const asked = ref(false);

  async function ensure(): Promise<void> {
    if (asked.value) return;
    me.value = await take(api.GET("/api/session"));
    asked.value = true;
  }

  async function signIn(personId: string, pin: string): Promise<void> {
    me.value = await take(api.POST("/api/session", { body: { person_id: personId, pin } }));
  }

  async function signOut(): Promise<void> {
    await api.DELETE("/api/session");
    me.value = null;
  }

  async function chooseUnits(units: Record<string, string>): Promise<void> {
    me.value = await take(api.PUT("/api/session/units", { body: { units } }));
  }

  const rights = computed(() => new Set(me.value?.rights ?? []));
  return { me, rights, ensure, signIn, signOut, chooseUnits };
});
