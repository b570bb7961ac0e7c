// What a room hands to the web's house: where it stands in the rail, its pages, what it says in the finder, what floats over others.
import { createContext, useContext, type ComponentType } from 'react';
import type { AnyContract } from '#api/contract.ts';
import type { FoundKind, Hit } from '#api/finder.ts';

export type Loaded<Props = object> = () => Promise<ComponentType<Props>>;

/** What was typed after the key that opens what floats and before that was there, so that no key is lost. */
export type TypedAhead = { readonly text: string; readonly enter: 'Enter' | 'Shift+Enter' | null };
export type FloatingProps = { readonly onClose: () => void; readonly typedAhead: TypedAhead };

export type TodayCard = {
  readonly place: number;
  readonly card?: Loaded;
  readonly summary?: Loaded;
  readonly decisions?: Loaded;
};

export type Room = {
  /** As on the server. */
  readonly name: string;
  /** Its line in the rail and its key after `g`; whoever may not call the contract does not see it. */
  readonly rail?: {
    readonly word: string;
    readonly path: string;
    readonly key: string;
    readonly shown?: Pick<AnyContract, 'may'>;
  };
  /** Each loaded when it is entered. */
  readonly pages?: readonly { readonly path: string; readonly load: Loaded }[];
  /** What it shows in Today, by its place there: a card, words for the head, rows among the decisions. */
  readonly today?: readonly TodayCard[];
  /** How things of a kind are opened from the finder, and what the likely next act on them is. */
  readonly found?: readonly {
    readonly kind: FoundKind;
    readonly group: string;
    readonly open: (hit: Hit) => string;
    readonly act?: (hit: Hit) => string;
  }[];
  /** Parts of Setup that it brings; whoever may not call the contract does not see them. */
  readonly setup?: readonly {
    readonly path: string;
    readonly word: string;
    readonly shown: Pick<AnyContract, 'may'>;
    readonly load: Loaded;
  }[];
  /** Pages that are entered by one key from anywhere; whoever may not call the contract does not. */
  readonly keys?: readonly {
    readonly key: string;
    readonly word: string;
    readonly path: string;
    readonly shown: Pick<AnyContract, 'may'>;
  }[];
  /** What is opened over any page by a key. */
  readonly floats?: {
    readonly word: string;
    readonly key: string;
    readonly load: Loaded<FloatingProps>;
  };
};

const RoomsContext = createContext<readonly Room[]>([]);
export const RoomsProvider = RoomsContext.Provider;
export const useRooms = (): readonly Room[] => useContext(RoomsContext);
