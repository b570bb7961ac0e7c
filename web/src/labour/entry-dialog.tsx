// Entering time: times or a sum, for one order or several, and why it may stand beside what was entered already.
import { useState } from 'react';
import { addEntry, type EntryIn, type EntryOut } from '#api/labour.ts';
import { orderNumber } from '#api/shapes.ts';
import { ENTRY_KINDS, HOURS_KINDS } from '#core/labour/index.ts';
import { Choose, type Choice } from '../parts/choose.tsx';
import { newRequestKey } from '../parts/fields.tsx';
import { WireDate, WireNumber, WireSelect, WireText, WireTime } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { labourApi } from './endpoints.ts';

/** A line of an order as it is chosen. */
export type Line = { readonly lineId: number; readonly orderId: number; readonly title: string; readonly tag: string };
type Share = { lineId: number; share: number };

const choiceOf = ({ lineId, orderId, title, tag }: Line): Choice => ({
  id: lineId,
  mark: orderNumber(orderId),
  name: `${title}, ${tag}`,
});

function useLines(personId: number) {
  return (typed: string, isOpen: boolean) => {
    const { currentData, data, isFetching } = labourApi.useFindLinesQuery(
      { query: { person: String(personId), ...(typed && { q: typed }) } },
      { skip: !isOpen },
    );
    const found = currentData ?? data;
    return {
      choices: (found?.items ?? []).map((l) => ({ ...choiceOf(l), beside: l.customer })),
      more: found?.more ?? false,
      isLooking: isFetching,
    };
  };
}

/** The orders it was for. With several, each has its share. */
function LinesField({ personId, known }: { personId: number; known: readonly Line[] }) {
  const [names, setNames] = useState<ReadonlyMap<number, Choice>>(
    () => new Map(known.map((l) => [l.lineId, choiceOf(l)])),
  );
  const find = useLines(personId);
  return (
    <Wire<Share[]> name="lines">
      {({ value, change, error }) => (
        <fieldset className="space-y-2">
          {value.map((line, i) => (
            <div key={line.lineId} className="grid grid-cols-[1fr_6rem_auto] items-end gap-3">
              <p className="truncate pb-1.5">
                <span className="serial">{names.get(line.lineId)?.mark}</span> {names.get(line.lineId)?.name}
              </p>
              {value.length > 1 ? <WireNumber name={`lines.${i}.share`} label="Share" min={0} /> : <span />}
              <button
                type="button"
                className="quiet link-ink pb-1.5"
                onClick={() => change(value.filter((l) => l.lineId !== line.lineId))}
              >
                remove
              </button>
            </div>
          ))}
          <Choose
            label={value.length === 0 ? 'For the order' : 'And for the order'}
            chosen={null}
            onChoose={(choice) => {
              if (!choice || value.some((l) => l.lineId === choice.id)) return;
              setNames(new Map([...names, [choice.id, choice]]));
              change([...value, { lineId: choice.id, share: 1 }]);
            }}
            useFind={find}
            none="order number, tag or serial"
            error={error}
          />
        </fieldset>
      )}
    </Wire>
  );
}

type Props = {
  personId: number;
  day: string;
  /** What is changed; null: a new one. */
  entry: EntryOut | null;
  /** Chosen already. */
  lines?: readonly Line[];
  onClose: () => void;
};

const blank = (day: string, lines: readonly Line[]) => ({
  ...{
    day,
    kind: 'work' as const,
    from: null,
    to: null,
    minutes: null,
    hours: null,
    kilometres: 0,
    text: '',
    overlapReason: null,
  },
  lines: lines.map(({ lineId }) => ({ lineId, share: 1 })),
});

const held = (e: EntryOut) => ({
  ...{ day: e.day as string, kind: e.kind, text: e.text, overlapReason: e.overlapReason, kilometres: e.kilometres },
  ...(e.span
    ? { from: e.from, to: e.to, minutes: null, hours: null }
    : { from: null, to: null, minutes: e.minutes, hours: e.hours }),
  lines: e.lines.map(({ lineId, share }) => ({ lineId, share })),
});

type Typed = EntryIn & { requestKey: string; personId: number };

export function EntryDialog({ personId, day, entry, lines = [], onClose }: Props) {
  const [add] = labourApi.useAddEntryMutation();
  const [change] = labourApi.useChangeEntryMutation();
  const [requestKey] = useState(newRequestKey);
  const title = entry ? 'Change the entry' : 'Enter time';
  const form = useWireForm<Typed>(addEntry, { requestKey, personId, ...(entry ? held(entry) : blank(day, lines)) });
  const isSum = form.watch('minutes') !== null;
  const [overlaps, setOverlaps] = useState(typeof entry?.overlapReason === 'string');
  return (
    <Dialog title={title} onClose={onClose}>
      <WireForm<Typed, unknown>
        form={form}
        name={title}
        save={title}
        send={(typed, seen) => {
          // Typed before it turned out to be no travel: nothing was driven.
          const body = { ...typed, kilometres: typed.kind === 'travel' ? (typed.kilometres ?? 0) : 0 };
          return entry
            ? change({ params: { id: String(entry.id) }, body: { ...body, version: seen ?? entry.version } })
            : add({ body });
        }}
        // Said as ever; the reason is asked for only then.
        onRefused={({ errors }) => {
          if (errors.some((e) => e.field === 'overlapReason')) setOverlaps(true);
          return false;
        }}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>{title}</h1>
        <div className="grid grid-cols-[1.3fr_1fr] gap-3">
          <WireDate name="day" label="Day" />
          <WireSelect name="kind" label="What" options={ENTRY_KINDS.map((k) => [k, k] as const)} />
        </div>
        <div className="grid grid-cols-[1fr_1fr_1.3fr] items-start gap-3">
          <WireTime name="from" label="From" />
          <WireTime name="to" label="To" />
          <WireNumber name="minutes" label="or a sum, h" per={60} empty={null} min={0} step="any" />
        </div>
        {isSum && (
          <WireSelect
            name="hours"
            label="Hours"
            options={[[null, 'as the day says'] as const, ...HOURS_KINDS.map((h) => [h, h] as const)]}
          />
        )}
        {form.watch('kind') === 'travel' && (
          <WireNumber name="kilometres" label="Kilometres driven" min={0} empty={0} className="w-44" />
        )}
        <LinesField personId={personId} known={entry?.lines ?? lines} />
        <WireText name="text" label="What was done (may stay empty)" />
        {overlaps && <WireText name="overlapReason" label="Why both stand" empty={null} />}
      </WireForm>
    </Dialog>
  );
}
