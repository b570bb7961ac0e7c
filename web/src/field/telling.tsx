// What the phone tells the office of where one is, and what the office tells the phone: both only as long as one wants it.
import { useEffect, useState } from 'react';
import { followPhone, leavePhone } from '#api/field.ts';
import { Refused, useDoing } from './doing.tsx';
import { useHeld, usePhone } from './held.ts';
import { canPush, followBy, leaveBy, pushAddress } from './phone/push.ts';
import { allowsPosition } from './phone/where.ts';

function Position() {
  const allows = allowsPosition(useHeld());
  const { refusals, act } = useDoing();
  return (
    <section aria-label="Where you are">
      <h2>Where you are</h2>
      <p className="quiet">
        {allows
          ? 'What you do at an order says where you were then: the office sees your last place of today. At no other time is it asked for.'
          : 'The office does not see where you are.'}
      </p>
      <button
        className="plain mt-2 w-full"
        onClick={() => void act({ kind: 'position allowed', allowed: !allows }, { stay: true })}
      >
        {allows ? 'Say it no more, and forget what was said' : 'Say where I am with what I do'}
      </button>
      <Refused refusals={refusals} />
    </section>
  );
}

function Push({ pushKey }: { pushKey: string }) {
  const phone = usePhone();
  const [address, setAddress] = useState<string | null>(null);
  const [why, setWhy] = useState('');
  useEffect(() => void pushAddress().then(setAddress), []);
  const follow = async (): Promise<void> => {
    const to = await followBy(pushKey);
    if ('why' in to) return setWhy(to.why);
    const said = await phone.tell(followPhone, { body: to });
    if (!said.ok) await leaveBy();
    setAddress(said.ok ? to.endpoint : null);
    setWhy(said.ok ? '' : said.problem.detail);
  };
  const leave = async (): Promise<void> => {
    const endpoint = await leaveBy();
    setAddress(null);
    if (endpoint !== null) await phone.tell(leavePhone, { body: { endpoint } });
  };
  return (
    <section aria-label="Being told">
      <h2>Being told</h2>
      <p className="quiet">
        {address === null
          ? 'New and changed appointments are seen when you open Field.'
          : 'This phone tells you of new and changed appointments, even while Field is closed.'}
      </p>
      <button className="plain mt-2 w-full" onClick={() => void (address === null ? follow() : leave())}>
        {address === null ? 'Tell me on this phone' : 'Tell me no more on this phone'}
      </button>
      {why !== '' && (
        <p role="alert" className="mt-2 text-missed">
          {why}
        </p>
      )}
    </section>
  );
}

export function Telling() {
  const { days } = useHeld();
  return (
    <>
      <Position />
      {days?.pushKey && canPush() && <Push pushKey={days.pushKey} />}
    </>
  );
}
