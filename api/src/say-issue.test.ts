// Whatever any contract refuses is said in words a person can act on, never in those of the library.
import fc from 'fast-check';
import * as v from 'valibot';
import { describe, expect, it } from 'vitest';
import type { AnyContract } from './contract.ts';
import { sayIssue } from './say-issue.ts';

const files = import.meta.glob<Record<string, unknown>>(['./*.ts', './agreements/*.ts', '!./*.test.ts'], {
  eager: true,
});
const isContract = (x: unknown): x is AnyContract =>
  typeof x === 'object' && x !== null && 'method' in x && 'path' in x && 'may' in x;
const contracts = [
  ...new Map(
    Object.values(files)
      .flatMap((file) => Object.values(file))
      .filter(isContract)
      .map((c) => [`${c.method} ${c.path}`, c]),
  ),
];

const LIBRARY = /^Invalid |^Expected | Expected |received /;
const said = (schema: v.GenericSchema, value: unknown): string[] => {
  const read = v.safeParse(schema, value);
  return read.success ? [] : read.issues.map(sayIssue);
};

/** One field of what a schema asks replaced by something else, at any depth. */
function broken(value: unknown, junk: unknown): unknown[] {
  if (Array.isArray(value)) {
    const held = value as readonly unknown[];
    return [
      junk,
      ...held.flatMap((x, i) => broken(x, junk).map((y) => [...held.slice(0, i), y, ...held.slice(i + 1)])),
    ];
  }
  if (typeof value !== 'object' || value === null) return [junk];
  return [
    junk,
    ...Object.entries(value).flatMap(([key, held]) => broken(held, junk).map((y) => ({ ...value, [key]: y }))),
  ];
}

describe('refusals of the wire', () => {
  it('knows all contracts', () => expect(contracts.length).toBeGreaterThan(140));

  it.each(contracts)('%s says what would be right, whatever it is sent', (_, { body, query, params }) => {
    for (const schema of [body, query, params]) {
      if (!schema) continue;
      fc.assert(
        fc.property(
          fc.oneof(fc.jsonValue({ maxDepth: 3 }), fc.constant({}), fc.constant(undefined)),
          fc.constantFrom(null, NaN, -1, 1e15, '', 'x', 'y'.repeat(5000), [], [null], {}, true, '2026-02-31'),
          (value, junk) => {
            for (const sent of [value, ...broken(value, junk).slice(0, 20)])
              for (const text of said(schema, sent)) {
                expect(text).not.toMatch(LIBRARY);
                expect(text).toMatch(/^[A-Z“].*[.?]$/su);
              }
          },
        ),
        { numRuns: 12 },
      );
      // With every field there but wrong, each is named by itself.
      if (schema.type === 'object') {
        const { entries } = schema as unknown as { entries: Record<string, unknown> };
        const wrong = Object.fromEntries(
          Object.keys(entries).map((key) => [key, Symbol.iterator in Object(key) ? { not: 'this' } : 0]),
        );
        for (const text of said(schema, wrong)) expect(text).not.toMatch(LIBRARY);
      }
    }
  });

  it('asks for a number where one was left out or cannot be read', () => {
    const schema = v.object({ n: v.number() });
    for (const n of [NaN, null, undefined]) expect(said(schema, { n })).toEqual(['A number is needed.']);
    expect(said(schema, { n: 'x' })).toEqual(['Here belongs a number.']);
  });
});
