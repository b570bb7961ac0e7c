// What goes back: old parts from the field, goods sent to a supplier or maker, and what came of it.
import { useState } from 'react';
import { Link } from 'react-router';
import { answerReturn, sendBack, takeOldPart, type ReturnOut } from '#api/returns.ts';
import { orderOfNumber } from '#api/shapes.ts';
import type { StoreOut } from '#api/stock.ts';
import { seesMoney } from '#core/people.ts';
import { sayAmount, type OLD_PARTS, type ReturnReason, type ReturnStage } from '#core/stores/index.ts';
import { newRequestKey } from '../parts/fields.tsx';
import { Pager, usePages } from '../parts/pager.tsx';
import { WireMoney, WireNumber, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { plural, sayMoment } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { ChoosePart, ChooseSupplier, type ChosenPart } from './choose.tsx';
import { WireStore } from './choose-store.tsx';
import { amountOf } from './counted.tsx';
import { storesApi } from './endpoints.ts';
import { EMPTY_LINE, movedOf, MoveLines, serialsIn, type MoveLine } from './moving.tsx';
import { StoresParts } from './sections.tsx';

const REASONS: Readonly<Record<ReturnReason, string>> = {
  'not needed': 'not needed',
  'wrong or broken': 'wrong or broken',
  core: 'old part, for its core',
  warranty: 'under warranty',
};
const STAGES: Readonly<Record<ReturnStage, string>> = {
  sent: 'no answer yet',
  credited: 'credited',
  replaced: 'replaced',
  refused: 'refused',
};

type Named = { readonly id: number; readonly name: string };
type Sending = {
  storeId: number;
  supplier: Named | null;
  reason: ReturnReason;
  reference: string;
  text: string;
  lines: MoveLine[];
};

function SendDialog({ stores, onClose }: { stores: readonly StoreOut[]; onClose: () => void }) {
  const [send] = storesApi.useSendBackMutation();
  const [requestKey] = useState(newRequestKey);
  const first = stores.find((s) => s.kind === 'quarantine') ?? stores[0];
  const start: Sending = {
    ...{ storeId: first?.id ?? NaN, supplier: null, reason: 'wrong or broken', reference: '', text: '' },
    lines: [EMPTY_LINE],
  };
  const bodyOf = ({ supplier, lines, ...rest }: Sending) =>
    ({ ...rest, requestKey, supplierId: supplier?.id ?? NaN, lines: lines.map(movedOf) }) as never;
  const form = useWireForm(sendBack, start, bodyOf);
  return (
    <Dialog title="Send back" onClose={onClose}>
      <WireForm
        form={form}
        name="Send back"
        save="Send back"
        send={(typed) => send({ body: bodyOf(typed) })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>Send back to a supplier</h1>
        <div className="mt-2 grid grid-cols-2 gap-3">
          <WireStore name="storeId" label="From" stores={stores} />
          <Wire<Named | null> name="supplier">
            {({ value, change, error }) => <ChooseSupplier chosen={value} onChoose={change} error={error} />}
          </Wire>
          <WireSelect
            name="reason"
            label="Why"
            options={(Object.keys(REASONS) as ReturnReason[]).map((r) => [r, REASONS[r]] as const)}
          />
          <WireText name="reference" label="Their number for it" />
        </div>
        <MoveLines kind="back" />
        <WireText name="text" label="Note" />
      </WireForm>
    </Dialog>
  );
}

type Old = {
  storeId: number;
  orderId: string;
  reason: (typeof OLD_PARTS)[number];
  partId: ChosenPart | null;
  thousandths: number;
  serials: string;
  text: string;
};
function OldDialog({ stores, onClose }: { stores: readonly StoreOut[]; onClose: () => void }) {
  const [take] = storesApi.useTakeOldPartMutation();
  const [requestKey] = useState(newRequestKey);
  const apart = stores.filter((s) => s.kind === 'quarantine');
  const start: Old = {
    ...{ storeId: apart[0]?.id ?? NaN, orderId: '', reason: 'core', partId: null, thousandths: 1000 },
    ...{ serials: '', text: '' },
  };
  const bodyOf = ({ orderId, partId, serials, ...rest }: Old) =>
    ({
      ...rest,
      requestKey,
      orderId: orderOfNumber(orderId) ?? NaN,
      partId: partId?.id ?? NaN,
      serials: serialsIn(serials),
    }) as never;
  const form = useWireForm(takeOldPart, start, bodyOf);
  const part = form.watch('partId')?.part;
  return (
    <Dialog title="An old part came back" onClose={onClose}>
      <WireForm
        form={form}
        name="An old part came back"
        save="Take it in"
        send={(typed) => take({ body: bodyOf(typed) })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>An old part came back</h1>
        <p className="quiet">It lies apart, worth nothing, until it goes to its maker.</p>
        <div className="mt-2 grid grid-cols-2 gap-3">
          <WireStore name="storeId" label="Into" stores={apart} />
          <WireText name="orderId" label="From order" hint="Its number, such as WO-11457." />
        </div>
        <Wire<ChosenPart | null> name="partId">
          {({ value, change, error }) => <ChoosePart chosen={value} onChoose={change} error={error} />}
        </Wire>
        <div className="grid grid-cols-2 gap-3">
          <WireNumber
            name="thousandths"
            label={part ? `Quantity, ${part.unit}` : 'Quantity'}
            per={1000}
            min={0}
            step="any"
          />
          <WireSelect
            name="reason"
            label="What for"
            options={[
              ['core', REASONS.core],
              ['warranty', REASONS.warranty],
            ]}
          />
        </div>
        {part?.serialTracked && <WireText name="serials" label="Serials" hint="One for each, with a space between." />}
        <WireText name="text" label="Note" />
      </WireForm>
    </Dialog>
  );
}

type Answering = { stage: Exclude<ReturnStage, 'sent'>; credit: number | null; text: string; serials: string };

function AnswerDialog({ of, onClose }: { of: ReturnOut; onClose: () => void }) {
  const isMoneySeen = seesMoney(useReader().role);
  const [answer] = storesApi.useAnswerReturnMutation();
  const start: Answering = { stage: isMoneySeen ? 'credited' : 'replaced', credit: null, text: '', serials: '' };
  const bodyOf = ({ serials, stage, credit, text }: Answering) => ({
    ...{ version: of.version, stage, text, credit: stage === 'credited' ? credit : null },
    serials: stage === 'replaced' ? serialsIn(serials) : [],
  });
  const form = useWireForm(answerReturn, start, bodyOf as never);
  const stage = form.watch('stage');
  const isTracked = of.lines.some((l) => l.part.serialTracked);
  const stages = (Object.keys(STAGES) as ReturnStage[]).filter(
    (s) => s !== 'sent' && (isMoneySeen || s !== 'credited'),
  );
  return (
    <Dialog title="What came of it" onClose={onClose}>
      <WireForm
        form={form}
        name="What came of it"
        save="Keep it"
        send={(typed: Answering) => answer({ params: { id: String(of.id) }, body: bodyOf(typed) })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>What {of.supplier.name} said</h1>
        <div className="mt-2 grid grid-cols-2 gap-3">
          <WireSelect name="stage" label="It was" options={stages.map((s) => [s, STAGES[s]] as const)} />
          {stage === 'credited' && <WireMoney name="credit" label="They give" currency="EUR" />}
        </div>
        {stage === 'replaced' && (
          <p className="quiet">What came in its place lies in {of.store.name} at the worth that left.</p>
        )}
        {stage === 'replaced' && isTracked && (
          <WireText name="serials" label="New serials" hint="In the order of what went, with a space between." />
        )}
        <WireText name="text" label="Note" />
      </WireForm>
    </Dialog>
  );
}

function Row({ of, answering }: { of: ReturnOut; answering: (() => void) | null }) {
  const { zone, role } = useReader();
  const { data: session } = server.useReadSessionQuery();
  return (
    <tr className="align-top">
      <td className="whitespace-nowrap">
        {sayMoment(of.sentAt, session?.now ?? of.sentAt, zone)}
        <span className="quiet block">{of.by}</span>
      </td>
      <td>
        {of.supplier.name}
        {of.reference && <span className="quiet block">{of.reference}</span>}
      </td>
      <td>
        {of.lines.map((l, i) => (
          <div key={`${l.part.id} ${i}`}>
            {sayAmount(l.thousandths, l.part.unit)}{' '}
            <Link className="serial link-ink" to={`/stores/parts/${l.part.id}`}>
              {l.part.number}
            </Link>{' '}
            {l.part.name}
            {l.serials.length > 0 && <span className="quiet"> {l.serials.join(', ')}</span>}
          </div>
        ))}
        <span className="quiet">
          from {of.store.name}, {[REASONS[of.reason], of.text].filter((x) => x).join(': ')}
        </span>
      </td>
      {seesMoney(role) && (
        <td className="num whitespace-nowrap">
          {amountOf(of.worth)}
          {of.credit !== null && <span className="quiet block">{amountOf(of.credit)} credited</span>}
          {of.variance !== null && of.variance !== 0 && (
            <span className="quiet block">
              {amountOf(Math.abs(of.variance))} {of.variance > 0 ? 'lost' : 'won'}
            </span>
          )}
        </td>
      )}
      <td>
        {of.stage === 'sent' ? <span className="text-short">▲ {STAGES.sent}</span> : STAGES[of.stage]}
        {of.answer && <span className="quiet block">{of.answer}</span>}
      </td>
      <td className="text-right whitespace-nowrap">
        {of.stage === 'sent' && answering && (
          <button className="link-ink" aria-label={`Say what came of ${of.supplier.name}’s`} onClick={answering}>
            what came of it…
          </button>
        )}
      </td>
    </tr>
  );
}

function Head() {
  const isMoneySeen = seesMoney(useReader().role);
  return (
    <thead>
      <tr>
        <th>Sent</th>
        <th>To</th>
        <th>What</th>
        {isMoneySeen && <th className="num">Worth, EUR</th>}
        <th>Stands</th>
        <th>
          <span className="sr-only">Acts</span>
        </th>
      </tr>
    </thead>
  );
}

export function ReturnsRoom() {
  const reader = useReader();
  const stores = storesApi.useListStoresQuery();
  const pages = usePages();
  const [isOpenOnly, setOpenOnly] = useState(false);
  const { after } = pages;
  const query = storesApi.useListReturnsQuery({
    query: { limit: '40', ...(isOpenOnly && { stage: 'sent' as const }), ...(after && { after }) },
  });
  const [asking, setAsking] = useState<'send' | 'old' | ReturnOut | null>(null);
  const close = () => setAsking(null);
  const inUse = (stores.data?.items ?? []).filter((s) => !s.retired);
  const may = reader.may(sendBack);
  return (
    <article className="px-7 pt-5 pb-10">
      <h1 className="mb-2">Returns</h1>
      <StoresParts />
      <div className="mt-3 flex flex-wrap items-center gap-3">
        {may && (
          <>
            <button className="act-main" onClick={() => setAsking('send')}>
              Send back…
            </button>
            {inUse.some((s) => s.kind === 'quarantine') && (
              <button className="act" onClick={() => setAsking('old')}>
                An old part came back…
              </button>
            )}
          </>
        )}
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="box-tick"
            checked={isOpenOnly}
            onChange={(e) => {
              pages.begin();
              setOpenOnly(e.target.checked);
            }}
          />
          without an answer only
        </label>
      </div>
      <Waiting query={query}>
        {({ items, open, next }) =>
          items.length === 0 ? (
            <p className="quiet mt-3">
              {isOpenOnly ? 'Everything that was sent back has its answer.' : 'Nothing was sent back yet.'}
            </p>
          ) : (
            <>
              <p className="quiet mt-3">{plural(open, 'return')} without an answer.</p>
              <table className="dense mt-2">
                <Head />
                <tbody>
                  {items.map((r) => (
                    <Row key={r.id} of={r} answering={may ? () => setAsking(r) : null} />
                  ))}
                </tbody>
              </table>
              <Pager pages={pages} next={next} words={['Newer', 'Older']} className="py-3" />
            </>
          )
        }
      </Waiting>
      {asking === 'send' && <SendDialog stores={inUse} onClose={close} />}
      {asking === 'old' && <OldDialog stores={inUse} onClose={close} />}
      {asking !== null && typeof asking === 'object' && <AnswerDialog of={asking} onClose={close} />}
    </article>
  );
}
