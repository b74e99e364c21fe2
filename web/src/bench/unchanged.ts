/** Return what is new, made of the very parts of what was before wherever nothing has changed in them: those are not drawn anew. */
export function withUnchangedParts<T>(before: unknown, now: T): T {
  if (
    Object.is(before, now) ||
    !isMade(before) ||
    !isMade(now) ||
    Array.isArray(before) !== Array.isArray(now)
  )
    return now;
  let same = Object.keys(before).length === Object.keys(now).length;
  const parts = now as Record<string, unknown>;
  for (const [name, part] of Object.entries(parts)) {
    parts[name] = withUnchangedParts(before[name], part);
    same &&= name in before && Object.is(parts[name], before[name]);
  }
  return same ? (before as T) : now;
}

function isMade(value: unknown): value is Record<string, unknown> {
  return typeof value === "object" && value !== null;
}
