// What somebody says to an appointment before they are there: yes, or why not; and that they come later.
import { useState } from 'react';
import { useParams } from 'react-router';
import type { FieldAppointment } from '#api/field.ts';
import { instant, MINUTE } from '#core/time/index.ts';
import { sayTime } from '../parts/words.ts';
import { NotHeld, Refused, useDoing } from './doing.tsx';
import { useHeld, zoneOf } from './held.ts';
import { Typed } from './typed.tsx';

const LATER = [10, 15, 30, 45, 60, 90] as const;

function useAppointment(): FieldAppointment | undefined {
  const { id } = useParams();
  return useHeld().days?.appointments.find((a) => a.id === Number(id));
}

export function LatePage() {
  const zone = zoneOf(useHeld());
  const of = useAppointment();
  const { refusals, act } = useDoing();
  const [minutes, setMinutes] = useState<number>(15);
  const [text, setText] = useState('');
  if (!of) return <NotHeld />;
  return (
    <>
      <main>
        <h1>Running late</h1>
        <div className="mt-2 flex flex-wrap gap-2" role="group" aria-label="Minutes">
          {LATER.map((m) => (
            <button key={m} className="plain" aria-pressed={m === minutes} onClick={() => setMinutes(m)}>
              {m} min
            </button>
          ))}
        </div>
        <p className="mt-3">The customer is told: at about {sayTime(instant(of.from + minutes * MINUTE), zone)}.</p>
        <Typed label="Why" value={text} change={setText} />
        <Refused refusals={refusals} />
      </main>
      <footer className="field-foot">
        <button
          className="wide"
          onClick={() => void act({ kind: 'late', appointmentId: of.id, minutes, text: text.trim() })}
        >
          Tell them
        </button>
      </footer>
    </>
  );
}

export function AnswerPage() {
  const zone = zoneOf(useHeld());
  const of = useAppointment();
  const { refusals, act } = useDoing();
  const [text, setText] = useState('');
  if (!of) return <NotHeld />;
  const answer = { kind: 'answer', appointmentId: of.id, version: of.version } as const;
  return (
    <>
      <main>
        <h1>
          {sayTime(of.from, zone)} to {sayTime(of.to, zone)}
        </h1>
        {of.told && (
          <p className="quiet">
            The customer expects us between {sayTime(of.told.from, zone)} and {sayTime(of.told.to, zone)}.
          </p>
        )}
        {of.with.length > 0 && <p>With {of.with.map((p) => p.name).join(', ')}</p>}
        <Typed label="Why not" value={text} change={setText} />
        <Refused refusals={refusals} />
      </main>
      <footer className="field-foot">
        <button className="wide" onClick={() => void act({ ...answer, accepted: true, text: '' })}>
          I take it
        </button>
        <button
          className="plain mt-2 w-full"
          onClick={() => void act({ ...answer, accepted: false, text: text.trim() })}
        >
          I cannot
        </button>
      </footer>
    </>
  );
}
