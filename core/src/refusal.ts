// Refusals: what a user can cause is answered by a value with a stable code, the field and what would be right.
// Faults (broken assumptions) are exceptions and never pass through here.

export type RefusalCode =
  | 'invalid'
  | 'missing'
  | 'not-found'
  | 'not-allowed'
  | 'stale'
  | 'taken'
  | 'wrong-stage'
  | 'in-the-future'
  | 'out-of-order'
  | 'unknown-device'
  | 'malformed'
  | 'too-large'
  | 'never-fires'
  | 'unsupported'
  | 'never-opens'
  | 'conflict'
  | 'not-ready'
  | 'signed-out';

export type Refusal = {
  readonly code: RefusalCode;
  /** Dotted path of the input concerned, when there is one. */
  readonly field?: string;
  /** What is wrong and what would be right, as a sentence. */
  readonly message: string;
};

export type Decided<T> =
  { readonly ok: true; readonly value: T } | { readonly ok: false; readonly refusals: readonly Refusal[] };

export function decided<T>(value: T): Decided<T> {
  return { ok: true, value };
}

export function refused<T = never>(...refusals: readonly Refusal[]): Decided<T> {
  return { ok: false, refusals };
}

export function refusal(code: RefusalCode, message: string, field?: string): Refusal {
  return field === undefined ? { code, message } : { code, message, field };
}
