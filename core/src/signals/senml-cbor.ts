// SenML in CBOR: the same records, with small numbers in place of their labels.

/** Labels in CBOR. Source: RFC 8428, section 6, table 4. */
const LABELS: ReadonlyMap<unknown, string> = new Map<unknown, string>([
  ...([-1, -2, -3, -4, -5, -6].map((key, i) => [key, ['bver', 'bn', 'bt', 'bu', 'bv', 'bs'][i] as string]) as [
    number,
    string,
  ][]),
  ...([0, 1, 2, 3, 4, 5, 6, 7, 8].map((key, i) => [
    key,
    ['n', 'u', 'v', 'vs', 'vb', 's', 't', 'ut', 'vd'][i] as string,
  ]) as [number, string][]),
]);

/** Bytes as the JSON form has them: base64 for URLs, without padding. RFC 8428, section 4.2. */
function base64Url(bytes: Uint8Array): string {
  const text = btoa(Array.from(bytes, (b) => String.fromCharCode(b)).join(''));
  return text.replaceAll('+', '-').replaceAll('/', '_').replace(/=+$/, '');
}

/** A pack decoded from CBOR, its records maps, as `readPack` takes it; what is no record stays as it is, for that to name. */
export function packOfCbor(decoded: unknown): unknown {
  if (!Array.isArray(decoded)) return decoded;
  return decoded.map((record: unknown) =>
    record instanceof Map
      ? Object.fromEntries(
          [...record].map(([label, value]: [unknown, unknown]) => [
            LABELS.get(label) ?? String(label),
            value instanceof Uint8Array ? base64Url(value) : value,
          ]),
        )
      : record,
  );
}
