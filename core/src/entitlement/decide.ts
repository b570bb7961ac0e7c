// The entitlement decision: who bears labour, parts, consumables and travel for an asset at an instant, which promise holds, and why.
import type { AgreementId, CalendarId, ServiceLevelId } from '../ids.ts';
import type { OrderKind } from '../orders/index.ts';
import { sayDay, type LocalDate } from '../time/index.ts';
import { sayAllowance, type AllowanceKey, type AllowanceLeft, type AllowanceUnit } from './allowance.ts';
import type { Term } from './term.ts';
import {
  COST_ELEMENTS,
  NO_SHARES,
  reachRank,
  sayReach,
  type Cause,
  type CostElement,
  type Cover,
  type CoveredAsset,
  type LineCover,
  type Reach,
  type Shares,
} from './cover.ts';

export type Question = {
  readonly asset: CoveredAsset;
  readonly on: LocalDate;
  readonly kind: OrderKind;
  readonly cause: Cause;
  /** The part concerned, by name or number, where it is known. */
  readonly part?: string | null;
  /** Calendars that are closed at the instant asked about. */
  readonly closedCalendars?: ReadonlySet<CalendarId>;
};

/** One cover as it was looked at. */
export type Considered = {
  readonly label: string;
  readonly agreementId: AgreementId | null;
  readonly taken: boolean;
  readonly reason: string;
};

/** Who bears one cost element. Of the customer's rest (100 − share) the discount is taken off; all in whole percent. */
export type Borne = { readonly share: number; readonly by: string | null; readonly discount: number };

/** What booking the work takes from an allowance: one visit or call-out when it is raised, its minutes of labour when it is done. */
export type WantedDraw = {
  readonly key: AllowanceKey;
  readonly unit: AllowanceUnit;
  readonly label: string;
};

export type Verdict = {
  readonly elements: { readonly [E in CostElement]: Borne };
  /** On the customer's labour, outside the hours in which labour is covered. */
  readonly surcharge: { readonly percent: number; readonly by: string } | null;
  readonly agreementId: AgreementId | null;
  readonly serviceLevelIds: readonly ServiceLevelId[];
  readonly draws: readonly WantedDraw[];
  readonly considered: readonly Considered[];
  /** Parts, by number or name, that the cover which bears the parts leaves out; not there: none. */
  readonly partsLeftOut?: readonly string[];
};

const SERVED_BY_CALL: readonly OrderKind[] = ['repair', 'inspection'];
const NOT_UNDER_WARRANTY: readonly Cause[] = ['misuse', 'accident', 'consumable'];

/** Whether an allowance counts the kind of work as one of its own. */
function counts(unit: AllowanceUnit, kind: OrderKind): boolean {
  if (unit === 'hours') return true;
  return unit === 'visits' ? kind === 'preventive' : SERVED_BY_CALL.includes(kind);
}

function offTerm(term: Term, on: LocalDate, what: string): string | null {
  if (on < term.from) return `${what} starts on ${sayDay(term.from)}`;
  return term.to !== null && on > term.to ? `${what} ended on ${sayDay(term.to)}` : null;
}

const isUsedUp = (left: AllowanceLeft): boolean => left.usedUpOn !== null;

/** A cover that was taken, with what it bears in this case. */
type Accepted = {
  readonly cover: Cover;
  readonly rank: number;
  readonly shares: Shares;
  readonly discounts: Shares;
  readonly surchargePercent: number;
  readonly remarks: readonly string[];
};

/** What the cover bears, or why it is refused. */
type Outcome = Omit<Accepted, 'rank'> | string;

/** An excluded part is an exact number or name; with `*` in it a pattern, each star for any characters or none. Case does not matter. */
export function isExcludedPart(excluded: readonly string[], part: string): boolean {
  const named = part.trim().toLowerCase();
  return excluded.some((e) => {
    const pieces = e.trim().toLowerCase().split('*');
    if (pieces.length === 1) return pieces[0] !== '' && pieces[0] === named;
    const [head = '', ...rest] = pieces;
    const tail = rest.pop() ?? '';
    if (!named.startsWith(head) || named.length < head.length + tail.length || !named.endsWith(tail)) return false;
    let at = head.length;
    for (const piece of rest) {
      const found = named.indexOf(piece, at);
      if (found < 0 || found + piece.length > named.length - tail.length) return false;
      at = found + piece.length;
    }
    return true;
  });
}

