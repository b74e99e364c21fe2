import { onMounted, ref, type Ref } from "vue";
import { answerOf, api } from "@/api/client";
import type { PersonListed } from "@/api/types";
import { orLastAnswer } from "@/shared/lastAnswer";
import { useSession } from "@/shared/session";

/** The names of everybody, kept on the tablet: somebody goes in without a link, too. */
export function usePeople(): { people: Ref<PersonListed[]>; fetchPeople: () => Promise<void> } {
  const session = useSession();
  const people = ref<PersonListed[]>([]);

  async function fetchPeople(): Promise<void> {
    if (people.value.length > 0) return;
    try {
      people.value = (await orLastAnswer("people", () => answerOf(api.GET("/api/people")))).value;
    } catch {
      // Whoever is signed in can be named, also where the names of the others cannot be had.
      const self = session.me;
      if (self !== null) people.value = [{ id: self.id, name: self.name, role: self.role }];
    }
  }
  onMounted(() => void fetchPeople());
  return { people, fetchPeople };
}
