// Telling: what leaves the house. Each message follows a template, goes the way its reader prefers, and is said once.
import { decided, refusal, refused, type Decided } from './refusal.ts';

/** Ways out of the house: mail, text message, and a push to the phone. */
export const WAYS_OUT = ['mail', 'message', 'push'] as const;
export type WayOut = (typeof WAYS_OUT)[number];

export const OUT_STATES = ['waiting', 'sent', 'dead'] as const;
export type OutState = (typeof OUT_STATES)[number];

export const LANGUAGES = ['en', 'pt'] as const;
export const LANGUAGE_NAMES: Readonly<Record<Language, string>> = { en: 'English', pt: 'Portuguese' };
export type Language = (typeof LANGUAGES)[number];

export type Template = { readonly subject: string; readonly body: string };

const PLACE = /\{([a-z][A-Za-z]*)\}/g;

export const placesIn = (text: string): string[] => [...new Set([...text.matchAll(PLACE)].map((m) => m[1] as string))];

/**
 * A template as somebody wrote it. Refused: a place that the message has nothing to put into, braces that are no place,
 * and an empty subject or body.
 */
export function checkTemplate({ subject, body }: Template, known: readonly string[]): Decided<Template> {
  for (const [field, text] of [
    ['subject', subject],
    ['body', body],
  ] as const) {
    if (text.trim() === '') return refused(refusal('missing', 'This is needed.', field));
    const strange = placesIn(text).find((place) => !known.includes(place));
    if (strange !== undefined)
      return refused(
        refusal(
          'invalid',
          `{${strange}} is nothing this message knows; use ${known.map((k) => `{${k}}`).join(', ')}.`,
          field,
        ),
      );
    if (/[{}]/.test(text.replace(PLACE, '')))
      return refused(refusal('invalid', 'A brace stands alone; write places as {name}.', field));
  }
  return decided({ subject: subject.trim(), body: body.trim() });
}

/** The message: every place filled. A place without a value stays empty; a template that was checked has none of these. */
export function fillTemplate(template: Template, values: Readonly<Record<string, string>>): Template {
  const fill = (text: string): string => text.replace(PLACE, (_, place: string) => values[place] ?? '');
  // A subject is one line, whatever is put into it: a line break would begin another header (RFC 5322, section 2.2).
  return { subject: fill(template.subject).replace(/[\r\n]+/g, ' '), body: fill(template.body) };
}

export type Reachable = {
  readonly mail: string | null;
  readonly phone: string | null;
  /** Browsers of theirs take pushes, whatever their phone's number is. */
  readonly hasBrowser?: boolean;
  /** The way they asked for. */
  readonly prefers: WayOut;
};

/** The address of a push that only browsers take. */
export const BY_BROWSER = 'browser';

/**
 * Whether a browser's push address is one this house may call: a push service's, by https and its name on the usual port, or one at the
 * house's own gateway. Addresses come from phones: nothing inside the house is called by them.
 */
export function isPushAddress(address: string, gateway: string | null): boolean {
  const own = gateway === null ? null : (/^https?:\/\/[^/?#@\s\\]+/.exec(gateway)?.[0] ?? null);
  if (own !== null && address.startsWith(`${own}/`)) return true;
  const [, host] = /^https:\/\/([a-z0-9-]+(?:\.[a-z0-9-]+)*\.[a-z][a-z0-9-]*)\/[^\s\\]*$/.exec(address) ?? [];
  return host !== undefined && !/\.(local|localhost|internal|home|lan)$/.test(host);
}

/** The way a message goes and to which address: the preferred way where they can be reached by it, else by mail, else by message; null when by none. */
export function wayTo({
  mail,
  phone,
  hasBrowser,
  prefers,
}: Reachable): { readonly way: WayOut; readonly address: string } | null {
  const addressOf = (way: WayOut): string | null =>
    way === 'mail' ? mail : way === 'push' && hasBrowser === true ? (phone ?? BY_BROWSER) : phone;
  for (const way of [prefers, 'mail', 'message'] as const) {
    const address = addressOf(way);
    if (address) return { way, address };
  }
  return null;
}

/** A page of this house in a message, by its path. What is kept names no address: it gets the one that holds when it leaves. */
export const linkTo = (path: `/${string}`): string => `house:${path}`;

/** A text on its way out: each page of this house by its public address, such as https://stavok.example.org. */
export const withAddresses = (text: string, publicAddress: string): string =>
  text.replaceAll(/(?<![\w/])house:(?=\/\S)/g, () => publicAddress);
