// Merging two people's changes to one record, field by field.

/** Fields that both this reader and somebody else changed since the form was opened; all others merge by themselves. */
export function mergeDrafts<T extends Readonly<Record<keyof T, string | number | null>>>(
  opened: T,
  mine: T,
  theirs: T,
): { merged: T; clashes: (keyof T & string)[] } {
  const merged = { ...theirs };
  const clashes: (keyof T & string)[] = [];
  for (const key of Object.keys(opened) as (keyof T & string)[]) {
    if (mine[key] === opened[key]) continue;
    if (theirs[key] !== opened[key] && theirs[key] !== mine[key]) clashes.push(key);
    merged[key] = mine[key];
  }
  return { merged, clashes };
}
