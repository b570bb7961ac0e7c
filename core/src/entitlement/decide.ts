// The entitlement decision: who bears labour, parts, consumables and travel for an asset at an instant, which promise holds, and why.
import type { AgreementId, CalendarId, ServiceLevelId } from '../ids.ts';
import type { OrderKind } from '../orders/index.ts';
import { sayDay, type LocalDate } from '../time/index.ts';
import { sayAllowance, type AllowanceLeft, type AllowanceUnit } from './allowance.ts';
import {
  COST_ELEMENTS,
  reachRank,
  sayReach,
  type AllowanceKey,
  type Cause,
  type CostElement,
  type Cover,
  type CoveredAsset,
  type Shares,
  type Term,
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
const bears = (shares: Shares): boolean => COST_ELEMENTS.some((e) => shares[e] > 0);

/** A cover that was taken, with what it bears in this case. */
type Accepted = {
  readonly cover: Cover;
  readonly shares: Shares;
  readonly discounts: Shares;
  readonly surchargePercent: number;
  readonly remarks: readonly string[];
};

const matchesPart = (excluded: readonly string[], part: string): boolean =>
  excluded.some((e) => e.trim() !== '' && part.toLowerCase().includes(e.trim().toLowerCase()));

function acceptWarranty(
  cover: Extract<Cover, { kind: 'warranty' }>,
  { asset, on, kind, cause }: Question,
): Accepted | string {
  if (cover.assetId !== asset.id) return 'it belongs to another asset';
  const off = offTerm(cover.term, on, 'the warranty');
  if (off) return off;
  if (NOT_UNDER_WARRANTY.includes(cause)) return `a warranty does not bear ${cause}`;
  const plain = { cover, discounts: NONE, surchargePercent: 0 };
  if (kind !== 'preventive') return { ...plain, shares: cover.shares, remarks: [] };
  if (cover.visits === null) return 'the warranty includes no preventive visits';
  if (isUsedUp(cover.visits)) return sayAllowance(cover.visits);
  return { ...plain, shares: EVERYTHING, remarks: [sayAllowance(cover.visits)] };
}

const NONE: Shares = { labour: 0, parts: 0, consumables: 0, travel: 0 };
const EVERYTHING: Shares = { labour: 100, parts: 100, consumables: 100, travel: 100 };

function acceptLine(cover: Extract<Cover, { kind: 'coverage line' }>, question: Question): Accepted | string {
  const { asset, on, kind, cause } = question;
  const remarks: string[] = [];
  if (cover.stage === 'suspended' && cover.coversSuspended) remarks.push('suspended, but its cover goes on');
  else if (cover.stage !== 'in force')
    return `the agreement is ${cover.stage === 'draft' ? 'still in draft' : cover.stage}`;
  const off = offTerm(cover.agreementTerm, on, 'the agreement') ?? offTerm(cover.term, on, 'its coverage line');
  if (off) return off;
  if (reachRank(cover.reach, asset) === null) return 'it does not reach this asset';
  if (!cover.kinds.includes(kind)) return `${kind} work is not included`;
  if (cover.excludedCauses.includes(cause)) return `${cause} is excluded`;
  let shares = cover.shares;
  for (const left of cover.allowances) {
    if (!counts(left.unit, kind)) continue;
    if (!isUsedUp(left)) remarks.push(sayAllowance(left));
    else if (left.unit === 'hours' && (bears({ ...shares, labour: 0 }) || shares.labour === 0)) {
      if (shares.labour > 0) remarks.push(`${sayAllowance(left)}: labour left out`);
      shares = { ...shares, labour: 0 };
    } else return sayAllowance(left);
  }
  let surchargePercent = 0;
  if (cover.hours && question.closedCalendars?.has(cover.hours.calendarId)) {
    const { shareOutside } = cover.hours;
    ({ surchargePercent } = cover.hours);
    shares = { ...shares, labour: Math.min(shares.labour, shareOutside) };
    remarks.push(
      `outside its labour hours: labour ${shares.labour} %${surchargePercent > 0 ? `, ${surchargePercent} % surcharge` : ''}`,
    );
  }
  if (question.part && matchesPart(cover.excludedParts, question.part)) {
    shares = { ...shares, parts: 0 };
    remarks.push(`${question.part} is an excluded part`);
  }
  let discounts = NONE;
  for (const { element, percent, kinds } of cover.discounts)
    if (kinds.includes(kind) && percent > discounts[element]) discounts = { ...discounts, [element]: percent };
  return { cover, shares, discounts, surchargePercent, remarks };
}

const total = (shares: Shares): number => shares.labour + shares.parts + shares.consumables + shares.travel;

/** Warranty before agreement; asset before deeper location before shallower before class; larger share; older agreement; then the name, so that input order never matters. */
function compareCovers(asset: CoveredAsset): (a: Cover, b: Cover) => number {
  const rank = (c: Cover): number => (c.kind === 'warranty' ? Infinity : (reachRank(c.reach, asset) ?? -2));
  const start = (c: Cover): string => (c.kind === 'warranty' ? c.term.from : c.agreementTerm.from);
  const age = (c: Cover): number => (c.kind === 'warranty' ? 0 : c.agreementId);
  const line = (c: Cover): number => (c.kind === 'warranty' ? 0 : c.lineId);
  const text = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);
  return (a, b) => {
    const [ra, rb] = [rank(a), rank(b)];
    if (ra !== rb) return rb > ra ? 1 : -1;
    return (
      total(b.shares) - total(a.shares) ||
      text(start(a), start(b)) ||
      age(a) - age(b) ||
      text(a.label, b.label) ||
      line(a) - line(b)
    );
  };
}

