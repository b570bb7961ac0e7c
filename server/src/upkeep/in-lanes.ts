// Work on a long list in lots, some at a time: while the database reads or writes one lot, another is worked out.

/** So many lots are under way at a time. */
const LANES = 3;

/**
 * Takes lot after lot, each from behind the mark of the one before, and works on them. After a fault no further lot is taken; it is
 * thrown when what was under way has ended.
 */
export async function inLanes<Mark, Lot>(
  begin: Mark,
  next: (after: Mark) => Promise<{ readonly lot: Lot; readonly mark: Mark } | null>,
  work: (lot: Lot) => Promise<void>,
): Promise<void> {
  let mark: Mark | null = begin;
  let taking: Promise<unknown> = Promise.resolve();
  const take = (): Promise<Lot | null> => {
    const taken = taking.then(async () => {
      const found = mark === null ? null : await next(mark);
      mark = found?.mark ?? null;
      return found?.lot ?? null;
    });
    taking = taken.catch(() => (mark = null));
    return taken;
  };
  const lane = async (): Promise<void> => {
    try {
      for (let lot = await take(); lot !== null; lot = await take()) await work(lot);
    } catch (error) {
      mark = null;
      throw error;
    }
  };
  const ended = await Promise.allSettled(Array.from({ length: LANES }, lane));
  const failed = ended.find((l) => l.status === 'rejected');
  if (failed) throw failed.reason;
}
