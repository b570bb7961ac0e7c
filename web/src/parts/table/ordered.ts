// The order of columns as a person likes it.

/** Columns as somebody ordered them; ones that came since stand where they were made to stand. */
export function ordered(ids: readonly string[], order: readonly string[]): string[] {
  const known = order.filter((id) => ids.includes(id));
  const result = [...known];
  for (const [i, id] of ids.entries())
    if (!known.includes(id)) {
      const before = ids.slice(0, i).findLast((x) => result.includes(x));
      result.splice(before === undefined ? 0 : result.indexOf(before) + 1, 0, id);
    }
  return result;
}
