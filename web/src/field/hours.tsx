// Time at an order: proposed from the arrival until now, of oneself and of whoever came along.
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import {
  instant,
  localDateAt,
  readTypedTime,
  sayTimeOfDay,
  toWallTime,
  type Instant,
  type Zone,
} from '#core/time/index.ts';
import { Held, Refused, useDoing } from './doing.tsx';
import { begunBy, useHeld, useNow, zoneOf, type OnOrder } from './held.ts';
import { Asking, Typed, Words } from './typed.tsx';

const KINDS = ['work', 'travel', 'waiting'] as const;

const clockOf = (at: Instant, zone: Zone): string => sayTimeOfDay(toWallTime(zone, at).minutes).padStart(5, '0');

/** Since when somebody is at an order today: their arrival, else when it was planned; never what is still to come. */
function beganAt(order: OnOrder, planned: Instant | undefined, zone: Zone, now: Instant): Instant {
  const today = localDateAt(zone, now);
  const arrival = order.here.events.findLast(
    ({ act, at }) => act.kind === 'arrived' && localDateAt(zone, at) === today,
  );
  return arrival?.at ?? instant(Math.min(planned ?? now, now));
}

function Hours({ order }: { order: OnOrder }) {
  const state = useHeld();
  const now = useNow();
  const zone = zoneOf(state);
  const [again] = useSearchParams();
  const { refusals, setRefusals, act } = useDoing();
  const of = state.days?.appointments.find((a) => a.orderIds.includes(order.page.id));
  const crew = of?.with ?? [];
  const began = beganAt(order, of?.from, zone, now);
  const [kind, setKind] = useState<(typeof KINDS)[number]>('work');
  const [from, setFrom] = useState(clockOf(began, zone));
  const [to, setTo] = useState(clockOf(now, zone));
  const [who, setWho] = useState<readonly (number | null)[]>([null]);
  const lines = order.page.lines.filter((l) => !l.off).map((l) => ({ lineId: l.id }));
  const deed = again.get('again');
  const keep = async (): Promise<void> => {
    const [fromAt, toAt] = [readTypedTime(from), readTypedTime(to)];
    if (fromAt === null || toAt === null)
      return setRefusals([{ code: 'invalid', message: 'Write both times, such as 09:20.' }]);
    if (fromAt === toAt)
      return setRefusals([{ code: 'invalid', message: 'It ends when it begins; change one of the times.' }]);
    const entry = { day: localDateAt(zone, began), kind, from: fromAt, to: toAt, lines };
    const needs = begunBy(state, order.page.id);
    for (const [i, personId] of who.entries()) {
      const isLast = i === who.length - 1;
      const done = await act(
        { kind: 'time', personId, entry },
        { needs, stay: !isLast, ...(deed !== null && i === 0 && { deed }) },
      );
      if (done === null) return;
    }
  };
  const toggle = (id: number | null): void => setWho(who.includes(id) ? who.filter((w) => w !== id) : [...who, id]);
  return (
    <Asking title="Hours" keep={{ text: 'Keep the hours', isOff: who.length === 0, go: () => void keep() }}>
      <Words label="Kind" of={KINDS} say={(k) => k} isPressed={(k) => k === kind} press={setKind} isWide />
      <div className="flex gap-3">
        <Typed label="From" isNumber className="flex-1" value={from} change={setFrom} />
        <Typed label="To" isNumber className="flex-1" value={to} change={setTo} />
      </div>
      {crew.length > 0 && (
        <Words
          label="Whose"
          of={[{ id: null, name: 'me' }, ...crew]}
          say={(p) => p.name}
          isPressed={(p) => who.includes(p.id)}
          press={(p) => toggle(p.id)}
          isWide
        />
      )}
      <Refused refusals={refusals} />
    </Asking>
  );
}

export const HoursPage = () => <Held show={(order) => <Hours order={order} />} />;
