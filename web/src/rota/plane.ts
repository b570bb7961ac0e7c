// The plane of the rota: time along, people across; turned by a quarter both change places.
import type { CSSProperties } from 'react';

export type Plane = {
  readonly turned: boolean;
  /** Pixels of a row across the time. */
  readonly row: number;
  /** Pixels of the names in front of the rows. */
  readonly names: number;
};

/** From where to where along the time, and across it. */
export const put = ({ turned }: Pick<Plane, 'turned'>, a: number, b: number, c: number, d: number): CSSProperties =>
  turned ? { top: a, height: b - a, left: c, width: d - c } : { left: a, width: b - a, top: c, height: d - c };

/** The lanes of things that lie over one another on a line, each in the first that is free. */
export function lanesOf(spans: readonly { readonly a: number; readonly b: number }[], most = Infinity): number[] {
  const ends: number[] = [];
  return spans.map(({ a, b }) => {
    const free = ends.findIndex((end) => end <= a);
    const lane = free < 0 ? ends.length : free;
    if (lane >= most) return -1;
    ends[lane] = b;
    return lane;
  });
}
