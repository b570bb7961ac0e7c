// The alerts behind an order: the rule as it was, what was read around it, and who was told.
import { useState } from 'react';
import { Link } from 'react-router';
import type { OrderAlert } from '#api/order-alerts.ts';
import { sayUnit } from '#core/signals/index.ts';
import type { Instant, Zone } from '#core/time/index.ts';
import { plural, sayMoment } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { signalsApi } from './endpoints.ts';
import { CurveLines } from './pulse.tsx';

const REFRESHED_MS = 60_000;

function sayTold({ told }: OrderAlert, now: Instant, zone: Zone): string {
  if (told.length === 0) return 'Nobody was told by a step of the rule.';
  return `Told ${told.map((t) => `${t.name} ${sayMoment(t.at, now, zone)}`).join(', ')}.`;
}

/** One alert opened: what was read around it, as long as it grows. */
function Around({ of, zone }: { of: OrderAlert; zone: Zone }) {
  const { data } = signalsApi.useReadAlertCurveQuery(
    { params: { id: String(of.id) } },
    of.endedAt === null ? { pollingInterval: REFRESHED_MS } : {},
  );
  if (!data) return <p className="quiet">Loading…</p>;
  const { now, points } = data;
  const limits = of.limits.map((l) => `limit ${l.side} ${l.limit} ${sayUnit(of.unit)}`.replace('-', '−')).join(', ');
  return (
    <figure className="mt-1">
      {points.length < 2 ? (
        <p className="quiet">Too few readings for a line.</p>
      ) : (
        <CurveLines
          {...{ points, limits: of.limits }}
          marks={[of.startedAt, ...(of.endedAt === null ? [] : [of.endedAt])]}
          until={points.at(-1)?.at ?? now}
          height={84}
          said={`${of.channel} of ${of.tag} around ${sayMoment(of.startedAt, now, zone)}`}
        />
      )}
      <figcaption className="quiet">
        {points.length > 1 && (
          <span className="flex justify-between gap-4">
            <span>
              {of.channel}, {sayMoment(points[0]?.at ?? now, now, zone)} to{' '}
              {sayMoment(points.at(-1)?.at ?? now, now, zone)}
            </span>
            <span>{limits}</span>
          </span>
        )}
        <span className="block">Rule then: {of.said}.</span>
        <span className="block">
          {sayTold(of, now, zone)}{' '}
          {of.acknowledged
            ? `Acknowledged ${sayMoment(of.acknowledged.at, now, zone)} by ${of.acknowledged.by}.`
            : 'Not acknowledged yet.'}
        </span>
      </figcaption>
    </figure>
  );
}

function sayStanding(of: OrderAlert, zone: Zone, now: Instant): string {
  if (of.withdrawn) return 'withdrawn: told late, there was none';
  return of.endedAt === null ? 'still active' : `gone ${sayMoment(of.endedAt, now, zone)}`;
}

export function AlertsOf({ orderId, now }: { orderId: number; now: Instant }) {
  const { zone } = useReader();
  const { data } = signalsApi.useListOrderAlertsQuery({ params: { id: String(orderId) } });
  const [chosen, setChosen] = useState<number | null>(null);
  if (!data || data.items.length === 0) return null;
  const { items } = data;
  const open = chosen ?? items[0]?.id;
  return (
    <section aria-label="Alerts">
      <h2>{plural(items.length, 'alert')}</h2>
      <ul className="divide-y divide-hairline border-y border-hairline">
        {items.map((of) => (
          <li key={of.id} className="py-2">
            <button
              className="min-h-[24px] text-left"
              aria-expanded={open === of.id}
              onClick={() => setChosen(open === of.id ? 0 : of.id)}
            >
              <span className="font-semibold">{of.rule}</span>, since {sayMoment(of.startedAt, now, zone)}:{' '}
              {sayStanding(of, zone, now)}
            </button>{' '}
            <Link className="serial link-ink inline-block min-h-[24px] leading-[24px]" to={`/assets/${of.assetId}`}>
              {of.tag}
            </Link>
            <p>{of.text}</p>
            {open === of.id && <Around of={of} zone={zone} />}
          </li>
        ))}
      </ul>
    </section>
  );
}
