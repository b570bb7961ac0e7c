// Somebody cannot go: all their appointments of the day are given to another at one go, after a look at what that breaks.
import { useState } from 'react';
import type { Replaced, RotaPerson } from '#api/rota.ts';
import type { LocalDate, Zone } from '#core/time/index.ts';
import { Choose, type Choice } from '../parts/choose.tsx';
import { ErrorLine } from '../parts/problem.tsx';
import { plural, sayDate, sayTime } from '../parts/words.ts';
import { useTechnicians } from '../setup/index.ts';
import { Dialog } from '../shell/dialog.tsx';
import { rotaApi } from './endpoints.ts';

function Looked({ of, zone }: { of: Replaced; zone: Zone }) {
  return (
    <ul className="mt-3">
      {of.items.map((i) => (
        <li key={i.appointmentId} className="flex justify-between gap-3 border-t border-hairline py-1.5">
          <span>
            <span className="tabular-nums">
              {sayTime(i.from, zone)} to {sayTime(i.to, zone)}
            </span>{' '}
            {i.titles.join(', ')}
          </span>
          <span className={i.moves ? 'quiet' : 'text-missed'}>
            {i.moves ? '' : 'stays: '}
            {i.against.length === 0
              ? 'nothing speaks against it'
              : [...new Set(i.against.map((r) => r.text))].join('; ')}
          </span>
        </li>
      ))}
    </ul>
  );
}

export function ReplaceDialog({
  person,
  date,
  onDone,
  onClose,
}: {
  person: RotaPerson;
  date: LocalDate;
  onDone: (text: string) => void;
  onClose: () => void;
}) {
  const [by, setBy] = useState<Choice | null>(null);
  const [replace, { data, error, isLoading }] = rotaApi.useReplacePersonMutation();
  const ask = (chosen: Choice, look: boolean) =>
    replace({ body: { person: person.id, by: chosen.id, date, look, anyway: true } });
  const choose = (chosen: Choice | null): void => {
    setBy(chosen);
    if (chosen) void ask(chosen, true);
  };
  const moving = data?.items.filter((i) => i.moves).length ?? 0;
  const give = async (chosen: Choice): Promise<void> => {
    const answer = await ask(chosen, false);
    if (answer.data)
      onDone(`${plural(answer.data.items.filter((i) => i.moves).length, 'appointment')} given to ${chosen.name}`);
  };
  return (
    <Dialog title={`Somebody else for ${person.name}`} onClose={onClose} wide>
      <h1>Somebody else for {person.name}</h1>
      <p className="quiet">All appointments of {sayDate(date)}. What cannot go over stays and is named.</p>
      <div className="mt-3 max-w-sm">
        <Choose label="Goes in their place" chosen={by} onChoose={choose} useFind={useTechnicians} />
      </div>
      {error && <ErrorLine error={error} />}
      {by && data && <Looked of={data} zone={person.zone as Zone} />}
      <div className="form-acts mt-4">
        <button className="act-main" disabled={!by || moving === 0 || isLoading} onClick={() => by && void give(by)}>
          {by ? `Give ${plural(moving, 'appointment')} to ${by.name}` : 'Choose somebody'}
        </button>
        <button className="act" onClick={onClose}>
          Leave it
        </button>
      </div>
    </Dialog>
  );
}
