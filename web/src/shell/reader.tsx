// The reader: who is signed in, their zone, and what they may do.
import { createContext, useContext } from 'react';
import type { AnyContract } from '#api/contract.ts';
import type { SignedIn } from '#api/session.ts';
import { mayCall } from '#core/people.ts';
import type { Zone } from '#core/time/index.ts';

const ReaderContext = createContext<SignedIn | null>(null);
export const ReaderProvider = ReaderContext.Provider;

export function useReader(): SignedIn & { readonly zone: Zone; may(contract: Pick<AnyContract, 'may'>): boolean } {
  const reader = useContext(ReaderContext);
  if (!reader) throw new Error('nobody is signed in');
  return { ...reader, zone: reader.zone as Zone, may: (contract) => mayCall(contract.may, reader.role) };
}
