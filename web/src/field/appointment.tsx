// What somebody says to an appointment before they are there: yes, or why not; and that they come later.
import { useState } from 'react';
import { useParams } from 'react-router';
import type { FieldAppointment } from '#api/field.ts';
import { instant, localDateAt, MINUTE } from '#core/time/index.ts';
import { sayDateOfYear, sayTime } from '../parts/words.ts';
import { NotHeld, Refused, useDoing } from './doing.tsx';
import { useHeld, zoneOf } from './held.ts';
import { Asking, Typed, Words } from './typed.tsx';

const LATER = [10, 15, 30, 45, 60, 90] as const;

function useAppointment(): FieldAppointment | undefined {
  const { id } = useParams();
  return useHeld().days?.appointments.find((a) => a.id === Number(id));
}

/** What it is for, and where. */
function What({ of }: { of: FieldAppointment }) {
  const { orders } = useHeld();
  return of.orderIds.map((id) => {
    const page = orders.get(id)?.page;
    return (
      page && (
        <p key={id} className="mt-1">
          <span className="font-semibold">{page.title}</span>
          <span className="quiet block">
            {page.customer.name} · {page.lines[0]?.place}
          </span>
        </p>
      )
    );
  });
}

export function LatePage() {
  const zone = zoneOf(useHeld());
  const of = useAppointment();
  const { refusals, act } = useDoing();
  const [minutes, setMinutes] = useState<number>(15);
  const [text, setText] = useState('');
  if (!of) return <NotHeld />;
  return (
    <Asking
      title="Running late"
      keep={{
        text: 'Tell them',
        go: () => void act({ kind: 'late', appointmentId: of.id, minutes, text: text.trim() }),
      }}
    >
      <What of={of} />
      <Words
        label="Minutes"
        of={LATER}
        say={(m) => `${m} min`}
        isPressed={(m) => m === minutes}
        press={setMinutes}
        isWide
      />
      <p className="mt-3">The customer is told: at about {sayTime(instant(of.from + minutes * MINUTE), zone)}.</p>
      <Typed label="Why" value={text} change={setText} />
      <Refused refusals={refusals} />
    </Asking>
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
        <p className="quiet">{sayDateOfYear(localDateAt(zone, of.from))}</p>
        <What of={of} />
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
