// What is this machine, this place or this caller entitled to: asked for any instant, kind of work, cause and part, with the reasons.
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { CAUSES, type Cause } from '#core/entitlement/index.ts';
import { ORDER_KINDS, type OrderKind } from '#core/orders/index.ts';
import { formatInstant, type Instant, type Zone } from '#core/time/index.ts';
import { SelectField, TextField } from '../parts/fields.tsx';
import { CoverVerdict } from '../parts/verdict.tsx';
import { plural } from '../parts/words.ts';
import { usePriorityChoices } from '../setup/index.ts';
import { Dialog } from '../shell/dialog.tsx';
import { agreementsApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import { readWall, TimeOfEvent, wallText } from '../parts/time-of-event.tsx';

export type AskedSubject =
  | { readonly kind: 'asset'; readonly id: number; readonly tag: string; readonly model: string }
  | { readonly kind: 'location' | 'customer'; readonly id: number; readonly name: string };

type Asked = { at: string; kind: OrderKind; cause: Cause; priority: string; part?: string };

function OneVerdict({ id, asked }: { id: number; asked: Asked }) {
  const query = agreementsApi.useAskCoverQuery({ query: { asset: String(id), ...asked } });
  return <Waiting query={query}>{(verdict) => <CoverVerdict {...verdict} />}</Waiting>;
}

/** So many tags are named of machines with the same answer; the rest is counted. */
const NAMED = 12;

function ManyVerdicts({ of, asked }: { of: { location: string } | { customer: string }; asked: Asked }) {
  const query = agreementsApi.useAskManyQuery({ query: { ...of, ...asked } });
  return (
    <Waiting query={query}>
      {({ answers, asked: machines }) =>
        machines === 0 ? (
          <p>No machine stands there.</p>
        ) : (
          <ul className="max-h-96 space-y-3 overflow-y-auto" aria-label="Answers">
            {answers.map(({ verdict, machines: alike }) => (
              <li key={`${verdict.sentence}${verdict.promise}`} className="border-b border-hairline pb-2">
                <p>
                  <span className="font-semibold">{plural(alike.length, 'machine')}:</span>{' '}
                  {alike.slice(0, NAMED).map((m) => (
                    <Link key={m.id} className="serial link-ink mr-2" to={`/assets/${m.id}`} title={m.model}>
                      {m.tag}
                    </Link>
                  ))}
                  {alike.length > NAMED && <span className="quiet">and {alike.length - NAMED} more</span>}
                </p>
                <CoverVerdict {...verdict} />
              </li>
            ))}
          </ul>
        )
      }
    </Waiting>
  );
}

function Verdicts({ subject, asked }: { subject: AskedSubject; asked: Asked }): ReactNode {
  switch (subject.kind) {
    case 'asset':
      return <OneVerdict id={subject.id} asked={asked} />;
    case 'location':
      return <ManyVerdicts of={{ location: String(subject.id) }} asked={asked} />;
    case 'customer':
      return <ManyVerdicts of={{ customer: String(subject.id) }} asked={asked} />;
  }
}

function Asks({ subject }: { subject: AskedSubject }) {
  if (subject.kind === 'asset')
    return (
      <>
        What is {subject.model} <span className="serial">{subject.tag}</span> entitled to?
      </>
    );
  return subject.kind === 'customer'
    ? `What is ${subject.name} entitled to?`
    : `What is entitled to at ${subject.name}?`;
}

export function AskCover({
  subject,
  zone,
  now,
  onClose,
}: {
  subject: AskedSubject;
  zone: Zone;
  now: Instant;
  onClose: () => void;
}) {
  const [when, setWhen] = useState(() => wallText(now, zone));
  const [kind, setKind] = useState<OrderKind>('repair');
  const [cause, setCause] = useState<Cause>('unknown');
  const [priority, setPriority] = useState('1');
  const priorities = usePriorityChoices();
  const [part, setPart] = useState('');
  const at = readWall(when.date, when.time, zone);
  return (
    <Dialog title="What is it entitled to?" onClose={onClose} wide={subject.kind !== 'asset'}>
      <div className="space-y-3">
        <h1>
          <Asks subject={subject} />
        </h1>
        <TimeOfEvent zone={zone} value={when} onChange={setWhen} />
        <div className={`grid gap-3 ${subject.kind === 'asset' ? 'grid-cols-2' : 'grid-cols-4'}`}>
          <SelectField
            label="Kind of work"
            value={kind}
            onChange={(k) => setKind(k as OrderKind)}
            options={ORDER_KINDS.map((k) => [k, k] as const)}
          />
          <SelectField
            label="Cause"
            value={cause}
            onChange={(c) => setCause(c as Cause)}
            options={CAUSES.map((c) => [c, c] as const)}
          />
          <SelectField
            label="Priority"
            value={priority}
            onChange={setPriority}
            options={priorities.map(([p, word]) => [String(p), word] as const)}
          />
          <TextField label="Part concerned, if known" value={part} onChange={setPart} />
        </div>
        <div className="border-t border-hairline pt-3">
          {at === null ? (
            <p className="text-missed">✕ Give a date and a time such as 08:40.</p>
          ) : (
            <Verdicts
              subject={subject}
              asked={{ at: formatInstant(at), kind, cause, priority, ...(part.trim() && { part: part.trim() }) }}
            />
          )}
        </div>
        <button className="act" onClick={onClose}>
          Close
        </button>
      </div>
    </Dialog>
  );
}
