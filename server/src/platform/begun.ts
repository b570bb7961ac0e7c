// What is sent piece by piece: begun before the answer is, so that what refuses the first piece is the answer.

/** Reads the first piece; gives all of them, it included. */
export async function begun<T>(pieces: AsyncIterable<T>): Promise<AsyncGenerator<T>> {
  const iterator = pieces[Symbol.asyncIterator]();
  const first = await iterator.next();
  return (async function* all() {
    for (let piece = first; !piece.done; piece = await iterator.next()) yield piece.value;
  })();
}
