// Tasks for the test of threads.
export const double = async (n) => ({ value: n * 2 });
export const decline = async (text) => ({ refusals: [{ code: 'invalid', message: text, field: 'n' }] });
export const fault = async () => {
  throw new Error('a task broke');
};
/** Takes more memory than a thread has. */
export const hog = async () => {
  const held = [];
  for (;;) held.push(new Array(1_000_000).fill(held.length));
};
/** Counts up to a moment, never giving way. */
export const spin = async (ms) => {
  const end = Date.now() + ms;
  let n = 0;
  while (Date.now() < end) n += 1;
  return { value: n };
};
/** Waits until it is told to stop. */
export const wait = () => new Promise(() => undefined);
