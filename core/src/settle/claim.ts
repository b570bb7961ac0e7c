// Claims to makers: what work under the warranty of their machines is asked back for, with what speaks for it, and what came of it.
import { decided, refusal, refused, type Decided, type Refusal } from '../refusal.ts';
import { addDays, daysBetween, type LocalDate } from '../time/index.ts';

export const CLAIM_STATES = ['to send', 'sent', 'answered', 'closed'] as const;
export type ClaimState = (typeof CLAIM_STATES)[number];

/** How a maker pays: by a credit note of theirs, or by a payment that came in. */
export const CLAIM_WAYS = ['credit note', 'payment'] as const;
export type ClaimWay = (typeof CLAIM_WAYS)[number];

/** Minor units throughout. */
export type ClaimLine = {
  readonly chargeId: number;
  /** What the warranty bears of the charge: no more is asked for. */
  readonly borne: number;
  readonly asked: number;
  /** Null while they have not answered. */
  readonly accepted: number | null;
  /** Why they accept less than was asked. */
  readonly why: string;
};
export type Claim = {
  readonly state: ClaimState;
  readonly maker: string;
  readonly lines: readonly ClaimLine[];
};

/** What a claim did to the accounts: accepted by the maker, come in, given up of what was accepted. Below zero: taken back. */
export const CLAIM_ENTRIES = ['accepted', 'credit note', 'payment', 'given up'] as const;
export type ClaimEntry = { readonly kind: (typeof CLAIM_ENTRIES)[number]; readonly minor: number };

const sumOf = (lines: readonly ClaimLine[], minorOf: (line: ClaimLine) => number): number =>
  lines.reduce((sum, line) => sum + minorOf(line), 0);
export const askedOf = ({ lines }: Pick<Claim, 'lines'>): number => sumOf(lines, (l) => l.asked);
export const acceptedOf = ({ lines }: Pick<Claim, 'lines'>): number => sumOf(lines, (l) => l.accepted ?? 0);

/** What a warranty bears of an approved charge, and whose machine it was. */
export type WarrantyCharge = { readonly chargeId: number; readonly maker: string; readonly borne: number };

const makerKey = (maker: string): string => maker.trim().toLowerCase();

/** The claims of one approved order: one for each maker, over everything that the warranties of their machines bear. */
export function claimsOf(charges: readonly WarrantyCharge[]): Claim[] {
  const byMaker = new Map<string, { maker: string; lines: ClaimLine[] }>();
  for (const { chargeId, maker, borne } of charges) {
    if (borne <= 0) continue;
    const own = byMaker.get(makerKey(maker)) ?? { maker: maker.trim(), lines: [] };
    own.lines.push({ chargeId, borne, asked: borne, accepted: null, why: '' });
    byMaker.set(makerKey(maker), own);
  }
  return [...byMaker.values()].map(({ maker, lines }): Claim => ({ state: 'to send', maker, lines }));
}

const wrongStage = (message: string): Decided<never> => refused(refusal('wrong-stage', message));

/** Each line of the claim named once, with an amount from 0 to what it may be; messages at `lines.<place in what was asked>`. */
function pairedWith<T extends { readonly chargeId: number; readonly minor: number }>(
  lines: readonly ClaimLine[],
  said: readonly T[],
  most: (line: ClaimLine) => number,
  tooMuch: string,
): Decided<readonly (readonly [ClaimLine, T])[]> {
  const wrong: Refusal[] = [];
  const byId = new Map(said.map((s) => [s.chargeId, s]));
  if (byId.size !== said.length || said.length !== lines.length || lines.some((l) => !byId.has(l.chargeId)))
    return refused(refusal('invalid', 'Say it of each line of the claim, once.', 'lines'));
  said.forEach((s, i) => {
    const line = lines.find((l) => l.chargeId === s.chargeId) as ClaimLine;
    if (!Number.isSafeInteger(s.minor) || s.minor < 0 || s.minor > most(line))
      wrong.push(refusal('invalid', tooMuch, `lines.${i}.minor`));
  });
  return wrong.length > 0
    ? refused(...wrong)
    : decided(lines.map((line) => [line, byId.get(line.chargeId) as T] as const));
}

/** What is asked for, by line, and whom. Refused: once it was sent, more than the warranty bears of a line, a line left out. */
export function askInClaim(
  claim: Claim,
  { maker, lines }: { readonly maker: string; readonly lines: readonly { chargeId: number; minor: number }[] },
): Decided<Claim> {
  if (claim.state !== 'to send') return wrongStage('It was sent; what was asked stays as it was.');
  const paired = pairedWith(claim.lines, lines, (l) => l.borne, 'From 0 to what the warranty bears of it.');
  if (!paired.ok) return paired;
  return decided({
    ...claim,
    maker: maker.trim(),
    lines: paired.value.map(([line, { minor }]) => ({ ...line, asked: minor })),
  });
}

/** Sent, or once more after an answer. Refused: no maker, nothing asked for, one that waits for its answer or is closed. */
export function sendClaim(claim: Claim): Decided<Claim> {
  if (claim.state !== 'to send' && claim.state !== 'answered')
    return wrongStage(claim.state === 'sent' ? 'It was sent and waits for its answer.' : 'It is closed.');
  if (claim.maker === '') return refused(refusal('missing', 'Name the maker of the machine.', 'maker'));
  if (askedOf(claim) === 0)
    return refused(refusal('missing', 'It asks for nothing; write amounts, or give it up.', 'lines'));
  return decided({ ...claim, state: 'sent' });
}

export type MakerSays = { readonly chargeId: number; readonly minor: number; readonly why: string };

