// Stock of one part at one store: what is on hand and held for orders, what it is worth, and how each move changes it.
import { timesRatio } from '../money.ts';
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import { priceOf, sayQuantity, THOUSANDTHS } from './part.ts';

/** Averages are whole ten-thousandths of a minor unit: six decimals of a currency that has two. */
const FINER = 10_000n;
/** Thousandths at the largest; more is a slip of the pen. */
export const MOST_IN_STORE = 1_000_000_000;

export type Stock = {
  /** Thousandths of a unit: the sum of the moves. */
  readonly onHand: number;
  /** Thousandths held for order lines; never more than on hand. */
  readonly reserved: number;
  /** Minor units: the sum of the moves' money. */
  readonly value: number;
  /** Of one unit, moving; kept when the store is emptied. Null: it never had one. */
  readonly average: number | null;
  /** Minor units that the last receipt paid for one unit; null: none came in. */
  readonly lastPrice: number | null;
};

export const EMPTY_STOCK: Stock = { onHand: 0, reserved: 0, value: 0, average: null, lastPrice: null };

/** What may be taken by whoever it is not held for, in thousandths. */
export const availableIn = ({ onHand, reserved }: Pick<Stock, 'onHand' | 'reserved'>): number => onHand - reserved;

export const MOVE_KINDS = [
  'receipt',
  'issue',
  'return',
  'transfer',
  'count',
  'scrap',
  'to supplier',
  'variance',
] as const;
/** What people do to stock; each makes moves. */
export const STORE_ACTS = ['receipt', 'transfer', 'issue', 'return', 'scrap', 'count', 'to supplier'] as const;
export type MoveKind = (typeof MOVE_KINDS)[number];

/** A move as it stands for ever: thousandths and minor units, below zero what goes out. */
export type Move = { readonly kind: MoveKind; readonly thousandths: number; readonly money: number };

type ToTakeOut = {
  readonly kind: 'issue' | 'scrap' | 'to supplier' | 'transfer out';
  readonly thousandths: number;
  /** So much of it was held for whom it goes to. */
  readonly held?: number;
};
export type ToMove =
  | { readonly kind: 'receipt'; readonly thousandths: number; readonly unitPrice: number }
  /** Comes in with money that is known: from the field at its issue's value, from another store with exactly what left there. */
  | { readonly kind: 'return' | 'transfer in'; readonly thousandths: number; readonly money: number }
  | ToTakeOut
  /** What was counted against what was on hand then: the difference, either way; `price` where nothing here says what a unit is worth. */
  | { readonly kind: 'count'; readonly difference: number; readonly price?: number | null };

export type Moved = { readonly stock: Stock; readonly moves: readonly Move[] };

const worthOf = (thousandths: number, average: number): number =>
  timesRatio(average, BigInt(thousandths), BigInt(THOUSANDTHS) * FINER);

/** a′ = (q·a + r·p) ÷ (q + r), half-up in ten-thousandths; `brings` is r·p in minor units of thousandths. Source: domain-work, Stores. */
function averageAfter({ onHand, average }: Stock, thousandths: number, brings: bigint): number {
  // What nobody has any more weighs nothing.
  const held = BigInt(Math.max(0, onHand)) * BigInt(average ?? 0);
  const all = BigInt(Math.max(0, onHand) + thousandths);
  return Number((2n * (held + brings * FINER) + all) / (2n * all));
}

function comesIn(stock: Stock, kind: MoveKind, thousandths: number, money: number, brings: bigint): Moved {
  const onHand = stock.onHand + thousandths;
  return {
    stock: { ...stock, onHand, value: stock.value + money, average: averageAfter(stock, thousandths, brings) },
    moves: [{ kind, thousandths, money }],
  };
}

/** Goes out at the average; with the last of it the cents that are left go to variance. */
function goesOut(stock: Stock, kind: MoveKind, thousandths: number): Moved {
  const money = worthOf(thousandths, stock.average ?? 0);
  const onHand = stock.onHand - thousandths;
  const left = stock.value - money;
  const out: Move = { kind, thousandths: -thousandths, money: money === 0 ? 0 : -money };
  if (onHand !== 0 || left === 0) return { stock: { ...stock, onHand, value: left }, moves: [out] };
  return { stock: { ...stock, onHand, value: 0 }, moves: [out, { kind: 'variance', thousandths: 0, money: -left }] };
}

const wrongQuantity = (thousandths: number): boolean =>
  !Number.isInteger(thousandths) || thousandths <= 0 || thousandths > MOST_IN_STORE;

const QUANTITY = refusal('invalid', 'A quantity above 0, with at most three decimals.', 'thousandths');

