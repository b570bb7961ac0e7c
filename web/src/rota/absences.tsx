// Absences: who is away and who asks to be; entered by the office, asked for by oneself, agreed to or refused with a reason.
import { useState } from 'react';
import { Link } from 'react-router';
import { addAbsence, changeAbsence, readTechnicians, type AbsenceOut } from '#api/rota-people.ts';
import { ABSENCE_KINDS, type AbsenceKind } from '#core/rota/index.ts';
import { addDays, formatInstant, localDateAt, startOfDay, type Zone } from '#core/time/index.ts';
import { Choose, type Choice } from '../parts/choose.tsx';
import { newRequestKey, TextField } from '../parts/fields.tsx';
import { ErrorLine } from '../parts/problem.tsx';
import { WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { plural, sayDate, sayTime } from '../parts/words.ts';
import { useTechnicians } from '../setup/index.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { WireDayOrTime } from './day-or-time.tsx';
import { rotaApi } from './endpoints.ts';

const KIND_WORDS: Readonly<Record<AbsenceKind, string>> = { leave: 'Leave', sick: 'Sick', training: 'Training' };
const KINDS = ABSENCE_KINDS.map((k) => [k, KIND_WORDS[k]] as const);

/** "Tue 24 Nov 2026", "… to Wed …", with times where it is not whole days. */
function saySpan({ from, to, zone: text }: Pick<AbsenceOut, 'from' | 'to' | 'zone'>): string {
  const zone = text as Zone;
  const [first, end] = [localDateAt(zone, from), localDateAt(zone, to)];
  const isWhole = sayTime(from, zone) === '00:00' && sayTime(to, zone) === '00:00';
  const last = isWhole ? addDays(end, -1) : end;
  const time = isWhole ? '' : `, ${sayTime(from, zone)} to ${sayTime(to, zone)}`;
  return `${sayDate(first)}${last === first ? '' : ` to ${sayDate(last)}`}${time}`;
}

function Fields({ zone }: { zone: Zone }) {
  return (
    <>
      <WireSelect name="kind" label="Kind" options={KINDS} />
      <WireDayOrTime name="from" label="First day" zone={zone} isEnd={false} />
      <WireDayOrTime name="to" label="Last day" zone={zone} isEnd />
      <WireText name="text" label="Said with it" />
    </>
  );
}

function AddDialog({ isOffice, onClose }: { isOffice: boolean; onClose: () => void }) {
  const reader = useReader();
  const { data: session } = server.useReadSessionQuery();
  const [add] = rotaApi.useAddAbsenceMutation();
  const [who, setWho] = useState<Choice | null>(isOffice ? null : { id: reader.id, name: reader.name });
  const [requestKey] = useState(newRequestKey);
  const today = localDateAt(reader.zone, session?.now ?? (0 as never));
  const form = useWireForm(addAbsence, {
    ...{ requestKey, personId: isOffice ? 0 : reader.id, kind: isOffice ? 'sick' : 'leave', text: '' },
    from: formatInstant(startOfDay(reader.zone, today)),
    to: formatInstant(startOfDay(reader.zone, addDays(today, 1))),
  });
  const title = isOffice ? 'Enter an absence' : 'Ask for time off';
  return (
    <Dialog title={title} onClose={onClose}>
      <WireForm
        form={form}
        name={title}
        save={isOffice ? 'Enter it' : 'Ask for it'}
        send={(body) => add({ body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>{title}</h1>
        {isOffice && (
          <Wire<number> name="personId">
            {({ change, error }) => (
              <Choose
                label="Who"
                chosen={who}
                onChoose={(choice) => {
                  setWho(choice);
                  change(choice?.id ?? 0);
                }}
                useFind={useTechnicians}
                error={error}
              />
            )}
          </Wire>
        )}
        <Fields zone={reader.zone} />
      </WireForm>
    </Dialog>
  );
}

function ChangeDialog({ of, onClose }: { of: AbsenceOut; onClose: () => void }) {
  const [change] = rotaApi.useChangeAbsenceMutation();
  const form = useWireForm(changeAbsence, {
    ...{ version: of.version, kind: of.kind, from: formatInstant(of.from), to: formatInstant(of.to), text: of.text },
  });
  return (
    <Dialog title="Change the absence" onClose={onClose}>
      <WireForm
        form={form}
        name="Change the absence"
        save="Keep it"
        send={(body, seen) => change({ params: { id: String(of.id) }, body: { ...body, version: seen ?? of.version } })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>{of.person.name}</h1>
        <Fields zone={of.zone as Zone} />
      </WireForm>
    </Dialog>
  );
}

function RefuseDialog({ of, onClose }: { of: AbsenceOut; onClose: () => void }) {
  const [decide, { error }] = rotaApi.useDecideAbsenceMutation();
  const [text, setText] = useState('');
  const refuse = async (): Promise<void> => {
    const answer = await decide({ params: { id: String(of.id) }, body: { version: of.version, agreed: false, text } });
    if (!('error' in answer)) onClose();
  };
  return (
    <Dialog title="Refuse the absence" onClose={onClose}>
      <h1>Refuse what {of.person.name} asks for?</h1>
      <p className="quiet">{saySpan(of)}</p>
      <TextField className="mt-3" label="Why, as they will read it" value={text} onChange={setText} />
      <ErrorLine error={error} />
      <div className="form-acts mt-4">
        <button className="act-main" onClick={() => void refuse()}>
          Refuse it
        </button>
        <button className="act" onClick={onClose}>
          Not now
        </button>
      </div>
    </Dialog>
  );
}

type Doing = { readonly what: 'add' } | { readonly what: 'change' | 'refuse'; readonly of: AbsenceOut } | null;

function Row({ of, set }: { of: AbsenceOut; set: (doing: Doing) => void }) {
  const [decide, decided] = rotaApi.useDecideAbsenceMutation();
  const [remove, removed] = rotaApi.useRemoveAbsenceMutation();
  const params = { id: String(of.id) };
  return (
    <tr>
      <td className="font-semibold">{of.person.name}</td>
      <td>{KIND_WORDS[of.kind]}</td>
      <td className="tabular-nums">{saySpan(of)}</td>
      <td>
        {of.state === 'asked' ? 'asked for' : of.state}
        {of.decidedBy && <span className="quiet"> by {of.decidedBy}</span>}
        {of.decidedText && <span className="quiet block">{of.decidedText}</span>}
      </td>
      <td>
        {of.appointments > 0 && of.state !== 'refused' ? (
          <Link className="link-ink text-short" to={`/rota?from=${localDateAt(of.zone as Zone, of.from)}`}>
            {plural(of.appointments, 'appointment')} to give to others
          </Link>
        ) : (
          <span className="quiet">{of.text}</span>
        )}
      </td>
      <td className="space-x-3 text-right whitespace-nowrap">
        {of.mayDecide && (
          <>
            <button
              className="link-ink"
              onClick={() => void decide({ params, body: { version: of.version, agreed: true, text: '' } })}
            >
              Agree
            </button>
            <button className="link-ink" onClick={() => set({ what: 'refuse', of })}>
              Refuse…
            </button>
          </>
        )}
        {of.mayChange && (
          <>
            <button className="link-ink" onClick={() => set({ what: 'change', of })}>
              Change…
            </button>
            <button className="link-ink" onClick={() => void remove({ params, body: { version: of.version } })}>
              Take back
            </button>
          </>
        )}
        <ErrorLine error={decided.error ?? removed.error} />
      </td>
    </tr>
  );
}

export function AbsencesRoom() {
  const isOffice = useReader().may(readTechnicians);
  const { data, error } = rotaApi.useListAbsencesQuery({ query: {} });
  const [doing, setDoing] = useState<Doing>(null);
  const close = (): void => setDoing(null);
  return (
    <div className="max-w-6xl px-7 pt-5 pb-12">
      <Link className="link-ink" to="/rota">
        ‹ Rota
      </Link>
      <div className="mt-1 flex items-baseline gap-5">
        <h1>Absences</h1>
        <button className="act" onClick={() => setDoing({ what: 'add' })}>
          {isOffice ? 'Enter an absence…' : 'Ask for time off…'}
        </button>
      </div>
      {error && <ErrorLine error={error} />}
      {data && data.items.length === 0 && (
        <p className="mt-4">
          {isOffice ? 'Nobody is away, and nobody asks to be.' : 'You asked for no time off from today on.'}
        </p>
      )}
      {data && data.items.length > 0 && (
        <table className="dense mt-4">
          <thead>
            <tr>
              <th>Who</th>
              <th>Kind</th>
              <th>When</th>
              <th>Stands</th>
              <th>Beside</th>
              <th>
                <span className="sr-only">Acts</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {data.items.map((of) => (
              <Row key={of.id} of={of} set={setDoing} />
            ))}
          </tbody>
        </table>
      )}
      {data?.more && <p className="quiet mt-2">There are more; they come later than these.</p>}
      {doing?.what === 'add' && <AddDialog isOffice={isOffice} onClose={close} />}
      {doing?.what === 'change' && <ChangeDialog of={doing.of} onClose={close} />}
      {doing?.what === 'refuse' && <RefuseDialog of={doing.of} onClose={close} />}
    </div>
  );
}
