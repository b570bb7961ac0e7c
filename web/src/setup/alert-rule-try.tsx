// A rule tried on the past before it is kept: what it would have raised, beside what the kept one would.
import { useState } from 'react';
import { useFormContext, useWatch, type FieldValues } from 'react-hook-form';
import { Link } from 'react-router';
import { TRIED_DAYS, tryAlertRule, type AlertRuleIn, type Tried } from '#api/alert-rules.ts';
import { NumberField } from '../parts/fields.tsx';
import { sayLength } from '#core/time/index.ts';
import { ErrorLine } from '../parts/problem.tsx';
import { plural, sayMoment } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { setupApi } from './endpoints.ts';

const DAYS = 14;

const said = ({ alerts, seconds, active }: Tried): string =>
  alerts === 0
    ? 'no alert at all'
    : `${plural(alerts, 'alert')}, ${sayLength(seconds * 1000)} in all${active > 0 ? `, ${active} of them still active` : ''}`;

function Found({ tried, now }: { tried: Tried; now: number }) {
  const { zone } = useReader();
  if (tried.shown.length === 0) return null;
  return (
    <div className="max-h-64 overflow-y-auto">
      <table className="dense mt-2">
        <caption className="quiet text-left">
          {tried.alerts > tried.shown.length
            ? `${tried.shown.length} of ${tried.alerts}, the latest first`
            : 'The latest first'}
        </caption>
        <thead>
          <tr>
            <th className="text-left">Machine</th>
            <th className="text-left">Active from</th>
            <th className="num">For</th>
            <th className="text-left">At its worst</th>
          </tr>
        </thead>
        <tbody>
          {tried.shown.map((a) => (
            <tr key={`${a.assetId} ${a.from}`}>
              <td>
                {a.model}{' '}
                <Link className="serial link-ink" to={`/assets/${a.assetId}`}>
                  {a.tag}
                </Link>
              </td>
              <td>{sayMoment(a.from, now as never, zone)}</td>
              <td className="num">{a.to === null ? 'still' : sayLength(a.to - a.from)}</td>
              <td>{a.text}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** Stands in the form of the rule; `bodyOf` makes what would be kept of what is typed. */
export function TryOnThePast({
  ruleId,
  bodyOf,
}: {
  ruleId: number | null;
  bodyOf: (typed: FieldValues) => AlertRuleIn;
}) {
  const form = useFormContext();
  const reader = useReader();
  const { data: session } = server.useReadSessionQuery();
  const [days, setDays] = useState(DAYS);
  const [run, { data, error, isLoading }] = setupApi.useTryAlertRuleMutation();
  const [triedOf, setTriedOf] = useState('');
  // What is typed now; what was found of something else is not shown beside it.
  const typed = JSON.stringify([bodyOf(useWatch<FieldValues>()), days]);
  const isPossible = Number.isInteger(days) && days >= 1 && days <= TRIED_DAYS;
  if (!reader.may(tryAlertRule)) return null;
  const tryIt = async (): Promise<void> => {
    if (!(await form.trigger(undefined, { shouldFocus: true }))) return;
    setTriedOf(JSON.stringify([bodyOf(form.getValues()), days]));
    await run({ body: { ...bodyOf(form.getValues()), days, ruleId: ruleId } });
  };
  return (
    <section aria-label="Try it on the past" className="mt-4 border-t border-hairline pt-3">
      <div className="flex items-end gap-3">
        <div className="w-32">
          <NumberField label="Days back" value={days} onChange={setDays} min={1} max={TRIED_DAYS} />
        </div>
        <button type="button" className="act" disabled={!isPossible || isLoading} onClick={() => void tryIt()}>
          {isLoading ? 'Trying…' : 'Try it on the past'}
        </button>
        <p className="quiet">Nothing is raised by it, nothing is kept.</p>
      </div>
      {error && !isLoading && triedOf === typed && <ErrorLine error={error} />}
      {data && !isLoading && triedOf === typed && (
        <div aria-live="polite">
          <p className="mt-2">
            It would have raised <strong className="font-semibold">{said(data.tried)}</strong>, from{' '}
            {data.tried.readings.toLocaleString('en-GB')} readings of {plural(data.tried.machines, 'machine')}.
            {data.kept && ` As it is kept: ${said(data.kept)}.`} An alert that begins while the order of the one before
            is open joins it.
          </p>
          {data.leftOut > 0 && (
            <p className="quiet">{plural(data.leftOut, 'machine')} reported too much for that time; try fewer days.</p>
          )}
          {session && <Found tried={data.tried} now={session.now} />}
        </div>
      )}
    </section>
  );
}
