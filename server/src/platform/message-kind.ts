// What a room tells people outside: when, with what put into it, and in which words unless somebody wrote others.
import type { Language, Template } from '#core/telling.ts';

export type MessageKind = {
  readonly kind: string;
  /** When it is said, for whoever edits its words. */
  readonly says: string;
  /** What may be put into it, each written {place}. */
  readonly places: readonly string[];
  readonly words: Readonly<Record<Language, Template>>;
};