function acceptWarranty(cover: Extract<Cover, { kind: 'warranty' }>, { asset, on, kind, cause }: Question): Outcome {
  if (cover.assetId !== asset.id) return 'it belongs to another asset';
  const off = offTerm(cover.term, on, 'the warranty');
  if (off) return off;
  if (NOT_UNDER_WARRANTY.includes(cause)) return `a warranty does not bear ${cause}`;
  if (kind !== 'preventive')
    return { cover, shares: cover.shares, discounts: NO_SHARES, surchargePercent: 0, remarks: NO_REMARKS };
  if (cover.visits === null) return 'the warranty includes no preventive visits';
  if (isUsedUp(cover.visits)) return sayAllowance(cover.visits);
  const remarks = [sayAllowance(cover.visits)];
  return { cover, shares: EVERYTHING, discounts: NO_SHARES, surchargePercent: 0, remarks };
}

const NO_REMARKS: readonly string[] = [];
const EVERYTHING: Shares = { labour: 100, parts: 100, consumables: 100, travel: 100 };

/** What the cover takes off each element for this kind of work; of several discounts on one the largest. */
function discountsFor(cover: LineCover, kind: OrderKind): Shares {
  if (cover.discounts.length === 0) return NO_SHARES;
  const off = { labour: 0, parts: 0, consumables: 0, travel: 0 };
  for (const { element, percent, kinds } of cover.discounts)
    if (percent > off[element] && kinds.includes(kind)) off[element] = percent;
  return off;
}

/** Why a coverage line is out before its allowances are looked at; null when it is not. */
function whyOut(cover: LineCover, { asset, on, kind, cause }: Question): string | null {
  if (cover.stage !== 'in force' && !(cover.stage === 'suspended' && cover.coversSuspended))
    return cover.stage === 'draft' ? 'the agreement is still in draft' : `the agreement is ${cover.stage}`;
  const off = offTerm(cover.agreementTerm, on, 'the agreement') ?? offTerm(cover.term, on, 'its coverage line');
  if (off !== null) return off;
  if (reachRank(cover.reach, asset) === null) return 'it does not reach this asset';
  if (!cover.kinds.includes(kind)) return `${kind} work is not included`;
  return cover.excludedCauses.includes(cause) ? `${cause} is excluded` : null;
}

function acceptLine(cover: LineCover, question: Question): Outcome {
  const out = whyOut(cover, question);
  if (out !== null) return out;
  const { kind } = question;
  const outside = cover.hours !== null && question.closedCalendars?.has(cover.hours.calendarId) === true;
  const partIsOut = !!question.part && isExcludedPart(cover.excludedParts, question.part);
  const discounts = discountsFor(cover, kind);
  if (cover.stage === 'in force' && cover.allowances.length === 0 && !outside && !partIsOut)
    return { cover, shares: cover.shares, discounts, surchargePercent: 0, remarks: NO_REMARKS };
  const remarks = cover.stage === 'suspended' ? ['suspended, but its cover goes on'] : [];
  let { shares } = cover;
  for (const left of cover.allowances) {
    if (!counts(left.unit, kind)) continue;
    if (!isUsedUp(left)) remarks.push(sayAllowance(left));
    else if (left.unit !== 'hours') return sayAllowance(left);
    else if (shares.labour > 0) {
      remarks.push(`${sayAllowance(left)}: labour left out`);
      shares = { ...shares, labour: 0 };
    }
  }
  let surchargePercent = 0;
  if (cover.hours && outside) {
    ({ surchargePercent } = cover.hours);
    shares = { ...shares, labour: Math.min(shares.labour, cover.hours.shareOutside) };
    remarks.push(
      `outside its labour hours: labour ${shares.labour} %${surchargePercent > 0 ? `, ${surchargePercent} % surcharge` : ''}`,
    );
  }
  if (partIsOut) {
    shares = { ...shares, parts: 0 };
    remarks.push(`${question.part} is an excluded part`);
  }
  return { cover, shares, discounts, surchargePercent, remarks };
}

type Ranked = { readonly cover: Cover; readonly rank: number };

const total = (shares: Shares): number => shares.labour + shares.parts + shares.consumables + shares.travel;
const startOf = (c: Cover): string => (c.kind === 'warranty' ? c.term.from : c.agreementTerm.from);
const agreementOf = (c: Cover): number => (c.kind === 'warranty' ? 0 : c.agreementId);
const lineOf = (c: Cover): number => (c.kind === 'warranty' ? 0 : c.lineId);
const byText = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);

