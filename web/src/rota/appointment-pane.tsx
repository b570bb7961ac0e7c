// An appointment: what is done there, who goes, what the customer was told; moved, joined by others, or taken out.
import { Link } from 'react-router';
import { useState } from 'react';
import { bookAppointment, tellAppointment, type RotaAppointment } from '#api/rota.ts';
import { orderNumber } from '#api/shapes.ts';
import { formatInstant, instant, localDateAt, MINUTE, type Instant, type Zone } from '#core/time/index.ts';
import { CalledIn } from '../orders/index.ts';
import { Choose, type Choice } from '../parts/choose.tsx';
import { NumberField } from '../parts/fields.tsx';
import { StageMoon } from '../parts/stage-moon.tsx';
import { WireMoment, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { sayMoment, sayTime } from '../parts/words.ts';
import { useTechnicians } from '../setup/index.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import type { Acting } from './acting.ts';
import { missedBy, type Rota } from './days.ts';
import { rotaApi } from './endpoints.ts';
import { expectedToday, sayExpected } from './following.ts';

function Told({ of, onClose }: { of: RotaAppointment; onClose: () => void }) {
  const [tell] = rotaApi.useTellAppointmentMutation();
  const zone = of.zone as Zone;
  const from = of.told?.from ?? of.from;
  const form = useWireForm(tellAppointment, {
    version: of.version,
    told: { from: formatInstant(from), to: formatInstant(of.told?.to ?? instant(from + 60 * MINUTE)) },
    fixed: of.fixed,
  });
  return (
    <Dialog title="When the customer expects us" onClose={onClose}>
      <WireForm
        form={form}
        name="When the customer expects us"
        save="Keep it"
        send={(body) => tell({ params: { id: String(of.id) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>When the customer expects us</h1>
        <fieldset>
          <legend className="pt-2 font-semibold">From</legend>
          <WireMoment name="told.from" zone={zone} />
        </fieldset>
        <fieldset>
          <legend className="pt-2 font-semibold">Until</legend>
          <WireMoment name="told.to" zone={zone} />
        </fieldset>
        <WireTick name="fixed" label="A fixed time: nothing moves it by itself" />
      </WireForm>
    </Dialog>
  );
}

function Crew({ of, rota, acting }: { of: RotaAppointment; rota: Rota; acting: Acting }) {
  const [added, setAdded] = useState<Choice | null>(null);
  const day = localDateAt(of.zone as Zone, of.from);
  const { data: crews } = rotaApi.useListCrewsQuery({ query: { from: day } });
  const going = (crews?.items ?? []).filter(
    (c) => c.fromDay <= day && c.people.some((p) => !of.personIds.includes(p.id)),
  );
  const nameOf = (id: number): string => rota.people.find((p) => p.id === id)?.name ?? `Technician ${id}`;
  const set = async (people: readonly number[], text: string): Promise<void> => {
    const minutes = (of.to - of.from) / MINUTE;
    if (
      await acting.moveTo(of, { people, from: of.from, minutes }, text, {
        anyway: true,
        overlapReason: of.overlapReason,
      })
    )
      setAdded(null);
  };
  return (
    <section className="mt-3">
      <h2>Who goes</h2>
      <ul>
        {of.personIds.map((id, i) => (
          <li key={id} className="flex justify-between border-t border-hairline py-1">
            <span>
              {nameOf(id)} {i === 0 && of.personIds.length > 1 && <span className="quiet">leads</span>}
            </span>
            {of.personIds.length > 1 && (
              <button
                className="quiet link-ink"
                onClick={() =>
                  void set(
                    of.personIds.filter((x) => x !== id),
                    `${nameOf(id)} does not go`,
                  )
                }
              >
                does not go
              </button>
            )}
          </li>
        ))}
      </ul>
      <div className="flex items-end gap-2">
        <div className="flex-1">
          <Choose label="Somebody goes with them" chosen={added} onChoose={setAdded} useFind={useTechnicians} />
        </div>
        <button
          className="act"
          disabled={!added}
          onClick={() => added && void set([...of.personIds, added.id], `${added.name} goes as well`)}
        >
          Add
        </button>
      </div>
      {going.map((c) => (
        <button
          key={c.id}
          className="link-ink mt-1 block text-left"
          onClick={() =>
            void set(
              c.people.map((p) => p.id),
              `The crew ${c.name} goes`,
            )
          }
        >
          The crew {c.name} goes: {c.people.map((p) => p.name).join(', ')}
        </button>
      ))}
    </section>
  );
}

/** An order that is done there: what of its promises it misses, what is said of it by phone, and planning it once more. */
function Served({
  of,
  order: o,
  rota,
  onAgain,
}: {
  of: RotaAppointment;
  order: RotaAppointment['orders'][number];
  rota: Rota;
  onAgain: (() => void) | null;
}) {
  const goers = of.personIds.map((id) => ({ id, name: rota.people.find((p) => p.id === id)?.name ?? 'somebody' }));
  return (
    <li className="border-t border-hairline py-1.5">
      <p>
        <StageMoon stage={o.stage} size={13} />{' '}
        <Link className="link-ink font-semibold" to={`/orders/${o.orderId}`}>
          {o.title}
        </Link>{' '}
        <span className="serial quiet">{orderNumber(o.orderId)}</span>
      </p>
      <p className="quiet">{[o.tag, o.place, o.customer].filter(Boolean).join(' · ')}</p>
      {missedBy(o.clocks, of).map((m) => (
        <p key={m.target} className="text-missed">
          {m.target} missed by {m.minutes} min
        </p>
      ))}
      <CalledIn id={o.orderId} who={goers} day={localDateAt(of.zone as Zone, of.from)} />
      {onAgain && (
        <button className="quiet link-ink block text-left" onClick={onAgain}>
          Plan it once more: a return, or somebody else beside
        </button>
      )}
    </li>
  );
}

type Props = {
  readonly of: RotaAppointment;
  readonly rota: Rota;
  readonly now: Instant;
  readonly zone: Zone;
  readonly acting: Acting;
  readonly onCarry: () => void;
  readonly onAgain: (orderId: number) => void;
  readonly onGone: () => void;
};

export function AppointmentPane({ of, rota, now, zone, acting, onCarry, onAgain, onGone }: Props) {
  const mayPlan = useReader().may(bookAppointment);
  const [telling, setTelling] = useState(false);
  const expected = expectedToday(rota).get(of.id);
  const minutes = (of.to - of.from) / MINUTE;
  const [typed, setTyped] = useState(minutes);
  const resize = (): void => {
    const where = { people: of.personIds, from: of.from, minutes: typed };
    void acting.moveTo(of, where, `${typed} minutes now`, { anyway: true, overlapReason: of.overlapReason });
  };
  const takeOut = async (): Promise<void> => {
    if (await acting.out(of, 'Taken out of the rota', '')) onGone();
  };
  return (
    <>
      <header>
        <p className="quiet">Appointment{of.sent ? ' · sent' : ' · not sent yet'}</p>
        <h1 className="mt-0.5">
          {sayMoment(of.from, now, zone)} to {sayTime(of.to, zone)}
        </h1>
        <p className="quiet">
          {of.told
            ? `The customer was told ${sayMoment(of.told.from, now, of.zone as Zone)} to ${sayTime(of.told.to, of.zone as Zone)}${of.fixed ? ', fixed' : ''}`
            : 'The customer was told nothing yet'}
        </p>
        {expected && <p className="text-short">{sayExpected(of, expected, zone)}</p>}
        {of.late && (
          <p className="text-short">
            ▲ They said they come {of.late.minutes} min later{of.late.text && `: ${of.late.text}`}
          </p>
        )}
        {of.answers.map((a) => (
          <p key={a.personId} className={a.accepted ? 'quiet' : 'text-short'}>
            {rota.people.find((p) => p.id === a.personId)?.name ?? 'Somebody'}{' '}
            {a.accepted ? 'takes it' : `▲ does not take it: ${a.text}`}
          </p>
        ))}
        {of.overlapReason && <p className="quiet">Two at once: {of.overlapReason}</p>}
      </header>
      <ul className="mt-2">
        {of.orders.map((o) => (
          <Served key={o.orderId} of={of} order={o} rota={rota} onAgain={mayPlan ? () => onAgain(o.orderId) : null} />
        ))}
      </ul>
      {mayPlan && (
        <>
          <div className="form-acts mt-2">
            <button className="act" onClick={onCarry}>
              <kbd className="serial">m</kbd> Move by keys
            </button>
            <button className="act" onClick={() => setTelling(true)}>
              Told…
            </button>
            <button className="act" onClick={() => void takeOut()}>
              Take it out
            </button>
          </div>
          <div className="mt-2 flex items-end gap-2">
            <NumberField className="w-28" label="Minutes" value={typed} onChange={setTyped} min={5} step="5" />
            <button className="act" disabled={typed === minutes || Number.isNaN(typed)} onClick={resize}>
              Change its length
            </button>
          </div>
          <Crew of={of} rota={rota} acting={acting} />
        </>
      )}
      {telling && <Told of={of} onClose={() => setTelling(false)} />}
    </>
  );
}