/** The first cover that bears the element; where none does, the first that takes something off it. */
function borneBy(accepted: readonly Accepted[], element: CostElement): Borne {
  const first = accepted.find((a) => a.shares[element] > 0) ?? accepted.find((a) => a.discounts[element] > 0);
  return first
    ? { share: first.shares[element], by: first.cover.label, discount: first.discounts[element] }
    : { share: 0, by: null, discount: 0 };
}

/** Allowances of the covers that bear anything; hours only of the cover that bears labour. */
function drawsOf(accepted: readonly Accepted[], elements: Verdict['elements'], kind: OrderKind): WantedDraw[] {
  const bearing = new Set(COST_ELEMENTS.flatMap((e) => (elements[e].share > 0 ? [elements[e].by] : [])));
  const draws = accepted
    .filter(({ cover }) => bearing.has(cover.label))
    .flatMap(({ cover }) =>
      (cover.kind === 'warranty' ? (cover.visits ? [cover.visits] : []) : cover.allowances)
        .filter((left) => counts(left.unit, kind) && !isUsedUp(left))
        .filter((left) => left.unit !== 'hours' || elements.labour.by === cover.label)
        .map(({ key, unit }) => ({ key, unit, label: cover.label })),
    );
  const nameOf = ({ key }: WantedDraw): string => (key.kind === 'agreement' ? `a${key.id}` : `w${key.assetId}`);
  return [...new Map(draws.map((d) => [nameOf(d), d])).values()];
}

/**
 * The entitlement decision (domain: Entitlement decision). Deterministic; the order of `covers` does not matter.
 * Each cost element is borne by the first cover in order that includes it (share above 0); the rest is the customer's, less
 * that cover's discount. No cover taken: chargeable at list rates, no promise. Percentages are whole.
 */
export function decideEntitlement(question: Question, covers: readonly Cover[]): Verdict {
  const ordered = covers.length < 2 ? covers : [...covers].sort(compareCovers(question.asset));
  const accepted: Accepted[] = [];
  const considered = ordered.map((cover): Considered => {
    const outcome = cover.kind === 'warranty' ? acceptWarranty(cover, question) : acceptLine(cover, question);
    const agreementId = cover.kind === 'coverage line' ? cover.agreementId : null;
    if (typeof outcome === 'string') return { label: cover.label, agreementId, taken: false, reason: outcome };
    accepted.push(outcome);
    const why = cover.kind === 'warranty' ? 'warranty running' : `covers ${sayReach(cover.reach)}`;
    return { label: cover.label, agreementId, taken: true, reason: [why, ...outcome.remarks].join('; ') };
  });
  const elements = {
    labour: borneBy(accepted, 'labour'),
    parts: borneBy(accepted, 'parts'),
    consumables: borneBy(accepted, 'consumables'),
    travel: borneBy(accepted, 'travel'),
  };
  const lines = accepted.flatMap((a) => (a.cover.kind === 'coverage line' ? [a.cover] : []));
  const outside = accepted.find(
    (a) => a.surchargePercent > 0 && (elements.labour.by ?? a.cover.label) === a.cover.label,
  );
  return {
    elements,
    surcharge:
      outside && elements.labour.share < 100 ? { percent: outside.surchargePercent, by: outside.cover.label } : null,
    agreementId: lines[0]?.agreementId ?? null,
    serviceLevelIds: [...new Set(lines.flatMap((c) => (c.serviceLevelId === null ? [] : [c.serviceLevelId])))],
    draws: drawsOf(accepted, elements, question.kind),
    considered,
  };
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
