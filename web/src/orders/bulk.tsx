// One act on the ticked orders: what it would do, and which refuse it, is said before it is done.
import { useEffect, useState } from 'react';
import { actOnMany, type BulkEffect } from '#api/order-lists.ts';
import { orderNumber } from '#api/shapes.ts';
import { localDateAt } from '#core/time/index.ts';
import { newRequestKey } from '../parts/fields.tsx';
import { WireDate, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { plural } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { ordersApi } from './endpoints.ts';
import { TechnicianField } from './technician-field.tsx';

type Kind = 'planned' | 'sent' | 'called off' | 'note';
const WORDS: Readonly<Record<Kind, string>> = {
  planned: 'Plan…',
  sent: 'Send…',
  'called off': 'Call off…',
  note: 'Note…',
};
const TITLES: Readonly<Record<Kind, string>> = {
  planned: 'Plan the ticked orders',
  sent: 'Send the ticked orders',
  'called off': 'Call the ticked orders off',
  note: 'A note on the ticked orders',
};
const DOES: Readonly<Record<Kind, (n: string) => string>> = {
  planned: (n) => `Plan ${n}`,
  sent: (n) => `Send ${n}`,
  'called off': (n) => `Call ${n} off`,
  note: (n) => `Write it on ${n}`,
};

type Typed = { act: { technicianId: number | null; technician: string; date: string; text: string } };

function actOf(kind: Kind, { technicianId, date, text }: Typed['act']) {
  if (kind === 'planned') return { kind, technicianId: technicianId ?? NaN, date };
  return kind === 'sent' ? { kind } : { kind, text };
}

function Effect({ effect }: { effect: BulkEffect }) {
  return (
    <div className="border-y border-hairline py-2" aria-live="polite">
      <p>
        {plural(effect.done, 'order')} will take it
        {effect.refused.length > 0 ? `, ${effect.refused.length} will not:` : '.'}
      </p>
      <ul className="max-h-40 overflow-y-auto">
        {effect.refused.map((r) => (
          <li key={r.id} className="quiet">
            <span className="serial">{orderNumber(r.id)}</span> {r.title}: {r.reason}
          </li>
        ))}
      </ul>
    </div>
  );
}

function BulkDialog({
  ids,
  kind,
  today,
  onDone,
  onClose,
}: {
  ids: readonly number[];
  kind: Kind;
  today: string;
  onDone: () => void;
  onClose: () => void;
}) {
  const [act] = ordersApi.useActOnManyMutation();
  const [look, looked] = ordersApi.usePreviewManyMutation();
  const [requestKey] = useState(newRequestKey);
  const bodyOf = ({ act: typed }: Typed) => ({ requestKey, ids: [...ids], act: actOf(kind, typed) });
  const form = useWireForm(
    actOnMany,
    { act: { technicianId: null, technician: '', date: today, text: '' } },
    bodyOf as never,
  );
  const { act: typed } = form.watch() as Typed;
  const isReady =
    kind === 'sent' ||
    (kind === 'planned' ? typed.technicianId !== null && typed.date !== '' : typed.text.trim() !== '');
  const asked = JSON.stringify(actOf(kind, typed));
  useEffect(() => {
    if (!isReady) return;
    const timer = setTimeout(() => void look({ body: { ids: [...ids], act: JSON.parse(asked) as never } }), 200);
    return () => clearTimeout(timer);
  }, [asked, isReady, ids, look]);
  const effect = isReady && looked.data ? looked.data : null;
  return (
    <Dialog title={TITLES[kind]} onClose={onClose}>
      <WireForm
        form={form}
        name={TITLES[kind]}
        save={DOES[kind](effect ? plural(effect.done, 'order') : 'them')}
        send={(now) => act({ body: bodyOf(now) })}
        onDone={onDone}
        onCancel={onClose}
        disabled={effect === null || effect.done === 0}
      >
        <h1>{TITLES[kind]}</h1>
        {kind === 'planned' && (
          <>
            <TechnicianField label="Technician" anybody={false} />
            <WireDate name="act.date" label="Goes on" />
          </>
        )}
        {(kind === 'called off' || kind === 'note') && (
          <WireText name="act.text" label={kind === 'note' ? 'Note' : 'Why'} autoFocus />
        )}
        {effect && <Effect effect={effect} />}
      </WireForm>
    </Dialog>
  );
}

export function BulkActs({ ids, onDone }: { ids: readonly number[]; onDone: () => void }) {
  const reader = useReader();
  const { data: session } = server.useReadSessionQuery();
  const [kind, setKind] = useState<Kind | null>(null);
  return (
    <div className="flex flex-wrap items-center gap-x-3 border-t border-hairline bg-base-100 px-3 py-1.5">
      <strong className="font-semibold">{ids.length} ticked</strong>
      {(Object.keys(WORDS) as Kind[]).map((k) => (
        <button key={k} className="link-ink" onClick={() => setKind(k)}>
          {WORDS[k]}
        </button>
      ))}
      <button className="quiet link-ink" onClick={onDone}>
        none
      </button>
      {kind && session && (
        <BulkDialog
          ids={ids}
          kind={kind}
          today={localDateAt(reader.zone, session.now)}
          onDone={() => {
            setKind(null);
            onDone();
          }}
          onClose={() => setKind(null)}
        />
      )}
    </div>
  );
}
