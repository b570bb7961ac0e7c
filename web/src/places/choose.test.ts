import { describe, expect, it } from 'vitest';
import { namedPlaces, placesNamed } from './choose.tsx';

describe('places by their names', () => {
  const node = (id: number, name: string, parentId: number | null, retiredOn: string | null = null) =>
    ({ id, name, parentId, retiredOn }) as never;
  const places = namedPlaces([
    node(1, 'Norvela', null),
    node(2, 'Floor 1', 1),
    node(3, 'Lab 4', 2),
    node(4, 'Old lab', 2, '2026-01-01'),
  ]);
  it('are said from the top down, without those no longer used', () =>
    expect(places.map((p) => p.name)).toEqual(['Norvela', 'Norvela › Floor 1', 'Norvela › Floor 1 › Lab 4']));
  it('are found by words of any of their names in any order', () =>
    expect([
      placesNamed(places, 'lab norv').map((p) => p.id),
      placesNamed(places, '').length,
      placesNamed(places, 'lab 9'),
    ]).toEqual([[3], 3, []]));
});