/**
 * What the maker accepts, line by line; an answer that is known already is put right by another. Gives what the accounts are told: only
 * the difference. Refused: more than was asked, less without a reason, of a claim that was not sent or is closed.
 */
export function answerClaim(
  claim: Claim,
  said: readonly MakerSays[],
): Decided<{ readonly claim: Claim; readonly entries: ClaimEntry[] }> {
  if (claim.state !== 'sent' && claim.state !== 'answered')
    return wrongStage(claim.state === 'closed' ? 'It is closed.' : 'It was not sent yet.');
  const paired = pairedWith(claim.lines, said, (l) => l.asked, 'From 0 to what was asked for it.');
  if (!paired.ok) return paired;
  const silent = said.flatMap((s, i) => {
    const line = claim.lines.find((l) => l.chargeId === s.chargeId);
    return line && s.minor < line.asked && s.why.trim() === ''
      ? [refusal('missing', 'Say why they accept less.', `lines.${i}.why`)]
      : [];
  });
  if (silent.length > 0) return refused(...silent);
  const lines = paired.value.map(([line, { minor, why }]) => ({ ...line, accepted: minor, why: why.trim() }));
  const answered: Claim = { ...claim, state: 'answered', lines };
  const minor = acceptedOf(answered) - acceptedOf(claim);
  return decided({ claim: answered, entries: minor === 0 ? [] : [{ kind: 'accepted', minor }] });
}

export type ClaimEnd = { readonly way: ClaimWay; readonly minor: number; readonly because: string };

/**
 * Closed by what came in of it; what was accepted and did not come is given up, with why. Refused: of one that was not answered, more
 * than was accepted, less without a reason.
 */
export function closeClaim(
  claim: Claim,
  { way, minor, because }: ClaimEnd,
): Decided<{ readonly claim: Claim; readonly entries: ClaimEntry[] }> {
  if (claim.state !== 'answered')
    return wrongStage(
      claim.state === 'closed'
        ? 'It is closed already.'
        : 'They have not answered yet; give it up, or write what they say.',
    );
  const accepted = acceptedOf(claim);
  if (!Number.isSafeInteger(minor) || minor < 0 || minor > accepted)
    return refused(refusal('invalid', 'From 0 to what they accepted.', 'minor'));
  if (minor < accepted && because.trim() === '')
    return refused(refusal('missing', 'Say why the rest is not asked for any more.', 'because'));
  const entries: ClaimEntry[] = [
    { kind: way, minor },
    { kind: 'given up', minor: accepted - minor },
  ];
  return decided({ claim: { ...claim, state: 'closed' }, entries: entries.filter((e) => e.minor !== 0) });
}

/**
 * Nothing is asked for any more before they answered; what they had accepted before it was sent once more is given up with it. Refused:
 * without a reason, of one that was answered or is closed.
 */
export function giveClaimUp(
  claim: Claim,
  because: string,
): Decided<{ readonly claim: Claim; readonly entries: ClaimEntry[] }> {
  if (claim.state !== 'to send' && claim.state !== 'sent')
    return wrongStage(
      claim.state === 'closed' ? 'It is closed already.' : 'They have answered; close it by what came in.',
    );
  if (because.trim() === '') return refused(refusal('missing', 'Say why.', 'because'));
  const minor = acceptedOf(claim);
  return decided({ claim: { ...claim, state: 'closed' }, entries: minor === 0 ? [] : [{ kind: 'given up', minor }] });
}

/**
 * A claim that was closed is open again: answered, where they had answered, else sent or to send as it was. `booked` is everything its
 * closing told the accounts, which is told back. Refused: of one that is not closed.
 */
export function openClaimAgain(
  claim: Claim,
  wasSent: boolean,
  booked: readonly ClaimEntry[],
): Decided<{ readonly claim: Claim; readonly entries: ClaimEntry[] }> {
  if (claim.state !== 'closed') return wrongStage('It is not closed.');
  const wasAnswered = claim.lines.some((l) => l.accepted !== null);
  const state: ClaimState = wasAnswered ? 'answered' : wasSent ? 'sent' : 'to send';
  const entries = CLAIM_ENTRIES.filter((kind) => kind !== 'accepted').flatMap((kind): ClaimEntry[] => {
    const minor = booked.reduce((sum, e) => (e.kind === kind ? sum - e.minor : sum), 0);
    return minor === 0 ? [] : [{ kind, minor }];
  });
  return decided({ claim: { ...claim, state }, entries });
}

/** The last day on which the maker takes a claim for work done on a day; null: they name none. */
export const claimBy = (doneOn: LocalDate, days: number | null): LocalDate | null =>
  days === null ? null : addDays(doneOn, days);

/** What makers ask to see, as far as it is known. */
export type ClaimEvidence = {
  /** Machines whose serial nobody wrote. */
  readonly withoutSerial: readonly string[];
  /** Machines of which it is not said what was wrong or what was done about it. */
  readonly withoutFindings: readonly string[];
  readonly photos: number;
  readonly hasReport: boolean;
  readonly by: LocalDate | null;
};

/** What a maker may turn a claim down for, in words; empty: nothing is missing. It may be sent all the same. */
export function gapsOf(
  { withoutSerial, withoutFindings, photos, hasReport, by }: ClaimEvidence,
  today: LocalDate,
): string[] {
  const late = by === null ? 0 : daysBetween(by, today);
  return [
    ...(late > 0 ? [`their last day for it was ${late === 1 ? 'yesterday' : `${late} days ago`}`] : []),
    ...withoutSerial.map((tag) => `${tag} has no serial number`),
    ...withoutFindings.map((tag) => `fault and remedy of ${tag} are not said`),
    ...(hasReport ? [] : ['there is no report of the work']),
    ...(photos > 0 ? [] : ['there is no photo']),
  ];
}
