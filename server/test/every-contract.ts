// Every contract of the house, found by its shape in the files of the api.
import { readdirSync } from 'node:fs';
import type { AnyContract } from '#api/contract.ts';

const isContract = (x: unknown): x is AnyContract => typeof x === 'object' && x !== null && 'method' in x && 'may' in x;

export async function everyContract(): Promise<readonly AnyContract[]> {
  const folder = new URL('../../api/src/', import.meta.url);
  const contracts: AnyContract[] = [];
  for (const name of readdirSync(folder)) {
    const held = (await import(new URL(name, folder).href)) as Record<string, unknown>;
    contracts.push(...Object.values(held).filter(isContract));
  }
  return contracts;
}
