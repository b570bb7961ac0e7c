// What a call is about: found by serial, tag, a part of the street, customer, contact or telephone number.
import type { Hit } from '#api/finder.ts';
import { ChooseAsset } from '../assets/index.ts';
import { finderApi } from '../finder/index.ts';
import { Choose, type Choice } from '../parts/choose.tsx';
import { ChoosePlace } from '../places/index.ts';

export type AboutWhat = {
  readonly machines: readonly Choice[];
  readonly customer: Choice | null;
  /** Where no machine is known. */
  readonly place: Choice | null;
};

const WANTED = ['asset', 'customer', 'location'] as const satisfies readonly Hit['kind'][];
const SAID: Readonly<Record<(typeof WANTED)[number], string>> = { asset: '', customer: 'customer', location: 'place' };
type Wanted = (typeof WANTED)[number];
const isWanted = (kind: Hit['kind']): kind is Wanted => (WANTED as readonly string[]).includes(kind);

/** Ids are each table's own: what kind a hit is goes into the choice's. */
const choiceId = (hit: Hit): number => hit.id * WANTED.length + WANTED.indexOf(hit.kind as Wanted);

export function aboutOf(about: AboutWhat, hit: Hit): AboutWhat {
  if (hit.kind === 'asset') {
    const machine = { id: hit.id, mark: hit.mark, name: hit.title, beside: hit.beside };
    return about.machines.some((m) => m.id === hit.id)
      ? about
      : { ...about, machines: [...about.machines, machine], place: null };
  }
  if (hit.kind === 'customer') return { machines: [], customer: { id: hit.id, name: hit.title }, place: null };
  const customer = hit.under === null ? about.customer : { id: hit.under, name: '' };
  return { machines: [], customer, place: { id: hit.id, name: hit.title } };
}

/** The finder's own answers, in one field that takes the keys when the page opens. */
function FindAbout({ label, onFound }: { label: string; onFound: (hit: Hit) => void }) {
  const hits = new Map<number, Hit>();
  return (
    <Choose
      label={label}
      chosen={null}
      autoFocus
      firstIsMeant
      onChoose={(choice) => {
        const hit = choice && hits.get(choice.id);
        if (hit) onFound(hit);
      }}
      useFind={(typed, isOpen) => {
        const { currentData, isFetching } = finderApi.useFindQuery(
          { query: { q: typed } },
          { skip: !isOpen || typed.length < 2 },
        );
        const found = (typed.length < 2 ? [] : (currentData?.hits ?? [])).filter((h) => isWanted(h.kind));
        for (const hit of found) hits.set(choiceId(hit), hit);
        return {
          choices: found.map((h) => ({
            id: choiceId(h),
            mark: h.mark,
            name: h.title,
            beside: [SAID[h.kind as Wanted], h.matched, h.beside].filter((x) => x).join(' · '),
          })),
          more: false,
          isLooking: isFetching || typed.length < 2,
        };
      }}
      none="Serial, tag, street, customer, contact or telephone number"
    />
  );
}

export function About({
  about,
  onFound,
  onSet,
}: {
  about: AboutWhat;
  onFound: (hit: Hit) => void;
  onSet: (about: AboutWhat) => void;
}) {
  const { customer, machines, place } = about;
  return (
    <div className="space-y-3">
      <FindAbout label={machines.length > 0 ? 'Another machine' : 'What it is about'} onFound={onFound} />
      {customer && machines.length === 0 && (
        <div className="sheet space-y-3 p-3">
          {customer.name !== '' && <p>{customer.name}: which machine, or which place while none is known?</p>}
          <ChooseAsset
            label="A machine of theirs"
            within={{ customer: String(customer.id) }}
            chosen={null}
            none="Tag, serial or model"
            onChoose={(asset) => asset && onSet({ ...about, machines: [asset], place: null })}
          />
          <ChoosePlace
            label="Or the place itself"
            customer={String(customer.id)}
            chosen={place}
            none="no place chosen"
            onChoose={(chosen) => onSet({ ...about, place: chosen })}
          />
        </div>
      )}
    </div>
  );
}
