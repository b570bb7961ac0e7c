// The outbox: what left the house or could not, each to be read, and the words messages are said in.
import { useState } from 'react';
import { Link } from 'react-router';
import { changeTemplate, sendAgain } from '#api/outbox.ts';
import type { SentOut } from '#api/outbox.ts';
import type { Instant } from '#core/time/index.ts';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { Tabs } from '../parts/tabs.tsx';
import { sayMoment } from '../parts/words.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { outboxApi } from './endpoints.ts';
import { Templates } from './templates.tsx';

const WAYS = { mail: 'mail', message: 'text message', push: 'push' } as const;

function Message({ message, now }: { message: SentOut; now: Instant }) {
  const reader = useReader();
  const [again] = outboxApi.useSendAgainMutation();
  const { errors, submit } = useSubmit([]);
  return (
    <article aria-label="Message" className="min-w-0 flex-1 border border-hairline bg-base-100 px-6 py-5">
      <p className="quiet">
        By {WAYS[message.way]} to {message.toName}, <span className="serial">{message.address}</span>
      </p>
      <h2 className="mt-1">{message.subject}</h2>
      <p className="mt-3 max-w-prose whitespace-pre-wrap">{message.body}</p>
      <p className="quiet mt-4">
        {message.state === 'sent' && message.sentAt !== null
          ? `Sent ${sayMoment(message.sentAt, now, reader.zone)}. The gateway said: ${message.receipt ?? ''}`
          : message.state === 'waiting'
            ? `Written ${sayMoment(message.createdAt, now, reader.zone)}, about to be sent.`
            : ''}
      </p>
      {message.state === 'dead' && (
        <p className="mt-2 text-missed">
          ✕ Not sent: {message.problem}{' '}
          {reader.may(sendAgain) && (
            <button className="link-ink" onClick={() => void submit(again({ params: { id: String(message.id) } }))}>
              send again
            </button>
          )}
        </p>
      )}
      <GeneralError errors={errors} />
      {message.about.subject === 'agreement' && (
        <p className="mt-2">
          <Link className="link-ink" to={`/agreements/${message.about.id}`}>
            The agreement it is about
          </Link>
        </p>
      )}
    </article>
  );
}

function Sent() {
  const pages = usePages();
  const [chosen, setChosen] = useState<number | null>(null);
  const { zone } = useReader();
  const { after } = pages;
  const query = outboxApi.useListOutboxQuery({ query: after ? { after } : {} });
  return (
    <Waiting query={query}>
      {({ items, next, now }) => {
        const shown = items.find((m) => m.id === chosen) ?? items[0];
        return shown === undefined ? (
          <p className="quiet mt-3 border-y border-hairline py-4">
            Nothing has left the house yet. Whoever looks after an agreement is told a month before it renews by itself.
          </p>
        ) : (
          <div className="mt-3 flex items-start gap-5">
            <div className="w-[26rem] shrink-0">
              <ul className="border-t border-hairline">
                {items.map((m) => (
                  <li key={m.id}>
                    <button
                      aria-current={m.id === shown.id || undefined}
                      className={`w-full border-b border-hairline px-2 py-1.5 text-left ${m.id === shown.id ? 'bg-base-300' : ''}`}
                      onClick={() => setChosen(m.id)}
                    >
                      <span className="flex gap-3">
                        <span className="min-w-0 flex-1 truncate font-semibold">{m.toName}</span>
                        <span className={`shrink-0 ${m.state === 'dead' ? 'text-missed' : 'quiet'}`}>
                          {m.state === 'dead' ? '✕ not sent' : sayMoment(m.sentAt ?? m.createdAt, now, zone)}
                        </span>
                      </span>
                      <span className="block truncate">{m.subject}</span>
                    </button>
                  </li>
                ))}
              </ul>
              <Pager pages={pages} next={next} words={['Newer', 'Older']} />
            </div>
            <Message key={shown.id} message={shown} now={now} />
          </div>
        );
      }}
    </Waiting>
  );
}

const PARTS = [
  ['sent', 'What left'],
  ['words', 'Words of messages'],
] as const;
type Part = (typeof PARTS)[number][0];

export function Outbox() {
  const [part, setPart] = useState<Part>('sent');
  const mayWrite = useReader().may(changeTemplate);
  return (
    <Tabs label="Parts of the outbox" tabs={PARTS} chosen={part} onChoose={setPart}>
      {part === 'sent' ? <Sent /> : <Templates mayWrite={mayWrite} />}
    </Tabs>
  );
}
