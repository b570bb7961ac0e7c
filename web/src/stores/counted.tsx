// How many of a part there are at a place, as a row of a table says it: on hand, held, free, and whether these are too few.
import type { ReactNode } from 'react';
import type { ShelfOut } from '#api/stock.ts';
import { sayAmountOf } from '#core/money.ts';
import { sayAmount, sayQuantity } from '#core/stores/index.ts';

type Counted = Pick<ShelfOut, 'onHand' | 'reserved' | 'free' | 'minimum'>;

export const CountHeads = () => (
  <>
    <th className="num">On hand</th>
    <th className="num">Held</th>
    <th className="num">Free</th>
  </>
);

export const CountCells = ({
  of,
  unit = '',
  after,
}: {
  of: Omit<Counted, 'minimum'>;
  unit?: string;
  after?: ReactNode;
}) => (
  <>
    <td className="num whitespace-nowrap">{unit === '' ? sayQuantity(of.onHand) : sayAmount(of.onHand, unit)}</td>
    <td className="num">{of.reserved === 0 ? '' : sayQuantity(of.reserved)}</td>
    <td className="num">
      {sayQuantity(of.free)}
      {after}
    </td>
  </>
);

export const TooFew = ({ of: { minimum, free } }: { of: Counted }) =>
  minimum !== null && free < minimum ? <span className="text-short"> ▲ too few</span> : null;

/** Empty for those who see no money. */
export const amountOf = (minor: number | null): string => (minor === null ? '' : sayAmountOf(minor, 'EUR'));
