// How an order's clocks came to be what they are, line by line, to be shown to whoever asks; beside it what else they could have been.
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import type { DerivationLineOut, DerivationOut, DerivedOut } from '#api/derivations.ts';
import { orderNumber } from '#api/shapes.ts';
import { sayLength, type Instant, type Zone } from '#core/time/index.ts';
import { SelectField } from '../parts/fields.tsx';
import { sayMinutes, sayMoment, sayZone } from '../parts/words.ts';
import { usePriorities } from '../setup/index.ts';
import { Waiting } from '../shell/waiting.tsx';
import { standingApi } from './endpoints.ts';
import { ClockHistory } from './history.tsx';

const SAY: Readonly<Record<DerivationLineOut['kind'], string>> = {
  ...{ started: 'the clock starts', counted: 'counted', late: 'late', closed: 'closed, not counted' },
  ...{ paused: 'paused', 'ran on': 'paused, but it runs on', due: 'due', stopped: 'stopped', voided: 'called off' },
};

const sayWhy = (l: DerivationLineOut): string =>
  [...(l.reason ? [l.reason] : []), ...l.notes, ...(l.by ? [l.by.text] : [])].join(' · ');

function LineRow({ line, now, zone }: { line: DerivationLineOut; now: Instant; zone: Zone }) {
  const isMark = line.to === null && line.kind !== 'paused';
  return (
    <tr className={isMark ? 'font-semibold' : line.kind === 'late' ? 'text-missed' : ''}>
      <td className="whitespace-nowrap">{sayMoment(line.from, now, zone)}</td>
      <td className="whitespace-nowrap">
        {line.to === null ? (isMark ? '' : 'goes on') : sayMoment(line.to, now, zone)}
      </td>
      <td>
        {SAY[line.kind]}
        {sayWhy(line) && <span className="quiet font-normal"> · {sayWhy(line)}</span>}
        {line.by && (
          <span className="quiet block font-normal">
            {line.by.who ?? 'by itself'}, recorded {sayMoment(line.by.recordedAt, now, zone)}
          </span>
        )}
      </td>
      <td className="text-right whitespace-nowrap">{line.ms > 0 && sayLength(line.ms, 'as hours')}</td>
      <td className="text-right whitespace-nowrap">{line.ms > 0 && sayLength(line.sum, 'as hours')}</td>
    </tr>
  );
}

function sayState(of: DerivationOut, now: Instant, zone: Zone): string {
  const due = of.dueAt === null ? '' : `, due ${sayMoment(of.dueAt, now, zone)}`;
  const over = of.over > 0 ? ` by ${sayLength(of.over, 'as hours')}` : '';
  return `${of.state}${over}${due}`;
}

function Derivation({ of, caption, now, zone }: { of: DerivationOut; caption: string; now: Instant; zone: Zone }) {
  return (
    <table className="dense mt-1 w-full">
      <caption className="text-left">
        <span className="font-semibold">{caption}</span>: {sayMinutes(of.minutes)},{' '}
        {of.measure === 'elapsed' ? 'around the clock' : `working time of ${of.measure}`};{' '}
        {of.pauses.length === 0 ? 'no pause counts' : `pauses: ${of.pauses.join(', ')}`}.{' '}
        <span className={`inline-block first-letter:uppercase ${of.state === 'missed' ? 'text-missed' : ''}`}>
          {sayState(of, now, zone)}.
        </span>
      </caption>
      <thead>
        <tr>
          {['From', 'To', 'What'].map((head) => (
            <th key={head} scope="col" className={head === 'What' ? 'text-left' : 'w-28 text-left'}>
              {head}
            </th>
          ))}
          {['Counted', 'So far'].map((head) => (
            <th key={head} scope="col" className="w-24 text-right">
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {of.lines.map((line, i) => (
          <LineRow key={i} {...{ line, now, zone }} />
        ))}
      </tbody>
    </table>
  );
}

function Clock({ of, now, zone, isAsked }: { of: DerivedOut; now: Instant; zone: Zone; isAsked: boolean }) {
  return (
    <section className="mt-6" aria-label={`${of.target}, ${of.tag}`}>
      <h2>
        <span className="inline-block first-letter:uppercase">{of.target}</span> of{' '}
        <span className="serial">{of.tag}</span> <span className="quiet font-normal">{of.serviceLevel}</span>
      </h2>
      <div className={isAsked ? 'grid grid-cols-2 items-start gap-8 print:block' : ''}>
        <Derivation of={of.asIs} caption="As it is" {...{ now, zone }} />
        {of.whatIf ? (
          <Derivation of={of.whatIf} caption="As it would be" {...{ now, zone }} />
        ) : (
          isAsked && <p className="quiet">At that priority the service level promises nothing here.</p>
        )}
      </div>
    </section>
  );
}

type Asked = { readonly priority: string; readonly calendar: string; readonly pauses: string };
const NOTHING: Asked = { priority: '', calendar: '', pauses: '' };

export function DerivationsOf({ id }: { id: string }) {
  const [asked, setAsked] = useState(NOTHING);
  const priorities = usePriorities();
  const query = standingApi.useReadDerivationsQuery({
    params: { id },
    query: Object.fromEntries(Object.entries(asked).filter(([, value]) => value !== '')),
  });
  const isAsked = Object.values(asked).some((value) => value !== '');
  const set = (field: keyof Asked) => (value: string) => setAsked({ ...asked, [field]: value });
  return (
    <Waiting query={query}>
      {({ items, now, zone, title, customer, calendars }) => (
        <article className="max-w-6xl px-7 pt-5 pb-12">
          <p className="quiet">
            <Link className="link-ink" to={`/orders/${id}`}>
              Work order <span className="serial">{orderNumber(Number(id))}</span>
            </Link>{' '}
            · {customer}
          </p>
          <header className="flex items-baseline gap-4">
            <h1>Clocks of {title}</h1>
            <p className="text-ink2">times of {sayZone(zone)}</p>
          </header>
          <div className="mt-3 flex flex-wrap items-end gap-4 print:hidden">
            <SelectField
              label="What if it had priority"
              value={asked.priority}
              onChange={set('priority')}
              options={[['', 'as it has'], ...priorities.map((p) => [String(p), String(p)] as const)]}
            />
            <SelectField
              label="counted by"
              value={asked.calendar}
              onChange={set('calendar')}
              options={[
                ['', 'its own time'],
                ['elapsed', 'around the clock'],
                ...calendars.map((c) => [String(c.id), c.name] as const),
              ]}
            />
            <SelectField
              label="with pauses"
              value={asked.pauses}
              onChange={set('pauses')}
              options={[
                ['', 'as agreed'],
                ['all', 'all that there were'],
                ['none', 'none'],
              ]}
            />
            <button className="act" onClick={() => window.print()}>
              Print
            </button>
          </div>
          {items.length === 0 && <p className="mt-6">Nothing was promised with this order.</p>}
          {items.map((of) => (
            <Clock key={`${of.target} ${of.assetId}`} {...{ of, now, isAsked }} zone={zone as Zone} />
          ))}
          <ClockHistory id={id} />
        </article>
      )}
    </Waiting>
  );
}

export function DerivationsRoom() {
  const { id = '' } = useParams();
  return <DerivationsOf id={id} />;
}
