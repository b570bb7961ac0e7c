// Recording what happened on an order: the acts its stage offers.
import { Link } from 'react-router';
import { Suspense, useState } from 'react';
import { changeOrder } from '#api/calls.ts';
import { recordAct } from '#api/orders.ts';
import type { OrderPage } from '#api/orders.ts';
import { isFinished } from '#core/orders/index.ts';
import { later, useAhead } from '../shell/later.ts';
import { useReader } from '../shell/reader.tsx';
import type { Kind } from './act-dialog.tsx';

const ActDialog = later(async () => (await import('./act-dialog.tsx')).ActDialog);

const ChangeDialog = later(async () => (await import('./change-dialog.tsx')).ChangeDialog);
const FollowUpDialog = later(async () => (await import('./follow-up-dialog.tsx')).FollowUpDialog);
const HandOver = later(async () => (await import('./hand-over.tsx')).HandOver);
const AddMachineDialog = later(async () => (await import('./follow-up-dialog.tsx')).AddMachineDialog);

const NAMES: Record<Kind, string> = {
  planned: 'Plan…',
  sent: 'Send to technician',
  told: 'Told the customer who comes…',
  arrived: 'On site…',
  paused: 'Pause…',
  resumed: 'Resume…',
  'worked around': 'Works for now…',
  restored: 'Back in use…',
  signed: 'Signed for…',
  done: 'Done…',
  'called off': 'Call off…',
  note: 'Note…',
};
/** What the office decides of an order, whatever its stage. */
type More = 'change' | 'add' | 'follow up' | 'hand over';

function MoreActs({ order, open }: { order: OrderPage; open: (what: More) => void }) {
  const isOpen = !isFinished(order.stage);
  const goesOn = order.lines.some((l) => !l.off && l.handedOn === null);
  const act = (what: More, word: string) => (
    <button key={what} className="link-ink" onClick={() => open(what)}>
      {word}
    </button>
  );
  return (
    <div className="mt-2 flex items-baseline gap-x-5">
      {isOpen && act('change', 'Priority, machine, cause…')}
      {order.stage === 'done' && order.lines.some((l) => l.visit === null && !l.off) && act('change', 'Another cause…')}
      {isOpen && act('add', 'Add a machine…')}
      {order.stage !== 'called off' &&
        goesOn &&
        (order.stage === 'on site' || order.stage === 'done') &&
        act('follow up', 'Follow up…')}
      {isOpen && act('hand over', 'Hand over…')}
      {isOpen && order.stage !== 'on site' && (
        <Link className="link-ink" to={`/rota?order=${order.id}`}>
          Who can go
        </Link>
      )}
      <Link className="link-ink" to={`/offers/new?order=${order.id}`}>
        Make an offer of it
      </Link>
    </div>
  );
}

type ActButtonsProps = {
  readonly order: OrderPage;
  /** At most so many, and nothing beside them. */
  readonly most?: number;
  readonly without?: readonly Kind[];
};

export function ActButtons({ order, most, without = [] }: ActButtonsProps) {
  const reader = useReader();
  const [kind, setKind] = useState<Kind | null>(null);
  const [more, setMore] = useState<More | null>(null);
  useAhead(ActDialog);
  if (!reader.may(recordAct)) return null;
  const offered = (order.offered as Kind[]).filter((k) => !without.includes(k)).slice(0, most ?? 20);
  return (
    <>
      <div className="flex flex-wrap gap-2">
        {offered.map((k, i) => (
          <button key={k} className={i === 0 && k !== 'note' ? 'act-main' : 'act'} onClick={() => setKind(k)}>
            {NAMES[k]}
          </button>
        ))}
      </div>
      {most === undefined && reader.may(changeOrder) && <MoreActs order={order} open={setMore} />}
      <Suspense>
        {more === 'change' && <ChangeDialog.Part order={order} onClose={() => setMore(null)} />}
        {more === 'add' && <AddMachineDialog.Part order={order} onClose={() => setMore(null)} />}
        {more === 'hand over' && <HandOver.Part order={order} onClose={() => setMore(null)} />}
        {more === 'follow up' && <FollowUpDialog.Part order={order} onClose={() => setMore(null)} />}
      </Suspense>
      <Suspense>{kind && <ActDialog.Part order={order} kind={kind} onClose={() => setKind(null)} />}</Suspense>
    </>
  );
}
