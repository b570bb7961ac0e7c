// Who sent a message: matched to the contacts we know by address, or to a customer whose people write from the same domain.
import type { ContactId, CustomerId } from '../ids.ts';

export type KnownSender = {
  readonly contactId: ContactId;
  readonly customerId: CustomerId;
  readonly email: string;
};

export type Sender = {
  /** The one contact with this address. */
  readonly contactId: ContactId | null;
  readonly customerId: CustomerId | null;
};

const NOBODY: Sender = { contactId: null, customerId: null };

/** Mail addresses are compared without case, as nearly every mail system delivers them (RFC 5321, section 2.3.11 leaves it to the host). */
export const plainAddress = (address: string): string => address.trim().toLowerCase();

export const domainOf = (address: string): string => plainAddress(address).replace(/^.*@/, '');

/**
 * The sender by their address among `known` (contacts with the same address or of the same domain). One contact has it: they are
 * the sender. Several of one customer have it (a shared mailbox): the customer is known. Nobody has it: the one customer all of
 * whose people write from the domain; a domain that people of several customers share says nothing.
 */
export function matchSender(address: string, known: readonly KnownSender[]): Sender {
  const own = plainAddress(address);
  if (!own.includes('@')) return NOBODY;
  const customersOf = (people: readonly KnownSender[]): CustomerId[] => [...new Set(people.map((k) => k.customerId))];
  const same = known.filter((k) => plainAddress(k.email) === own);
  const [contact] = same;
  if (contact) {
    if (same.length === 1) return { contactId: contact.contactId, customerId: contact.customerId };
    const customers = customersOf(same);
    return { contactId: null, customerId: customers.length === 1 ? contact.customerId : null };
  }
  const [customer, ...others] = customersOf(known.filter((k) => domainOf(k.email) === domainOf(own)));
  return customer !== undefined && others.length === 0 ? { contactId: null, customerId: customer } : NOBODY;
}

/** A telephone number as people write it below their name: with a sign or word that says so, or in the international form. */
const PHONE =
  /(?:(?:t[eé]l\p{L}*|\p{L}*phone|m[oó]bile?|m[oó]vil|handy|☎)\s*[:.]*\s*)?(\+?\(?\d[\d\s()./-]{6,20}\d)/giu;
const SAYS_SO = /t[eé]l|phone|m[oó]bil|m[oó]vil|handy|☎/iu;

/** The number somebody can be called by, as their message says it; the last one, for signatures stand below. */
export function phoneIn(text: string): string | null {
  const found = [...text.matchAll(PHONE)].filter(([whole, number = '']) => {
    const digits = number.replace(/\D/g, '').length;
    // Serial numbers and dates are long rows of digits too: a plus or a word before it makes it a telephone number.
    return (
      digits >= 8 && digits <= 15 && (number.startsWith('+') || SAYS_SO.test(whole.slice(0, whole.indexOf(number))))
    );
  });
  return found.at(-1)?.[1]?.trim() ?? null;
}

const capital = (word: string): string => word.slice(0, 1).toUpperCase() + word.slice(1);

/** What a message says of who wrote it: enough to make a contact of them. The name is the one they go by, else made of their address. */
export function contactIn(message: { readonly name: string; readonly address: string; readonly text: string }): {
  readonly name: string;
  readonly email: string;
  readonly phone: string | null;
} {
  const { name, address, text } = message;
  const local = plainAddress(address).replace(/[@+].*$/, '');
  // “Costa, Marta” is how some directories turn names round.
  const [family, given, ...more] = name.split(',').map((x) => x.trim());
  const turned = family && given && more.length === 0 ? `${given} ${family}` : name.trim();
  const made = local
    .split(/[._-]+/)
    .filter((x) => x !== '')
    .map(capital)
    .join(' ');
  return {
    name: turned === '' || turned.includes('@') ? made : turned,
    email: plainAddress(address),
    phone: phoneIn(text),
  };
}
