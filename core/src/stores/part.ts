// Parts of the parts list: how they are called, what they cost, how they are counted.
import { refusal, type Refusal } from '../refusal.ts';
import { timesRatio } from '../money.ts';

export type Part = {
  readonly number: string;
  readonly name: string;
  readonly unit: string;
  /** Minor units of the provider's currency, for one unit. */
  readonly listPrice: number;
  readonly cost: number;
  /** Used up by the work itself: grease, filters' cloth, gas. */
  readonly consumable: boolean;
  /** Each unit has a serial of its own, and is used once. */
  readonly serialTracked: boolean;
};

/** Quantities are whole thousandths of a unit. */
export const THOUSANDTHS = 1000;
const MOST = 1_000_000 * THOUSANDTHS;

/** A quantity times the price of a unit, in minor units, rounded half-up once. */
export const priceOf = (thousandths: number, unitPrice: number): number =>
  timesRatio(unitPrice, BigInt(thousandths), BigInt(THOUSANDTHS));

/** "2", "0.5", in British notation. */
export function sayQuantity(thousandths: number): string {
  const text = (Math.abs(thousandths) / THOUSANDTHS).toFixed(3).replace(/\.?0+$/, '');
  return thousandths < 0 ? `-${text}` : text;
}

const UNIT_AS_WORD = /^[a-z]{2,}[a-rt-z]$/;
const ADDS_ES = /(?:x|ch|sh)$/;

/** A quantity in thousandths with its unit as one says it: 1 piece, 4 pieces, 2.5 metres; a sign such as kg stays as it is. */
export function sayAmount(thousandths: number, unit: string): string {
  const isOne = Math.abs(thousandths) === THOUSANDTHS;
  if (isOne || !UNIT_AS_WORD.test(unit)) return `${sayQuantity(thousandths)} ${unit}`;
  return `${sayQuantity(thousandths)} ${unit}${ADDS_ES.test(unit) ? 'es' : 's'}`;
}

/**
 * What is wrong with using a part: a quantity that is not above zero, too fine or too large; a serial-tracked one without its serial,
 * or more than one at once; a serial where none is kept. Source: domain-work, Stores.
 */
export function checkUse(
  { serialTracked, name }: Pick<Part, 'serialTracked' | 'name'>,
  { thousandths, serial }: { readonly thousandths: number; readonly serial: string },
): Refusal[] {
  const found: Refusal[] = [];
  if (!Number.isInteger(thousandths) || thousandths <= 0 || thousandths > MOST)
    found.push(refusal('invalid', 'A quantity above 0, with at most three decimals.', 'thousandths'));
  if (serialTracked && serial.trim() === '')
    found.push(refusal('missing', `${name} is kept by serial: give the one that was used.`, 'serial'));
  else if (serialTracked && thousandths !== THOUSANDTHS)
    found.push(refusal('invalid', 'Each serial is one; enter the others by themselves.', 'thousandths'));
  if (!serialTracked && serial.trim() !== '')
    found.push(refusal('unsupported', `${name} is not kept by serial; leave it empty.`, 'serial'));
  return found;
}

/** What became of a part that was asked for a van. */
export const ASK_STATES = ['asked', 'sent', 'declined'] as const;
export type AskState = (typeof ASK_STATES)[number];
