// What lies in a store, worked out again from all moves it ever had.
import { EMPTY_STOCK, moveStock, type Move, type Stock, type ToMove } from './stock.ts';

/** A move as it was kept: with the price it was bought or counted at. */
export type KeptMove = Move & { readonly unitPrice: number | null };

function askedAgain({ kind, thousandths, money, unitPrice }: KeptMove): ToMove | null {
  switch (kind) {
    case 'variance':
      return null;
    case 'receipt':
      return { kind, thousandths, unitPrice: unitPrice ?? 0 };
    case 'return':
      return { kind, thousandths, money };
    case 'transfer':
      return thousandths > 0
        ? { kind: 'transfer in', thousandths, money }
        : { kind: 'transfer out', thousandths: -thousandths };
    case 'count':
      return { kind, difference: thousandths, price: unitPrice };
    case 'issue':
    case 'scrap':
    case 'to supplier':
      return { kind, thousandths: -thousandths };
  }
}

/**
 * The stock that moves come to, in the order in which they were appended; nothing is held in it, for holds are no moves. What goes to
 * variance follows from the move before it. Throws where a move could never have been: the ledger is broken.
 */
export const stockOf = (moves: readonly KeptMove[]): Stock =>
  moves.reduce((stock, kept) => {
    const asked = askedAgain(kept);
    if (asked === null) return stock;
    const moved = moveStock(stock, asked);
    if (!moved.ok) throw new Error(`A move that is kept is refused: ${moved.refusals[0]?.message}`);
    return moved.value.stock;
  }, EMPTY_STOCK);
