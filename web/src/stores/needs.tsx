// The parts an order needs: what is held and where, what is open, where more of it lies; asked for, held elsewhere, or gone without.
import { useState } from 'react';
import { Link } from 'react-router';
import { goAnyway, holdForNeed, setNeed, type NeedOut } from '#api/needs.ts';
import { purchaseNumber } from '#api/purchases.ts';
import { sayAmount, sayQuantity } from '#core/stores/index.ts';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { WireNumber, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { sayDate } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { ChoosePart, type ChosenPart } from './choose.tsx';
import { storesApi } from './endpoints.ts';

type Line = { readonly lineId: number; readonly tag: string };
type Typed = { partId: ChosenPart | null; lineId: number; thousandths: number; version: number };

function NeedDialog({
  orderId,
  lines,
  need,
  needs,
  onClose,
}: {
  orderId: number;
  lines: readonly Line[];
  /** Null: one more. */
  need: NeedOut | null;
  needs: readonly NeedOut[];
  onClose: () => void;
}) {
  const [set] = storesApi.useSetNeedMutation();
  const start: Typed = {
    ...{ partId: null, lineId: need?.lineId ?? lines[0]?.lineId ?? NaN },
    ...{ thousandths: need?.wanted ?? 1000, version: need?.version ?? 0 },
  };
  // Of what the machine needs already there is more or less now; what is none is refused at its field.
  const bodyOf = ({ partId, lineId, thousandths, version }: Typed) => {
    const id = need?.part.id ?? partId?.id ?? NaN;
    const there = needs.find((n) => n.lineId === lineId && n.part.id === id);
    return { lineId, partId: id, thousandths, version: need ? version : (there?.version ?? 0) };
  };
  const form = useWireForm(setNeed, start, bodyOf);
  const unit = need?.part.unit ?? form.watch('partId')?.part.unit;
  const title = need ? 'Change what is needed' : 'Part needed';
  return (
    <Dialog title={title} onClose={onClose}>
      <WireForm
        form={form}
        name={title}
        save="Keep it"
        send={(typed) => set({ params: { id: String(orderId) }, body: bodyOf(typed) })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>
          {need ? (
            <>
              <span className="serial">{need.part.number}</span> {need.part.name}
            </>
          ) : (
            title
          )}
        </h1>
        {!need && (
          <Wire<ChosenPart | null> name="partId">
            {({ value, change, error }) => <ChoosePart chosen={value} onChoose={change} error={error} />}
          </Wire>
        )}
        <WireNumber
          name="thousandths"
          label={unit ? `Quantity, ${unit}` : 'Quantity'}
          per={1000}
          min={0}
          step="any"
          {...(need && { hint: '0: it is not needed.' })}
        />
        {!need && lines.length > 1 && (
          <WireSelect name="lineId" label="For" options={lines.map((l) => [l.lineId, l.tag] as const)} />
        )}
      </WireForm>
    </Dialog>
  );
}

function WithoutDialog({ need, onClose }: { need: NeedOut; onClose: () => void }) {
  const [go] = storesApi.useGoAnywayMutation();
  const form = useWireForm(goAnyway, { reason: need.anyway?.reason ?? '', version: need.version });
  return (
    <Dialog title="Go without it" onClose={onClose}>
      <WireForm
        form={form}
        name="Go without it"
        save="Keep it"
        send={(body) => go({ params: { id: String(need.id) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>
          Go without <span className="serial">{need.part.number}</span> {need.part.name}
        </h1>
        <p className="quiet">The order is planned although {sayQuantity(need.open)} is open.</p>
        <WireText name="reason" label="Why" autoFocus hint="Empty: it is waited for." />
      </WireForm>
    </Dialog>
  );
}

function Where({ need, may, mayHold }: { need: NeedOut; may: boolean; mayHold: boolean }) {
  const [hold] = storesApi.useHoldForNeedMutation();
  const [instead] = storesApi.useTakeInsteadMutation();
  const { errors, submit } = useSubmit([]);
  const set = (store: number, thousandths: number) =>
    void submit(
      hold({ params: { id: String(need.id), store: String(store) }, body: { thousandths, version: need.version } }),
    );
  const take = (partId: number) =>
    void submit(instead({ params: { id: String(need.id) }, body: { partId: partId, version: need.version } }));
  const heldAt = (id: number): number => need.holds.find((h) => h.store.id === id)?.thousandths ?? 0;
  return (
    <>
      {need.holds.map((h) => (
        <div key={h.store.id}>
          {sayQuantity(h.thousandths)} held in {h.store.name}
          {h.bin && <span className="quiet">, {h.bin}</span>}{' '}
          {mayHold && (
            <button
              className="link-ink"
              aria-label={`Let go of ${need.part.name} in ${h.store.name}`}
              onClick={() => set(h.store.id, 0)}
            >
              let go
            </button>
          )}
        </div>
      ))}
      {need.free.map((f) => (
        <div key={f.store.id} className="quiet">
          {sayQuantity(f.thousandths)} free in {f.store.name}
          {f.km !== null && `, ${f.km} km away`}{' '}
          {mayHold && f.kind !== 'quarantine' && (
            <button
              className="link-ink"
              aria-label={`Hold ${need.part.name} in ${f.store.name}`}
              onClick={() => set(f.store.id, heldAt(f.store.id) + Math.min(f.thousandths, need.open))}
            >
              hold there
            </button>
          )}
        </div>
      ))}
      {may &&
        need.instead.map((o) => (
          <div key={o.id} className="quiet">
            {sayQuantity(o.free)} free of <span className="serial">{o.number}</span> {o.name}, which stands in for it{' '}
            <button className="link-ink" aria-label={`Take ${o.number} instead`} onClick={() => take(o.id)}>
              take it instead
            </button>
          </div>
        ))}
      {need.ordered.map((o) => (
        <div key={o.purchaseId}>
          {sayQuantity(o.thousandths)} ordered{o.promisedOn !== null && `, here on ${sayDate(o.promisedOn)}`}{' '}
          <Link className="serial link-ink" to={`/stores/purchases/${o.purchaseId}`}>
            {purchaseNumber(o.purchaseId)}
          </Link>
        </div>
      ))}
      <GeneralError errors={errors} />
    </>
  );
}

function State({ need }: { need: NeedOut }) {
  if (need.notPicked !== null && need.held > 0) return <span>not picked: {need.notPicked}</span>;
  if (need.open > 0)
    return need.anyway ? (
      <span title={need.anyway.by ? `${need.anyway.by} decided so.` : undefined}>
        without {sayQuantity(need.open)}: {need.anyway.reason}
      </span>
    ) : (
      <span className="text-short whitespace-nowrap">▲ {sayQuantity(need.open)} open</span>
    );
  return <span className="quiet">{need.used >= need.wanted ? 'used' : 'there'}</span>;
}

function NeedRow({
  need: n,
  several,
  may,
  mayHold,
  change,
  goWithout,
}: {
  need: NeedOut;
  /** The order has several machines. */
  several: boolean;
  may: boolean;
  mayHold: boolean;
  change: () => void;
  goWithout: (() => void) | null;
}) {
  return (
    <tr className="align-top">
      <td className="serial whitespace-nowrap">
        <Link className="link-ink" to={`/stores/parts/${n.part.id}`}>
          {n.part.number}
        </Link>
      </td>
      <td>{n.part.name}</td>
      {several && <td className="serial">{n.tag}</td>}
      <td className="num whitespace-nowrap">{sayAmount(n.wanted, n.part.unit)}</td>
      <td>
        <State need={n} />
      </td>
      <td>
        <Where need={n} may={may} mayHold={mayHold} />
      </td>
      {may && (
        <td className="text-right whitespace-nowrap">
          <button className="link-ink" aria-label={`Change the need of ${n.part.name}`} onClick={change}>
            change…
          </button>
          {n.open > 0 && goWithout && (
            <>
              {' '}
              <button className="link-ink" aria-label={`Go without ${n.part.name}`} onClick={goWithout}>
                go without…
              </button>
            </>
          )}
        </td>
      )}
    </tr>
  );
}

export function PartsNeeded({ orderId, lines, open }: { orderId: number; lines: readonly Line[]; open: boolean }) {
  const reader = useReader();
  const { data } = storesApi.useReadNeedsQuery({ params: { id: String(orderId) } });
  const [asking, setAsking] = useState<'new' | NeedOut | null>(null);
  const [without, setWithout] = useState<NeedOut | null>(null);
  const may = open && reader.may(setNeed);
  if (!data || (data.needs.length === 0 && !may)) return null;
  return (
    <section>
      <h2 className="flex items-baseline gap-4">
        Parts needed
        {may && (
          <button className="link-ink font-normal" onClick={() => setAsking('new')}>
            part needed…
          </button>
        )}
      </h2>
      {data.needs.length === 0 ? (
        <p className="quiet">Nothing is asked for. What is asked for here is held, or bought, before somebody goes.</p>
      ) : (
        <table className="dense">
          <tbody>
            {data.needs.map((n) => (
              <NeedRow
                key={n.id}
                need={n}
                several={lines.length > 1}
                mayHold={!data.over && reader.may(holdForNeed)}
                may={may}
                change={() => setAsking(n)}
                goWithout={reader.may(goAnyway) ? () => setWithout(n) : null}
              />
            ))}
          </tbody>
        </table>
      )}
      {asking !== null && (
        <NeedDialog
          orderId={orderId}
          lines={lines}
          need={asking === 'new' ? null : asking}
          needs={data.needs}
          onClose={() => setAsking(null)}
        />
      )}
      {without && <WithoutDialog need={without} onClose={() => setWithout(null)} />}
    </section>
  );
}
