import createClient from "openapi-fetch";
import type { paths } from "@/api/schema";
import type { Problem } from "@/api/types";

const SAID_WITHIN_MS = 8000;

/** A question that is not answered for so long will not be; what changes something has limits of its own. */
function ask(request: Request): Promise<Response> {
  if (request.method !== "GET") return globalThis.fetch(request);
  const signal = AbortSignal.any([request.signal, AbortSignal.timeout(SAID_WITHIN_MS)]);
  return globalThis.fetch(request, { signal });
}

/** The one way to the server; its types come from the server's own description. */
export const api = createClient<paths>({ baseUrl: location.origin, fetch: ask });

/** The server said no, and why. */
export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
  }
}

/** The server did not answer, or not in a way that this screen knows. */
export class LinkError extends Error {}

interface Answered<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

function isProblem(value: unknown): value is Problem {
  return typeof value === "object" && value !== null && "detail" in value && "code" in value;
}

let told: (heard: boolean) => void = () => undefined;

/** Let somebody know, after each call, whether the server answered it at all. */
export function onAnswer(tell: (heard: boolean) => void): void {
  told = tell;
}

/** Return the answer of a call, or throw a ProblemError or LinkError. */
export async function answerOf<T>(call: Promise<Answered<T>>): Promise<T> {
  let answered: Answered<T>;
  try {
    answered = await call;
  } catch (cause) {
    told(false);
    throw new LinkError("no answer", { cause });
  }
  if (answered.error === undefined && answered.response.ok) {
    told(true);
    return answered.data as T;
  }
  if (isProblem(answered.error)) {
    told(answered.error.status < 500);
    throw new ProblemError(answered.error);
  }
  told(false);
  throw new LinkError(`status ${answered.response.status}`);
}

/** Return a new id for a command; works without a secure context too. */
export function newId(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  const hex = Array.from(bytes, (byte, index) => {
    const fixed = index === 6 ? (byte & 0x0f) | 0x40 : index === 8 ? (byte & 0x3f) | 0x80 : byte;
    return fixed.toString(16).padStart(2, "0");
  }).join("");
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join("-");
}
