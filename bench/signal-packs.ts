// What the devices of the measurement say.
export const CHANNELS = ['measured-a', 'measured-b'];
/** Each device says five instants of both channels at once. */
export const INSTANTS = 5;
export const IN_A_PACK = CHANNELS.length * INSTANTS;

export const keyOf = (i: number): string => `urn:dev:os:measured-${i}`;

/** What a device says in a turn: five instants, the last of them at `atMs`. */
export function packOf(device: number, atMs: number, warm = false): object[] {
  return Array.from({ length: INSTANTS }, (_, i) => i).flatMap((i) =>
    CHANNELS.map((n, c) => ({
      ...(i === 0 && c === 0 && { bn: `${keyOf(device)}:`, bt: atMs / 1000 }),
      ...{
        n,
        t: i + 1 - INSTANTS,
        v:
          warm && i === INSTANTS - 1 && c === 0
            ? 60 + (device % 7)
            : Math.round(Math.sin(device + atMs / 9000 + i) * 400) / 100,
      },
    })),
  );
}
