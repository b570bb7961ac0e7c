// Recording what happened on an order: the acts its stage offers, each with its own time.
import { useState } from 'react';
import { recordAct } from '#api/orders.ts';
import type { ActIn, OrderPage } from '#api/orders.ts';
import { formatInstant, instant, type Zone } from '#core/time/index.ts';
import type { PauseReason } from '#core/service-levels/index.ts';
import type { Effort } from '#core/orders/index.ts';
import { Field, newRequestKey, NumberField, SelectField, TextField, useSubmit } from '../parts/fields.tsx';
import { DateField } from '../parts/date-field.tsx';
import { Form } from '../parts/form.tsx';
import { TimeOfEvent, readWall, wallText } from '../parts/time-of-event.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { ordersApi } from './endpoints.ts';
import { setupApi } from '../setup/index.ts';

/** Tasks and forms are recorded where they stand; everything else is asked for in a dialog. */
type Kind = Exclude<ActIn['kind'], 'task' | 'form'>;
const NAMES: Record<Kind, string> = {
  planned: 'Plan…',
  sent: 'Send to technician',
  told: 'Told the customer who comes…',
  arrived: 'On site…',
  paused: 'Pause…',
  resumed: 'Resume…',
  restored: 'Back in use…',
  done: 'Done…',
  'called off': 'Call off…',
  note: 'Note…',
};
const ACTS: Record<Kind, string> = {
  planned: 'Plan the order',
  sent: 'Send the order',
  told: 'Record: customer told who comes',
  arrived: 'Record: on site',
  paused: 'Pause the clocks',
  resumed: 'Resume',
  restored: 'Record: back in use',
  done: 'Record: done',
  'called off': 'Call the order off',
  note: 'Add the note',
};

/** What was typed of the effort; null when nothing was. Hours become minutes, euros cents. */
function effortOf(fault: string, took: { labour: number; parts: number; other: number }): Effort | null {
  const times = (n: number, by: number): number | null => (Number.isNaN(n) ? null : Math.round(n * by));
  const effort = {
    fault: fault.trim() || null,
    labourMinutes: times(took.labour, 60),
    partsCost: times(took.parts, 100),
    otherCost: times(took.other, 100),
  };
  return Object.values(effort).every((x) => x === null) ? null : effort;
}

function actOf(
  kind: Kind,
  typed: { technician: string; date: string; reason: PauseReason; text: string; effort: Effort | null },
): ActIn {
  switch (kind) {
    case 'planned':
      return { kind, technician: typed.technician, date: typed.date };
    case 'told':
      return { kind, technician: typed.technician };
    case 'paused':
      return { kind, reason: typed.reason, text: typed.text };
    case 'done':
      return { kind, text: typed.text, ...(typed.effort && { effort: typed.effort }) };
    case 'called off':
    case 'note':
      return { kind, text: typed.text };
    case 'sent':
    case 'arrived':
    case 'resumed':
    case 'restored':
      return { kind };
  }
}

