// The phone's clock: how far it is off was measured at the last contact, and times of acts are corrected by it.
import { instant, MINUTE, type Instant } from '../time/index.ts';

/**
 * How far the server's clock is ahead of the phone's, in milliseconds: the server said its time somewhere between asking and hearing,
 * taken as the middle. Source: domain-work, Field (the offset measured at the last contact).
 */
export const offsetOf = (askedAt: Instant, heardAt: Instant, serverAt: Instant): number =>
  Math.round(serverAt - (askedAt + heardAt) / 2);

/** A time of the phone by the server's clock. */
export const corrected = (phoneAt: Instant, offset: number): Instant => instant(phoneAt + offset);

/** A phone's time may be ahead of the server's by so much after correction. */
export const AHEAD_MS: number = 2 * MINUTE;

/**
 * When an act happened: at the time the phone gives after correction; one that would lie more than two minutes ahead takes the time of
 * its receipt and is doubtful. Source: domain-work, Settled questions, Field.
 */
export function timeOfAct(at: Instant, receivedAt: Instant): { readonly at: Instant; readonly isDoubtful: boolean } {
  return at > receivedAt + AHEAD_MS ? { at: receivedAt, isDoubtful: true } : { at, isDoubtful: false };
}
