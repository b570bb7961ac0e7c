// Refusals on their way out: one error that carries them, its HTTP status, and the problem details of RFC 9457.
import type { Refusal, RefusalCode, Decided } from '#core/refusal.ts';
import { refusal } from '#core/refusal.ts';
import type { Problem } from '#api/shapes.ts';

/** Thrown inside a command so that its transaction rolls back; the error handler turns it into the answer. */
export class Refused extends Error {
  constructor(
    readonly refusals: readonly Refusal[],
    readonly current?: unknown,
  ) {
    super(refusals[0]?.message ?? 'refused');
  }
}

/** Work in steps that was cut: says how far it came, and what to do. What was done stands. */
export class CutShort extends Error {
  constructor(message: string, cause: unknown) {
    super(message, { cause });
  }
}

export function refuse(code: RefusalCode, message: string, field?: string): never {
  throw new Refused([refusal(code, message, field)]);
}

/** A stale write is refused with the row as it stands now. */
export function stale(current: unknown): never {
  throw new Refused([refusal('stale', 'Somebody changed this meanwhile. Compare, then save again.')], current);
}

/** The value, or the refusal as the answer. */
export function accept<T>(decided: Decided<T>): T {
  if (!decided.ok) throw new Refused(decided.refusals);
  return decided.value;
}

const STATUS: Record<RefusalCode, number> = {
  invalid: 422,
  missing: 422,
  'not-found': 404,
  'not-allowed': 403,
  stale: 409,
  taken: 409,
  'wrong-stage': 409,
  'in-the-future': 422,
  'out-of-order': 422,
  'unknown-device': 422,
  malformed: 400,
  'too-large': 413,
  'never-fires': 422,
  unsupported: 422,
  'never-opens': 422,
  conflict: 409,
  'not-ready': 409,
  'signed-out': 401,
};

const TITLE: Record<number, string> = {
  400: 'Malformed request',
  401: 'Not signed in',
  403: 'Not allowed',
  404: 'Not found',
  409: 'Conflict',
  413: 'Too large',
  422: 'Not accepted',
  429: 'Too many requests',
};

export function problemOf(refusals: readonly Refusal[], current?: unknown): Problem {
  const code = refusals[0]?.code ?? 'invalid';
  const status = STATUS[code];
  return {
    type: `urn:stavok:problem:${code}`,
    title: TITLE[status] ?? 'Refused',
    status,
    detail: refusals.map((r) => r.message).join(' '),
    code,
    errors: refusals.map((r) => ({ field: r.field ?? null, code: r.code, message: r.message })),
    ...(current === undefined ? {} : { current }),
  };
}