/**
 * The stock after a move, and the moves to append: more than one where cents are left at nothing on hand. Refused: a quantity that is not
 * above zero or more than a store holds, more than is on hand, more than is free of what is held for others, a count whose worth nobody
 * knows. Thousandths of a unit and minor units. Source: domain-work, Stores and Settled questions; the moving average is the weighted
 * average of IAS 2.27, worked out at each receipt.
 */
export function moveStock(stock: Stock, asked: ToMove): Decided<Moved> {
  if (asked.kind === 'count') return countStock(stock, asked.difference, asked.price ?? null);
  const { thousandths } = asked;
  if (wrongQuantity(thousandths)) return refused(QUANTITY);
  switch (asked.kind) {
    case 'receipt': {
      if (stock.onHand + thousandths > MOST_IN_STORE) return refused(tooMuch());
      const { unitPrice } = asked;
      const brings = BigInt(thousandths) * BigInt(unitPrice);
      const moved = comesIn(stock, 'receipt', thousandths, priceOf(thousandths, unitPrice), brings);
      return decided({ ...moved, stock: { ...moved.stock, lastPrice: unitPrice } });
    }
    case 'return':
    case 'transfer in': {
      if (stock.onHand + thousandths > MOST_IN_STORE) return refused(tooMuch());
      const kind = asked.kind === 'return' ? 'return' : 'transfer';
      return decided(comesIn(stock, kind, thousandths, asked.money, BigInt(asked.money) * BigInt(THOUSANDTHS)));
    }
    case 'issue':
    case 'scrap':
    case 'to supplier':
    case 'transfer out':
      return takenOut(stock, asked);
  }
}

function takenOut(stock: Stock, { kind, thousandths, held = 0 }: ToTakeOut): Decided<Moved> {
  if (held > stock.reserved || held > thousandths) throw new Error('No more is held for it than is held at all.');
  const free = availableIn(stock) + held;
  if (thousandths > stock.onHand)
    return refused(refusal('conflict', `There are ${sayQuantity(stock.onHand)} here; take no more.`, 'thousandths'));
  if (thousandths > free) {
    const text = `${sayQuantity(free)} of ${sayQuantity(stock.onHand)} are free; the others are held for orders.`;
    return refused(refusal('conflict', text, 'thousandths'));
  }
  return decided(
    goesOut({ ...stock, reserved: stock.reserved - held }, kind === 'transfer out' ? 'transfer' : kind, thousandths),
  );
}

const tooMuch = () =>
  refusal('too-large', `A store holds at most ${sayQuantity(MOST_IN_STORE)} of a part; look again.`, 'thousandths');

/** Up at the average, else at the price that is known from elsewhere; down at the average. What is held may be more than is left then. */
function countStock(stock: Stock, difference: number, price: number | null): Decided<Moved> {
  if (!Number.isInteger(difference) || Math.abs(difference) > MOST_IN_STORE) return refused(QUANTITY);
  if (stock.onHand + difference > MOST_IN_STORE) return refused(tooMuch());
  if (stock.onHand + difference < 0)
    return refused(refusal('conflict', `There are only ${sayQuantity(stock.onHand)} to count off.`, 'thousandths'));
  if (difference === 0) return decided({ stock, moves: [] });
  if (difference < 0) return decided(goesOut(stock, 'count', -difference));
  const worth = stock.average ?? (price === null ? null : price * Number(FINER));
  if (worth === null)
    return refused(refusal('missing', 'Nothing says what one is worth: give the price of one.', 'price'));
  const money = worthOf(difference, worth);
  return decided({
    stock: { ...stock, onHand: stock.onHand + difference, value: stock.value + money, average: worth },
    moves: [{ kind: 'count', thousandths: difference, money }],
  });
}

/** Holds so much for an order line. Refused: more than is free. */
export function holdStock(stock: Stock, thousandths: number): Decided<Stock> {
  if (wrongQuantity(thousandths)) return refused(QUANTITY);
  const free = availableIn(stock);
  if (thousandths > free)
    return refused(refusal('conflict', `${sayQuantity(Math.max(0, free))} are free here.`, 'thousandths'));
  return decided({ ...stock, reserved: stock.reserved + thousandths });
}

/** Lets go of what was held. Throws where less is held: whoever holds knows how much. */
export function letGoOfStock(stock: Stock, thousandths: number): Stock {
  if (thousandths > stock.reserved || thousandths < 0) throw new Error('No more is let go than is held.');
  return { ...stock, reserved: stock.reserved - thousandths };
}

/** One unit's average in minor units, rounded half-up; for showing. */
export const unitAverage = (average: number): number => timesRatio(average, 1n, FINER);
