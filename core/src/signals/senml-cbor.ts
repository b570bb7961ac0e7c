// SenML in CBOR: the same records, with small numbers in place of their labels.

/** Labels in CBOR. Source: RFC 8428, section 6, table 4. */
const LABELS: ReadonlyMap<unknown, string> = new Map(
  Object.entries({
    ...{ bver: -1, bn: -2, bt: -3, bu: -4, bv: -5, bs: -6 },
    ...{ n: 0, u: 1, v: 2, vs: 3, vb: 4, s: 5, t: 6, ut: 7, vd: 8 },
  }).map(([label, key]) => [key, label]),
);

const DIGITS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_';

/** Bytes as the JSON form has them: base64 for URLs, without padding. RFC 8428, section 4.2; RFC 4648, section 5. */
function base64Url(bytes: Uint8Array): string {
  let text = '';
  for (let i = 0; i < bytes.length; i += 3) {
    const [a = 0, b = 0, c = 0] = bytes.subarray(i, i + 3);
    const group = (a << 16) | (b << 8) | c;
    const digits = [18, 12, 6, 0].map((shift) => DIGITS.charAt((group >> shift) & 63));
    text += digits.slice(0, Math.min(bytes.length - i, 3) + 1).join('');
  }
  return text;
}

/** A pack decoded from CBOR, its records maps, as `readPack` takes it; what is no record stays as it is, for that to name. */
export function packOfCbor(decoded: unknown): unknown {
  if (!Array.isArray(decoded)) return decoded;
  return decoded.map((record: unknown) =>
    record instanceof Map
      ? Object.fromEntries(
          [...(record as Map<unknown, unknown>)].map(([label, value]) => [
            LABELS.get(label) ?? String(label),
            value instanceof Uint8Array ? base64Url(value) : value,
          ]),
        )
      : record,
  );
}