/** The older agreement first; then the name, so that input order never matters. */
function compareAge(a: Cover, b: Cover): number {
  return (
    byText(startOf(a), startOf(b)) ||
    agreementOf(a) - agreementOf(b) ||
    byText(a.label, b.label) ||
    lineOf(a) - lineOf(b)
  );
}

/** How covers are listed: warranty before agreement; asset before deeper location before shallower before class; more borne in all; older agreement. */
function compareCovers({ cover: a, rank: ra }: Ranked, { cover: b, rank: rb }: Ranked): number {
  return rb - ra || total(b.shares) - total(a.shares) || compareAge(a, b);
}

const WARRANTY_RANK = 10_000;
const REASONS: Readonly<Record<Reach['kind'], string>> = {
  asset: `covers ${sayReach({ kind: 'asset' })}`,
  location: `covers ${sayReach({ kind: 'location' })}`,
  class: `covers ${sayReach({ kind: 'class' })}`,
  'own fleet': `covers ${sayReach({ kind: 'own fleet' })}`,
};

/** Few covers reach one asset: put in their place one by one they are in order sooner than by sorting. */
function inOrder(asset: CoveredAsset, covers: readonly Cover[]): readonly Ranked[] {
  const ordered: Ranked[] = [];
  for (const cover of covers) {
    const rank = cover.kind === 'warranty' ? WARRANTY_RANK : (reachRank(cover.reach, asset) ?? -2);
    const next = { cover, rank };
    let i = ordered.length;
    while (i > 0 && compareCovers(ordered[i - 1] as Ranked, next) > 0) {
      ordered[i] = ordered[i - 1] as Ranked;
      i -= 1;
    }
    ordered[i] = next;
  }
  return ordered;
}

const NOBODY: Borne = { share: 0, by: null, discount: 0 };

/** Who bears an element: of the covers that reach the asset most closely and include it, the one with the larger share of it, then the older agreement. */
function bearerOf(accepted: readonly Accepted[], element: CostElement): Accepted | null {
  let best: Accepted | null = null;
  for (const a of accepted) {
    if (a.shares[element] === 0) continue;
    if (best === null) best = a;
    else if (a.rank < best.rank) break;
    else if (a.shares[element] > best.shares[element]) best = a;
    else if (a.shares[element] === best.shares[element] && compareAge(a.cover, best.cover) < 0) best = a;
  }
  return best;
}

/** What the bearer gives; where none bears the element, what the first takes off it that takes off anything. */
function borneBy(bearer: Accepted | null, accepted: readonly Accepted[], element: CostElement): Borne {
  const by = bearer ?? accepted.find((a) => a.discounts[element] > 0);
  return by ? { share: by.shares[element], by: by.cover.label, discount: by.discounts[element] } : NOBODY;
}

/** One name for each allowance, to count by. */
export const nameOfAllowance = (key: AllowanceKey): string =>
  key.kind === 'agreement' ? `a${key.id}` : `w${key.assetId}`;
const NO_DRAWS: readonly WantedDraw[] = [];

function allowancesOf(cover: Cover): readonly AllowanceLeft[] {
  if (cover.kind === 'coverage line') return cover.allowances;
  return cover.visits ? [cover.visits] : [];
}

type Bearers = { readonly [E in CostElement]: Accepted | null };

/** Allowances of the lines that bear anything; hours only of the very line that bears the labour. */
function drawsOf(accepted: readonly Accepted[], bearers: Bearers, kind: OrderKind): readonly WantedDraw[] {
  let draws: Map<string, WantedDraw> | null = null;
  for (const a of accepted) {
    const counted = allowancesOf(a.cover);
    if (counted.length === 0 || !COST_ELEMENTS.some((e) => bearers[e] === a)) continue;
    for (const left of counted) {
      if (!counts(left.unit, kind) || isUsedUp(left)) continue;
      if (left.unit === 'hours' && bearers.labour !== a) continue;
      draws ??= new Map();
      draws.set(nameOfAllowance(left.key), { key: left.key, unit: left.unit, label: a.cover.label });
    }
  }
  return draws ? [...draws.values()] : NO_DRAWS;
}

/**
 * The entitlement decision (domain: Entitlement decision). Deterministic; the order of `covers` does not matter.
 * Each cost element is borne by the first cover in order that includes it (share above 0), of equally close ones by that with the
 * larger share of this element; the rest is the customer's, less that cover's discount. Surcharge, covered hours and the drawing of
 * hours are those of the very line that bears the labour. No cover taken: chargeable at list rates, no promise. Percentages are whole.
 */
