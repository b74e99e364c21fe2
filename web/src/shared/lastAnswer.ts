import { LinkError } from "@/api/client";
import { keep, kept } from "@/shared/tabletDisk";

/** What the server said, and when; `fresh` is false when it does not answer now. */
export interface Said<T> {
  value: T;
  at: string;
  fresh: boolean;
}

/**
 * Ask the server and keep what it says; when it does not answer, return what it said last.
 *
 * A browser that cannot keep anything asks only the server.
 */
export async function orLastAnswer<T>(name: string, ask: () => Promise<T>): Promise<Said<T>> {
  try {
    const value = await ask();
    const said = { value, at: new Date().toISOString() };
    await keep(name, said).catch(() => undefined);
    return { ...said, fresh: true };
  } catch (error) {
    if (!(error instanceof LinkError)) throw error;
    const last = await kept<Omit<Said<T>, "fresh">>(name).catch(() => undefined);
    if (last === undefined) throw error;
    return { ...last, fresh: false };
  }
}
