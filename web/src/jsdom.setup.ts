// What jsdom lacks of a browser: CSS.escape, asked for by react-aria with ids that need no escaping.
if (typeof document !== 'undefined')
  Object.defineProperty(globalThis, 'CSS', { value: { escape: (text: string) => text }, configurable: true });