function ActDialog({ order, kind, onClose }: { order: OrderPage; kind: Kind; onClose: () => void }) {
  const zone = order.zone as Zone;
  const { data: reference } = setupApi.useReadReferenceQuery();
  const [record, { isLoading }] = ordersApi.useRecordActMutation();
  const { errors, submit } = useSubmit(['at', 'act.technician', 'act.date', 'act.text', 'text']);
  const [opened] = useState(() => ({ key: newRequestKey(), at: Date.now() }));
  const [when, setWhen] = useState(() => wallText(order.now, zone));
  const [touched, setTouched] = useState(false);
  const [technician, setTechnician] = useState(order.technician ?? '');
  const [date, setDate] = useState<string>(order.plannedFor ?? wallText(order.now, zone).date);
  const [reason, setReason] = useState<PauseReason>(order.pauses.find((p) => p.counts)?.reason ?? 'no access');
  const [text, setText] = useState('');
  const [fault, setFault] = useState('');
  const [took, setTook] = useState({ labour: NaN, parts: NaN, other: NaN });
  const [unread, setUnread] = useState<string | undefined>();
  const names = reference?.technicians.map((t) => t.name) ?? [];
  const send = async (): Promise<void> => {
    // Left alone, the event happened now, to the second; a typed time counts by the minute.
    const at = touched
      ? readWall(when.date, when.time, zone)
      : instant(order.now + (Date.now() - opened.at > 600_000 ? Date.now() - opened.at : 0));
    if (at === null) return setUnread('Give the date and a time such as 09:40.');
    setUnread(undefined);
    if (
      await submit(
        record({
          params: { id: String(order.id) },
          body: {
            requestKey: opened.key,
            at: formatInstant(at),
            act: actOf(kind, {
              technician: technician || (names[0] ?? ''),
              date: date,
              reason,
              text,
              effort: effortOf(fault, took),
            }),
          },
        }),
      )
    )
      onClose();
  };
  return (
    <Dialog title={ACTS[kind]} onClose={onClose}>
      <Form name={ACTS[kind]} save={ACTS[kind]} onSave={send} onCancel={onClose} errors={errors} disabled={isLoading}>
        <h1>{ACTS[kind]}</h1>
        {(kind === 'planned' || kind === 'told') && (
          <Field label={kind === 'told' ? 'Who comes' : 'Technician'} error={errors.of('act.technician')}>
            {(id) => (
              <>
                <input
                  id={id}
                  className="box-field"
                  list="technicians"
                  value={technician}
                  onChange={(e) => setTechnician(e.target.value)}
                />
                <datalist id="technicians">
                  {names.map((n) => (
                    <option key={n} value={n} />
                  ))}
                </datalist>
              </>
            )}
          </Field>
        )}
        {kind === 'planned' && (
          <DateField label="Goes on" value={date} onChange={setDate} error={errors.of('act.date')} />
        )}
        {kind === 'paused' && (
          <SelectField
            label="Reason"
            value={reason}
            onChange={(v) => setReason(v as PauseReason)}
            options={order.pauses.map((p) => [
              p.reason,
              `${p.reason}${p.counts ? '' : ' (clocks run on: the service level does not allow it)'}`,
            ])}
          />
        )}
        {['paused', 'done', 'called off', 'note'].includes(kind) && (
          <Field
            label={
              kind === 'called off'
                ? 'Why'
                : kind === 'done'
                  ? 'What was done (may stay empty)'
                  : kind === 'note'
                    ? 'Note'
                    : 'More (may stay empty)'
            }
            error={errors.of('act.text') ?? errors.of('text')}
          >
            {(id) => (
              <textarea id={id} className="box-area" rows={3} value={text} onChange={(e) => setText(e.target.value)} />
            )}
          </Field>
        )}
        {kind === 'done' && order.kind === 'repair' && (
          <div className="grid grid-cols-4 gap-2">
            <TextField label="Fault, in a word" value={fault} onChange={setFault} error={errors.of('act.effort')} />
            <NumberField
              label="Labour, h"
              value={took.labour}
              onChange={(labour) => setTook({ ...took, labour })}
              min={0}
              step="any"
            />
            <NumberField
              label="Parts, EUR"
              value={took.parts}
              onChange={(parts) => setTook({ ...took, parts })}
              min={0}
              step="any"
            />
            <NumberField
              label="Other, EUR"
              value={took.other}
              onChange={(other) => setTook({ ...took, other })}
              min={0}
              step="any"
            />
          </div>
        )}
        <TimeOfEvent
          value={when}
          zone={zone}
          error={unread ?? errors.of('at')}
          onChange={(v) => {
            setTouched(true);
            setWhen(v);
          }}
        />
      </Form>
    </Dialog>
  );
}

export function ActButtons({ order, most }: { order: OrderPage; most?: number }) {
  const reader = useReader();
  const [kind, setKind] = useState<Kind | null>(null);
  if (!reader.may(recordAct)) return null;
  const offered = (order.offered as Kind[]).slice(0, most ?? 20);
  return (
    <>
      <div className="flex flex-wrap gap-2">
        {offered.map((k, i) => (
          <button key={k} className={i === 0 && k !== 'note' ? 'act-main' : 'act'} onClick={() => setKind(k)}>
            {NAMES[k]}
          </button>
        ))}
      </div>
      {kind && <ActDialog order={order} kind={kind} onClose={() => setKind(null)} />}
    </>
  );
}
