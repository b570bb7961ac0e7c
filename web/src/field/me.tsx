// Oneself on the phone: how old what it holds is, how much room it takes, and signing out, which leaves nothing behind.
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { plural, sayBytes, sayTime } from '../parts/words.ts';
import { heardAtOf, useHeld, usePhone, zoneOf } from './held.ts';
import { Telling } from './telling.tsx';

function useRoom(): { usage: number; quota: number } | null {
  const [room, setRoom] = useState<{ usage: number; quota: number } | null>(null);
  useEffect(() => {
    void navigator.storage?.estimate?.().then(({ usage = 0, quota = 0 }) => setRoom({ usage, quota }));
  }, []);
  return room;
}

export function MePage() {
  const phone = usePhone();
  const navigate = useNavigate();
  const state = useHeld();
  const room = useRoom();
  const [isAsked, setAsked] = useState(false);
  const { owner, queue, orders } = state;
  const heardAt = heardAtOf(state);
  const leave = async (): Promise<void> => {
    if (await phone.signOut(isAsked)) void navigate('/');
    else setAsked(true);
  };
  return (
    <main>
      <h1>{owner?.name}</h1>
      <p className="quiet">{owner?.email}</p>
      <p className="row">
        On the phone: {plural(orders.size, 'order')}
        {heardAt !== null && `, as the office had it at ${sayTime(heardAt, zoneOf(state))}`}
      </p>
      {room && (
        <p className="row">
          Room taken: {sayBytes(room.usage)} of {sayBytes(room.quota)}
        </p>
      )}
      <Telling />
      {isAsked && (
        <p role="alert" className="mt-3 text-missed">
          ▲ {plural(queue.length, 'act')} {queue.length === 1 ? 'was' : 'were'} not sent. Signing out throws{' '}
          {queue.length === 1 ? 'it' : 'them'} away.
        </p>
      )}
      <button className="plain mt-4 w-full" onClick={() => void leave()}>
        {isAsked ? 'Sign out and throw them away' : 'Sign out'}
      </button>
      {isAsked && (
        <button className="wide mt-2" onClick={() => setAsked(false)}>
          Stay
        </button>
      )}
    </main>
  );
}
