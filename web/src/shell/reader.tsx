// The reader: who is signed in, their zone, and what they may do.
import { createContext, useContext } from 'react';
import type { SignedIn } from '#api/session.ts';
import type { Role } from '#api/shapes.ts';
import type { Zone } from '#core/time/index.ts';

const ReaderContext = createContext<SignedIn | null>(null);
export const ReaderProvider = ReaderContext.Provider;

export function useReader(): SignedIn & { readonly zone: Zone; may(...roles: Role[]): boolean } {
  const reader = useContext(ReaderContext);
  if (!reader) throw new Error('nobody is signed in');
  return { ...reader, zone: reader.zone as Zone, may: (...roles) => roles.includes(reader.role) };
}
