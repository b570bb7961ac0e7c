// Choosing a place of a customer by any part of its names, from the top down.
import { useMemo, type ReactNode } from 'react';
import type { TreeNode } from '#api/places.ts';
import { Choose, type Choice } from '../parts/choose.tsx';
import { placesApi } from './endpoints.ts';

const SHOWN = 30;

/** Each place in use with the names above it: "Norvela › Floor 1 › Lab 4". */
export function namedPlaces(nodes: readonly TreeNode[]): Choice[] {
  const byId = new Map(nodes.map((n) => [n.id, n]));
  const nameOf = (node: TreeNode): string => {
    const above = node.parentId === null ? undefined : byId.get(node.parentId);
    return above ? `${nameOf(above)} › ${node.name}` : node.name;
  };
  return nodes.filter((n) => !n.retiredOn).map((n) => ({ id: n.id, name: nameOf(n) }));
}

/** Places whose names hold every typed word, in any order. */
export function placesNamed(places: readonly Choice[], typed: string): Choice[] {
  const words = typed.toLowerCase().split(/\s+/);
  return places.filter(({ name }) => words.every((w) => name.toLowerCase().includes(w)));
}

type Shared = {
  readonly label: string;
  readonly chosen: Choice | null;
  readonly onChoose: (place: Choice | null) => void;
  readonly none?: string | undefined;
  readonly hint?: ReactNode;
  readonly error?: string | undefined;
  readonly className?: string | undefined;
};

/** Among places that are known already. */
export function ChooseAmongPlaces({
  places,
  isLooking = false,
  ...rest
}: Shared & { places: readonly Choice[]; isLooking?: boolean }) {
  return (
    <Choose
      {...rest}
      useFind={(typed) => {
        const fitting = placesNamed(places, typed);
        return { choices: fitting.slice(0, SHOWN), more: fitting.length > SHOWN, isLooking };
      }}
    />
  );
}

/** Among those of a customer. */
export function ChoosePlace({ customer, ...rest }: Shared & { customer: string }) {
  const { currentData, isFetching } = placesApi.useReadTreeQuery(
    { params: { id: customer } },
    { skip: customer === '' },
  );
  const places = useMemo(() => namedPlaces(currentData?.nodes ?? []), [currentData]);
  return <ChooseAmongPlaces places={places} isLooking={isFetching} {...rest} />;
}

/** The place of a customer that an address names. */
export function usePlaceChoice(customer: string, id: string): Choice | null {
  const { currentData } = placesApi.useReadTreeQuery(
    { params: { id: customer } },
    { skip: customer === '' || id === '' },
  );
  const places = useMemo(() => namedPlaces(currentData?.nodes ?? []), [currentData]);
  return id === '' ? null : (places.find((p) => String(p.id) === id) ?? { id: Number(id), name: '' });
}
