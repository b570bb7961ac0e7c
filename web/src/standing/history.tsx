// How an order's clocks came to be what they are, act by act, with what was told late; and the correction of what was told wrongly.
import { useState } from 'react';
import { correctOrder, type ClockThen, type HistoryStep } from '#api/corrections.ts';
import { MANAGERS, type Role } from '#core/people.ts';
import { formatInstant, HOUR, sayLength, type Instant, type Zone } from '#core/time/index.ts';
import { ClocksBeside } from '../parts/clocks-beside.tsx';
import { newRequestKey } from '../parts/fields.tsx';
import { WireMoment, WireText, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { sayMoment } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { standingApi } from './endpoints.ts';
import { sayMonth } from './words.ts';

/** What is told so much later than it happened was told late. */
const LATE_MS = HOUR;

function sayThen(then: ClockThen | null, now: Instant, zone: Zone): string {
  if (then === null) return 'no promise';
  const due = then.dueAt === null ? '' : `, due ${sayMoment(then.dueAt, now, zone)}`;
  return `${then.state}${then.over > 0 ? ` by ${sayLength(then.over, 'as hours')}` : ''}${due}`;
}

function Step({ step, now, zone, correct }: { step: HistoryStep; now: Instant; zone: Zone; correct: () => void }) {
  const late = step.recordedAt - step.at;
  return (
    <tr>
      <td className="whitespace-nowrap">
        {step.corrected ? <s>{sayMoment(step.at, now, zone)}</s> : sayMoment(step.at, now, zone)}
        {step.corrected && (
          <span className="block">
            {step.corrected.to === null ? 'taken back' : sayMoment(step.corrected.to, now, zone)}
          </span>
        )}
      </td>
      <td>
        <span className="inline-block first-letter:uppercase">{step.text}</span>
        <span className="quiet block">
          {step.who ?? 'by itself'}, recorded {sayMoment(step.recordedAt, now, zone)}
          {late > LATE_MS && `, ${sayLength(late, 'as hours')} later`}
        </span>
      </td>
      <td>
        {step.effects.map((e) => (
          <span key={`${e.target} ${e.tag}`} className="block">
            {e.target} <span className="serial">{e.tag}</span>: {sayThen(e.before, now, zone)} →{' '}
            <span className={e.after?.state === 'missed' ? 'text-missed' : ''}>{sayThen(e.after, now, zone)}</span>
          </span>
        ))}
      </td>
      <td className="text-right print:hidden">
        {step.canCorrect && (
          <button className="link-ink min-h-[24px]" onClick={correct} aria-label={`Correct: ${step.text}`}>
            Correct…
          </button>
        )}
      </td>
    </tr>
  );
}

type Typed = { requestKey: string; to: string; takenBack: boolean; text: string };

function CorrectDialog({
  id,
  step,
  now,
  zone,
  onClose,
}: {
  id: string;
  step: HistoryStep;
  now: Instant;
  zone: Zone;
  onClose: () => void;
}) {
  const reader = useReader();
  const [correct] = standingApi.useCorrectOrderMutation();
  const [requestKey] = useState(newRequestKey);
  const from = formatInstant(step.corrected?.to ?? step.at);
  const start: Typed = { requestKey, to: from, takenBack: false, text: '' };
  const toOf = ({ takenBack, to }: Typed): string | null => (takenBack ? null : to);
  const bodyOf = (typed: Typed) => ({ requestKey, eventId: step.id, to: toOf(typed), text: typed.text });
  const form = useWireForm(correctOrder, start, (typed: Typed) => bodyOf(typed) as never);
  const to = toOf(form.watch());
  const isAnother = to !== from && to !== '';
  const preview = standingApi.usePreviewCorrectionQuery(
    { params: { id }, body: { eventId: step.id, to } },
    { skip: !isAnother },
  );
  const closed = isAnother ? (preview.data?.closedMonths ?? []) : [];
  const mayNot = closed.length > 0 && !(MANAGERS as readonly Role[]).includes(reader.role);
  return (
    <Dialog title="Correct" onClose={onClose} wide>
      <WireForm
        form={form}
        name="Correction"
        save="Correct it"
        send={(typed) => correct({ params: { id }, body: bodyOf(typed) })}
        onDone={onClose}
        onCancel={onClose}
        disabled={!isAnother || mayNot}
      >
        <h1>Correct “{step.text}”</h1>
        <p className="quiet">
          Told as {sayMoment(step.at, now, zone)}. What was told stays readable; everything that follows from it is
          worked out again.
        </p>
        <div className="mt-2 flex flex-wrap items-end gap-6">
          <fieldset disabled={to === null} className="min-w-64">
            <WireMoment name="to" zone={zone} />
          </fieldset>
          <WireTick name="takenBack" label="It never happened" />
        </div>
        <WireText name="text" label="Why" />
        {isAnother && preview.data && (
          <div className="mt-3 border-y border-hairline py-2" aria-live="polite">
            {closed.length > 0 && (
              <p className="mb-2">
                {closed.map(sayMonth).join(', ')} {closed.length === 1 ? 'is' : 'are'} closed:{' '}
                {mayNot ? 'a manager corrects it.' : 'its figures stay, and what differs is told beside them.'}
              </p>
            )}
            <ClocksBeside of={preview.data} now={now} />
          </div>
        )}
      </WireForm>
    </Dialog>
  );
}

export function ClockHistory({ id }: { id: string }) {
  const query = standingApi.useReadClockHistoryQuery({ params: { id } });
  const [correcting, setCorrecting] = useState<HistoryStep | null>(null);
  return (
    <Waiting query={query}>
      {({ items, now, zone }) => (
        <section className="mt-8" aria-label="Act by act">
          <h2>Act by act, as each was recorded</h2>
          <table className="dense w-full">
            <thead>
              <tr>
                <th className="w-36 text-left">Happened</th>
                <th className="text-left">What was told</th>
                <th className="text-left">What it made of the clocks</th>
                <th className="w-24 print:hidden">
                  <span className="sr-only">Correct</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {items.map((step) => (
                <Step key={step.id} {...{ step, now }} zone={zone as Zone} correct={() => setCorrecting(step)} />
              ))}
            </tbody>
          </table>
          {correcting && (
            <CorrectDialog {...{ id, now }} step={correcting} zone={zone as Zone} onClose={() => setCorrecting(null)} />
          )}
        </section>
      )}
    </Waiting>
  );
}
