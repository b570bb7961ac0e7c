// By what a list is sorted, as its address and its question to the server name it.
export type Sort = { readonly by: string; readonly down: boolean };

/** The order an address names; null where it names none, or one the list does not have. */
export function readSort(text: string | null, can: readonly string[]): Sort | null {
  const [by = '', way] = (text ?? '').split(' ');
  return can.includes(by) ? { by, down: way === 'down' } : null;
}

export const sortText = (sort: Sort | null): string | null =>
  sort === null ? null : `${sort.by}${sort.down ? ' down' : ''}`;

/** The order as the server is asked for it; `can` are the names it knows. */
export function sortAsked<By extends string>(
  sort: Sort | null,
  can: readonly By[],
): { readonly sort?: By; readonly down?: '1' } {
  const by = can.find((name) => name === sort?.by);
  return by === undefined ? {} : { sort: by, ...(sort?.down && { down: '1' }) };
}

/** Pressed once upward, again downward, a third time as at first. */
export function sortedNext(sort: Sort | null, by: string): Sort | null {
  if (sort?.by !== by) return { by, down: false };
  return sort.down ? null : { by, down: true };
}