export function decideEntitlement(question: Question, covers: readonly Cover[]): Verdict {
  const accepted: Accepted[] = [];
  const considered: Considered[] = [];
  let agreementId: AgreementId | null = null;
  const serviceLevelIds: ServiceLevelId[] = [];
  for (const { cover, rank } of inOrder(question.asset, covers)) {
    const isLine = cover.kind === 'coverage line';
    const outcome = isLine ? acceptLine(cover, question) : acceptWarranty(cover, question);
    const of = isLine ? cover.agreementId : null;
    if (typeof outcome === 'string') {
      considered.push({ label: cover.label, agreementId: of, taken: false, reason: outcome });
      continue;
    }
    // Written out: a spread of many small objects costs more than the whole decision.
    const { shares, discounts, surchargePercent, remarks } = outcome;
    accepted.push({ cover, rank, shares, discounts, surchargePercent, remarks });
    const why = isLine ? REASONS[cover.reach.kind] : 'warranty running';
    const reason = outcome.remarks.length === 0 ? why : [why, ...outcome.remarks].join('; ');
    considered.push({ label: cover.label, agreementId: of, taken: true, reason });
    if (!isLine) continue;
    agreementId ??= cover.agreementId;
    const level = cover.serviceLevelId;
    if (level !== null && !serviceLevelIds.includes(level)) serviceLevelIds.push(level);
  }
  const bearers: Bearers = {
    labour: bearerOf(accepted, 'labour'),
    parts: bearerOf(accepted, 'parts'),
    consumables: bearerOf(accepted, 'consumables'),
    travel: bearerOf(accepted, 'travel'),
  };
  return {
    elements: {
      labour: borneBy(bearers.labour, accepted, 'labour'),
      parts: borneBy(bearers.parts, accepted, 'parts'),
      consumables: borneBy(bearers.consumables, accepted, 'consumables'),
      travel: borneBy(bearers.travel, accepted, 'travel'),
    },
    surcharge: surchargeOf(bearers.labour),
    agreementId,
    serviceLevelIds,
    draws: drawsOf(accepted, bearers, question.kind),
    considered,
    ...leftOutBy(bearers.parts),
  };
}

/** What the line that bears the parts leaves out of them. */
function leftOutBy(bearer: Accepted | null): Pick<Verdict, 'partsLeftOut'> {
  const cover = bearer?.cover;
  const isNone = cover?.kind !== 'coverage line' || cover.excludedParts.length === 0;
  return isNone ? NOTHING_LEFT_OUT : { partsLeftOut: cover.excludedParts };
}
const NOTHING_LEFT_OUT = {};

/** The surcharge of the line that bears the labour; nothing where none does or it is borne in full. */
function surchargeOf(bearer: Accepted | null): Verdict['surcharge'] {
  if (bearer === null || bearer.surchargePercent === 0 || bearer.shares.labour >= 100) return null;
  return { percent: bearer.surchargePercent, by: bearer.cover.label };
}

/** What the customer pays of one cost element, in hundredths of a percent of its price; with the share borne and the discount it sums to 10,000. */
export function customerShare({ share, discount }: Borne): number {
  return (100 - share) * (100 - discount);
}

function sayElement(element: CostElement, { share, discount }: Borne): string {
  const off = discount > 0 ? `${discount} % off` : '';
  if (share === 0) return off === '' ? `${element} not covered` : `${element} ${off}`;
  return `${element} ${share} %${off && share < 100 ? `, ${off} the rest` : ''}`;
}

/** The verdict's cover in one sentence, without the promise (which needs clocks). Consumables are named where they are borne. */
export function sayVerdict(verdict: Verdict): string {
  const taken = verdict.considered.filter((c) => c.taken);
  if (taken.length === 0) return 'Not covered: chargeable at list rates, no promise.';
  const parts = COST_ELEMENTS.filter((e) => e !== 'consumables' || verdict.elements.consumables.by !== null).map(
    (element) => sayElement(element, verdict.elements[element]),
  );
  const surcharge = verdict.surcharge ? `; ${verdict.surcharge.percent} % surcharge on labour at this hour` : '';
  return `Covered by ${[...new Set(taken.map((c) => c.label))].join(' and ')}: ${parts.join(', ')}${surcharge}.`;
}
