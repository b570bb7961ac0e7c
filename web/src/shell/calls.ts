// Calling the server by its contracts: addresses, tokens, and problems as values.
import type { BaseQueryFn } from '@reduxjs/toolkit/query';
import type { AnyContract, Answer, Sent } from '#api/contract.ts';
import type { Problem } from '#api/shapes.ts';

type Wanted<C> = Sent<C> extends infer S ? { [K in keyof S as S[K] extends undefined ? never : K]: S[K] } : never;
/** What a call needs; nothing at all when the contract asks for nothing. */
export type Args<C> = keyof Wanted<C> extends never ? void : Wanted<C>;
export type { Answer };

export type Call = {
  readonly contract: AnyContract;
  readonly sent: { params?: unknown; query?: unknown; body?: unknown };
};
export type CallError = Problem;

let csrf = '';
export function holdToken(token: string): void {
  csrf = token;
}

export function addressOf({ contract, sent }: Call): string {
  const params = (sent.params ?? {}) as Record<string, string>;
  const path = contract.path.replace(/:(\w+)/g, (_, name: string) => encodeURIComponent(params[name] ?? ''));
  const query = Object.entries((sent.query ?? {}) as Record<string, string | undefined>).filter(
    (e): e is [string, string] => e[1] !== undefined && e[1] !== '',
  );
  return query.length > 0 ? `${path}?${new URLSearchParams(query).toString()}` : path;
}

/** What of an address is asked of the server: the named ones that say something. */
export function askedIn(params: URLSearchParams, keys: readonly string[]): Record<string, string> {
  return Object.fromEntries(
    keys.flatMap((key) => {
      const value = params.get(key);
      return value ? [[key, value] as const] : [];
    }),
  );
}

const unreachable: Problem = {
  type: 'urn:stavok:problem:unreachable',
  title: 'No answer',
  status: 0,
  code: 'unreachable',
  errors: [],
  detail: 'The server does not answer. What you typed is still here; try again in a moment.',
};

/** A file goes as it is, everything else as JSON. */
const typeOf = (body: unknown): string => (body instanceof Blob ? 'application/octet-stream' : 'application/json');

export const callServer: BaseQueryFn<Call, unknown, CallError> = async (call, { signal }) => {
  const { body } = call.sent;
  try {
    const answer = await fetch(addressOf(call), {
      method: call.contract.method,
      signal,
      credentials: 'same-origin',
      headers: { ...(body !== undefined && { 'content-type': typeOf(body) }), 'x-csrf-token': csrf },
      ...(body !== undefined && { body: body instanceof Blob ? body : JSON.stringify(body) }),
    });
    const text = await answer.text();
    const data: unknown = text === '' ? null : JSON.parse(text);
    return answer.ok ? { data } : { error: data as Problem };
  } catch {
    return { error: unreachable };
  }
};
