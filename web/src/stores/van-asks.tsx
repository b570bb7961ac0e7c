// What technicians ask for their vans: put in from a store that has it free, or declined with a reason they see on the phone.
import { useState } from 'react';
import { Link } from 'react-router';
import { declineVanAsk, sendVanAsk, type VanAskOut } from '#api/vans.ts';
import { sayAmount } from '#core/stores/index.ts';
import { newRequestKey } from '../parts/fields.tsx';
import { WireLongText, WireNumber, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { sayMoment } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { storesApi } from './endpoints.ts';
import { serialsIn } from './moving.tsx';
import { StoresParts } from './sections.tsx';

const sayAsk = ({ thousandths, part, van }: VanAskOut): string =>
  `${sayAmount(thousandths, part.unit)} ${part.name} for ${van.name}`;

type Sending = { fromId: number; thousandths: number; serials: string };

function SendDialog({ of, onClose }: { of: VanAskOut; onClose: () => void }) {
  const [send] = storesApi.useSendVanAskMutation();
  const [requestKey] = useState(newRequestKey);
  const [first] = of.from;
  const start: Sending = {
    fromId: first?.id ?? NaN,
    thousandths: Math.min(of.thousandths, first?.free ?? of.thousandths),
    serials: '',
  };
  const bodyOf = ({ serials, ...rest }: Sending) => ({ ...rest, requestKey, serials: serialsIn(serials) });
  const form = useWireForm(sendVanAsk, start, bodyOf);
  return (
    <Dialog title="Put into the van" onClose={onClose}>
      <WireForm
        form={form}
        name="Put into the van"
        save="Put it in"
        send={(typed) => send({ params: { id: String(of.id) }, body: bodyOf(typed) })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>{sayAsk(of)}</h1>
        <p className="quiet">It lies in the van at once; {of.who} sees on the phone that it is to be there.</p>
        <div className="mt-2 grid grid-cols-2 gap-3">
          <WireSelect
            name="fromId"
            label="From"
            options={of.from.map((f) => [f.id, `${f.name}, ${sayAmount(f.free, of.part.unit)} free`] as const)}
          />
          <WireNumber name="thousandths" label={`Quantity, ${of.part.unit}`} per={1000} min={0} step="any" />
        </div>
        {of.part.serialTracked && (
          <WireText name="serials" label="Serials" hint="One for each, with a space between." />
        )}
      </WireForm>
    </Dialog>
  );
}

function DeclineDialog({ of, onClose }: { of: VanAskOut; onClose: () => void }) {
  const [decline] = storesApi.useDeclineVanAskMutation();
  const form = useWireForm(declineVanAsk, { text: '' });
  return (
    <Dialog title="It does not go into the van" onClose={onClose}>
      <WireForm
        form={form}
        name="It does not go into the van"
        save="Tell them"
        send={(body) => decline({ params: { id: String(of.id) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>{sayAsk(of)}</h1>
        <WireLongText name="text" label="Why not" />
      </WireForm>
    </Dialog>
  );
}

function Row({ of, act }: { of: VanAskOut; act: (what: 'send' | 'decline') => void }) {
  const { zone } = useReader();
  const { data: session } = server.useReadSessionQuery();
  return (
    <tr className="align-top">
      <td className="whitespace-nowrap">
        {sayMoment(of.at, session?.now ?? of.at, zone)}
        <span className="quiet block">{of.who}</span>
      </td>
      <td>{of.van.name}</td>
      <td>
        {sayAmount(of.thousandths, of.part.unit)}{' '}
        <Link className="serial link-ink" to={`/stores/parts/${of.part.id}`}>
          {of.part.number}
        </Link>{' '}
        {of.part.name}
        {of.text && <span className="quiet block">{of.text}</span>}
      </td>
      <td>
        {of.from.length === 0 ? (
          <span className="text-short">▲ free nowhere</span>
        ) : (
          of.from
            .slice(0, 3)
            .map((f) => `${f.name} ${sayAmount(f.free, of.part.unit)}`)
            .join(', ')
        )}
      </td>
      <td className="text-right whitespace-nowrap">
        {of.from.length > 0 && (
          <button className="link-ink" aria-label={`Put in ${sayAsk(of)}`} onClick={() => act('send')}>
            put it in…
          </button>
        )}{' '}
        <button className="link-ink ml-3" aria-label={`Decline ${sayAsk(of)}`} onClick={() => act('decline')}>
          not this time…
        </button>
      </td>
    </tr>
  );
}

export function VanAsksRoom() {
  const query = storesApi.useListVanAsksQuery();
  const [asking, setAsking] = useState<{ readonly what: 'send' | 'decline'; readonly of: VanAskOut } | null>(null);
  const close = (): void => setAsking(null);
  return (
    <article className="px-7 pt-5 pb-10">
      <h1 className="mb-2">Asked for vans</h1>
      <StoresParts />
      <Waiting query={query}>
        {({ items, more }) =>
          items.length === 0 ? (
            <p className="mt-4">Nobody waits for a part for their van.</p>
          ) : (
            <>
              <table className="dense mt-2">
                <thead>
                  <tr>
                    <th>Asked</th>
                    <th>Van</th>
                    <th>What</th>
                    <th>Free at</th>
                    <th>
                      <span className="sr-only">Acts</span>
                    </th>
                  </tr>
                </thead>
                <tbody>
                  {items.map((of) => (
                    <Row key={of.id} of={of} act={(what) => setAsking({ what, of })} />
                  ))}
                </tbody>
              </table>
              {more && <p className="quiet mt-2">The first hundred are shown; more wait behind them.</p>}
            </>
          )
        }
      </Waiting>
      {asking?.what === 'send' && <SendDialog of={asking.of} onClose={close} />}
      {asking?.what === 'decline' && <DeclineDialog of={asking.of} onClose={close} />}
    </article>
  );
}
