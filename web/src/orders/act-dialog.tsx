// The dialog of one act on an order: what it asks for, and when it happened.
import { useState } from 'react';
import { recordAct } from '#api/orders.ts';
import type { ActIn, OrderPage } from '#api/orders.ts';
import { formatInstant, instant, type Zone } from '#core/time/index.ts';
import type { PauseReason } from '#core/service-levels/index.ts';
import { MANAGERS, mayCall } from '#core/people.ts';
import { newRequestKey } from '../parts/fields.tsx';
import { readWall, TimeOfEvent, UNREAD, wallText } from '../parts/time-of-event.tsx';
import { WireDate, WireLongText, WireNumber, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { ordersApi } from './endpoints.ts';
import { TechnicianField } from './technician-field.tsx';

/** Tasks, forms and machines are recorded where they stand; everything else is asked for in a dialog. */
export type Kind = Exclude<ActIn['kind'], 'task' | 'form' | 'line' | 'found'>;
const ACTS: Record<Kind, string> = {
  planned: 'Plan the order',
  sent: 'Send the order',
  told: 'Record: customer told who comes',
  arrived: 'Record: on site',
  paused: 'Pause the clocks',
  resumed: 'Resume',
  'worked around': 'Record: it works for now',
  restored: 'Record: back in use',
  signed: 'Record: signed for',
  done: 'Record: done',
  'called off': 'Call the order off',
  note: 'Add the note',
};

/** Everything any act asks for; each act takes its own part of it. `at` null: now. */
type Typed = {
  at: string | null;
  act: {
    technicianId: number | null;
    technician: string;
    date: string;
    reason: PauseReason;
    text: string;
    by: string;
    function: string;
    anyway: string;
    effort: {
      fault: string | null;
      labourMinutes: number | null;
      partsCost: number | null;
      otherCost: number | null;
    };
  };
};

function actOf(kind: Kind, typed: Typed['act']): ActIn {
  const { technicianId, technician, date, reason, text, anyway, effort } = typed;
  switch (kind) {
    case 'planned':
      // What is none is refused at its field.
      return { kind, technicianId: technicianId ?? NaN, date };
    case 'told':
      return { kind, technicianId, technician };
    case 'paused':
      return { kind, reason, text };
    case 'done':
      return {
        ...{ kind, text },
        ...(Object.values(effort).some((x) => x !== null) && { effort }),
        ...(anyway.trim() !== '' && { anyway }),
      };
    case 'signed':
      return { kind, by: typed.by, function: typed.function, text };
    case 'worked around':
    case 'called off':
    case 'note':
      return { kind, text };
    case 'sent':
    case 'arrived':
    case 'resumed':
    case 'restored':
      return { kind };
  }
}

const TEXT_LABELS: Partial<Record<Kind, string>> = {
  'called off': 'Why',
  'worked around': 'How it works for now',
  done: 'What was done (may stay empty)',
  note: 'Note',
  paused: 'More (may stay empty)',
  signed: 'Their remark, or why nobody signs',
};

function EffortFields() {
  return (
    <div className="grid grid-cols-4 gap-2">
      <WireText name="act.effort.fault" label="Fault, in a word" empty={null} />
      <LabourField />
      <WireNumber name="act.effort.partsCost" label="Parts, EUR" per={100} empty={null} min={0} step="any" />
      <WireNumber name="act.effort.otherCost" label="Other, EUR" per={100} empty={null} min={0} step="any" />
    </div>
  );
}

const LabourField = () => (
  <WireNumber name="act.effort.labourMinutes" label="Labour, h" per={60} empty={null} min={0} step="any" />
);

/** Of a repair: what nobody said to be back in use is so with the end of the work. */
function BackWithIt({ order: { kind, lines } }: { order: OrderPage }) {
  const back = lines.filter((l) => !l.off && l.left === null && l.handedOn === null && l.restoredAt === null);
  if (kind !== 'repair' || back.length === 0) return null;
  return (
    <p>
      Back in use with it: {back.map((l) => l.tag || 'the place').join(', ')}. Was it before, record that first; is it
      not, follow up.
    </p>
  );
}

/** When it happened; left alone it is now, to the second, a typed time counts by the minute. */
function WhenField({ order }: { order: OrderPage }) {
  const zone = order.zone as Zone;
  const [typed, setTyped] = useState(() => wallText(order.now, zone));
  return (
    <Wire<string | null> name="at">
      {({ change, error }) => (
        <TimeOfEvent
          value={typed}
          zone={zone}
          error={readWall(typed.date, typed.time, zone) === null ? UNREAD : error}
          onChange={(next) => {
            setTyped(next);
            const at = readWall(next.date, next.time, zone);
            change(at === null ? '' : formatInstant(at));
          }}
        />
      )}
    </Wire>
  );
}

/** A dialog left open for so long means the time of its sending, not of its opening. */
const OPEN_LONG_MS = 600_000;

export function ActDialog({ order, kind, onClose }: { order: OrderPage; kind: Kind; onClose: () => void }) {
  const [record] = ordersApi.useRecordActMutation();
  const [opened] = useState(() => ({ key: newRequestKey(), at: Date.now() }));
  const bodyOf = ({ at, act }: Typed) => {
    const open = Date.now() - opened.at;
    return {
      requestKey: opened.key,
      at: at ?? formatInstant(instant(order.now + (open > OPEN_LONG_MS ? open : 0))),
      act: actOf(kind, act),
    };
  };
  const start: Typed = {
    at: null,
    act: {
      // Somebody from outside is not planned for.
      technicianId: order.technicianId,
      technician: kind === 'planned' && order.technicianId === null ? '' : (order.technician ?? ''),
      date: order.plannedFor ?? wallText(order.now, order.zone as Zone).date,
      reason: order.pauses.find((p) => p.counts)?.reason ?? 'no access',
      ...{ text: '', anyway: '', by: '', function: '' },
      // What people entered, unless somebody says otherwise.
      effort: { fault: null, labourMinutes: order.worked, partsCost: null, otherCost: null },
    },
  };
  const form = useWireForm(recordAct, start, bodyOf);
  const textLabel = TEXT_LABELS[kind];
  const mayAnyway = mayCall(MANAGERS, useReader().role);
  return (
    <Dialog title={ACTS[kind]} onClose={onClose}>
      <WireForm
        form={form}
        name={ACTS[kind]}
        save={ACTS[kind]}
        send={(typed) => record({ params: { id: String(order.id) }, body: bodyOf(typed) })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>{ACTS[kind]}</h1>
        {(kind === 'planned' || kind === 'told') && (
          <TechnicianField label={kind === 'told' ? 'Who comes' : 'Technician'} anybody={kind === 'told'} />
        )}
        {kind === 'planned' && <WireDate name="act.date" label="Goes on" />}
        {kind === 'paused' && (
          <WireSelect
            name="act.reason"
            label="Reason"
            options={order.pauses.map(
              (p) =>
                [
                  p.reason,
                  `${p.reason}${p.counts ? '' : ' (clocks run on: the service level does not allow it)'}`,
                ] as const,
            )}
          />
        )}
        {kind === 'signed' && (
          <div className="grid grid-cols-2 gap-3">
            <WireText name="act.by" label="Who signed (empty: nobody)" />
            <WireText name="act.function" label="As what, such as shift lead" />
          </div>
        )}
        {textLabel && <WireLongText name="act.text" label={textLabel} />}
        {kind === 'done' && <BackWithIt order={order} />}
        {kind === 'done' && order.missing.length > 0 && <p>Missing: {order.missing.map((m) => m.text).join(', ')}.</p>}
        {kind === 'done' && order.missing.length > 0 && mayAnyway && (
          <WireText name="act.anyway" label="Why it is done although something is missing" />
        )}
        {kind === 'done' && (order.kind === 'repair' ? <EffortFields /> : <LabourField />)}
        <WhenField order={order} />
      </WireForm>
    </Dialog>
  );
}
