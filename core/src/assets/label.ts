// What a scanned code says: a label of ours is an address that names what it is of; any other code is taken as it is.

export type Label = { readonly of: 'asset' | 'part' | null; readonly code: string };

const ADDRESSES = { asset: /\/assets\/tag\/([^/?#]+)/, part: /\/stores\/scan\/([^/?#]+)/ } as const;

const decodedOr = (text: string): string => {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
};

/** Reads a scanned text. Nothing is refused: what is no label of ours is a code of unknown kind, without the spaces around it. */
export function readLabel(text: string): Label {
  for (const of of ['asset', 'part'] as const) {
    const code = ADDRESSES[of].exec(text)?.[1];
    if (code !== undefined) return { of, code: decodedOr(code) };
  }
  return { of: null, code: text.trim() };
}
