// What jsdom lacks of a browser, and patience on a busy machine.
if (typeof document !== 'undefined') {
  // Asked for by react-aria with ids that need no escaping.
  Object.defineProperty(globalThis, 'CSS', { value: { escape: (text: string) => text }, configurable: true });
  const { configure } = await import('@testing-library/react');
  configure({ asyncUtilTimeout: 8000 });
}
export {};
