import { ref, shallowRef, type Ref, type ShallowRef } from "vue";
import { LinkError, ProblemError } from "@/api/client";
import type { Problem } from "@/api/types";
import { signal } from "@/shared/signals";

/** How something that the server may refuse stands: under way, refused and why, or not answered. */
export interface Acting {
  busy: Ref<boolean>;
  problem: Ref<Problem | null>;
  /** No answer: nothing of it is known to be stored, and the same may be sent again. */
  unsent: Ref<boolean>;
  /** Forget what went wrong before. */
  clear: () => void;
  /** Do it, unless something is under way already: that is felt and heard. True when the server has done it. */
  act: (work: () => Promise<void>) => Promise<boolean>;
}

/** The one way to do something that the server may refuse. */
export function useActing(): Acting {
  const busy = ref(false);
  const problem = ref<Problem | null>(null);
  const unsent = ref(false);

  function clear(): void {
    problem.value = null;
    unsent.value = false;
  }

  async function act(work: () => Promise<void>): Promise<boolean> {
    if (busy.value) {
      signal("refused");
      return false;
    }
    busy.value = true;
    clear();
    try {
      await work();
      return true;
    } catch (error) {
      note(error, problem, unsent);
      return false;
    } finally {
      busy.value = false;
    }
  }

  return { busy, problem, unsent, clear, act };
}

/** Put a refusal or a missing answer where it is shown; anything else is a fault of the program. */
export function note(error: unknown, problem: Ref<Problem | null>, unsent: Ref<boolean>): void {
  if (error instanceof ProblemError) problem.value = error.problem;
  else if (error instanceof LinkError) unsent.value = true;
  else throw error;
}

/** The answer to the question asked last. */
export interface Asking<T> {
  answer: ShallowRef<T | null>;
  problem: Ref<Problem | null>;
  unsent: Ref<boolean>;
  ask: (question: () => Promise<T>) => Promise<void>;
  forget: () => void;
}

/** Ask again and again; an answer that comes late never takes the place of a newer question's. */
export function useAsking<T>(): Asking<T> {
  const answer = shallowRef<T | null>(null);
  const problem = ref<Problem | null>(null);
  const unsent = ref(false);
  let last = 0;

  async function ask(question: () => Promise<T>): Promise<void> {
    const turn = ++last;
    try {
      const said = await question();
      if (turn !== last) return;
      answer.value = said;
      problem.value = null;
      unsent.value = false;
    } catch (error) {
      if (turn === last) note(error, problem, unsent);
    }
  }

  /** What was asked before does not count any more, answered or not. */
  function forget(): void {
    last += 1;
    answer.value = null;
    problem.value = null;
    unsent.value = false;
  }

  return { answer, problem, unsent, ask, forget };
}
