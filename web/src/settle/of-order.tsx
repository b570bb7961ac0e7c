// What an order comes to: time, travel, parts and other costs, who bears them; each figure with what is behind it.
import { useState } from 'react';
import { Link } from 'react-router';
import { group, sum } from 'd3-array';
import { addEntry } from '#api/labour.ts';
import { offerNumber } from '#api/offers.ts';
import { addCost, type OrderCharges } from '#api/settle.ts';
import { usePart } from '#api/stores.ts';
import { sayAmountOf } from '#core/money.ts';
import { localDateAt, type Zone } from '#core/time/index.ts';
import { sayDate, sayMinutes, sayTime } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { EntryDialog, RunningTime, type Line } from '../labour/index.ts';
import { settleApi } from './endpoints.ts';
import { Others } from './others.tsx';
import { Parts } from './parts.tsx';

type Charge = OrderCharges['charges'][number];
type Money = 'cost' | 'list' | 'borne' | 'discount' | 'pay';

const FIGURES: readonly (readonly [Money, string])[] = [
  ['cost', 'Cost'],
  ['list', 'List price'],
  ['borne', 'Borne'],
  ['discount', 'Discount'],
  ['pay', 'Customer'],
];

/** What the charges come to in these figures; a discount stands only where there is one. */
function figuresOf(charges: readonly Charge[]): typeof FIGURES {
  if (charges.every((c) => c.list === null)) return [];
  return FIGURES.filter(([figure]) => figure !== 'discount' || charges.some((c) => c.discount));
}

function Cells({ of, labour, figures }: { of: readonly Charge[]; labour: OrderCharges; figures: typeof FIGURES }) {
  const time = (what: 'minutes' | 'billed') => {
    const minutes = sum(of, (c) => c[what] ?? 0);
    return minutes === 0 ? '' : sayMinutes(minutes);
  };
  return (
    <>
      <td className="num">{time('minutes')}</td>
      <td className="num">{time('billed')}</td>
      {figures.map(([figure]) => (
        <td key={figure} className="num">
          {sayAmountOf(
            sum(of, (c) => c[figure] ?? 0),
            labour.currency,
          )}
        </td>
      ))}
    </>
  );
}

const keyOf = (c: Charge): string => `${c.person?.id} ${c.what} ${c.hours} ${c.salesRate} ${c.by} ${c.text}`;

/** A row for each person, kind and hours kind; machines that the same bears stand together. */
function Charges({ labour }: { labour: OrderCharges }) {
  const rows = [...group(labour.charges, keyOf).values()];
  const figures = figuresOf(labour.charges);
  const bearers = [...new Set(labour.charges.flatMap((c) => c.by ?? []))];
  return (
    <>
      <table className="dense mt-1 whitespace-nowrap">
        <thead>
          <tr>
            <th className="text-left">Who or what</th>
            <th className="text-left">Kind</th>
            <th className="num">Time</th>
            <th className="num">Billed</th>
            {figures.map(([figure, name]) => (
              <th key={figure} className="num">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((own) => {
            const [first] = own as [Charge];
            return (
              <tr key={keyOf(first)}>
                <td className="max-w-64 truncate" title={first.text ?? undefined}>
                  {first.person?.name ?? first.text}
                  {first.craft && <span className="quiet">, {first.craft}</span>}
                </td>
                <td>
                  {first.what}
                  {first.hours !== null && first.hours !== 'normal' && `, ${first.hours}`}
                </td>
                <Cells of={own} labour={labour} figures={figures} />
              </tr>
            );
          })}
        </tbody>
        {rows.length > 1 && (
          <tfoot>
            <tr className="border-t border-base-content font-semibold">
              <td colSpan={2}>In all</td>
              <Cells of={labour.charges} labour={labour} figures={figures} />
            </tr>
          </tfoot>
        )}
      </table>
      {figures.length > 0 && (
        <p className="quiet mt-1">
          In {labour.currency}, without tax.
          {bearers.length > 0 && ` Borne by ${bearers.join(', ')}.`}
        </p>
      )}
    </>
  );
}

/** The entries behind the figures. */
function Behind({ labour, zone }: { labour: OrderCharges; zone: Zone }) {
  return (
    <details className="mt-2">
      <summary className="cursor-pointer">The entries behind it</summary>
      <table className="dense mt-1">
        <tbody>
          {labour.entries.map((e) => (
            <tr key={`${e.id} ${e.lineId} ${e.minutes} ${e.day}`}>
              <td className="whitespace-nowrap">{sayDate(e.day)}</td>
              <td className="quiet whitespace-nowrap tabular-nums">
                {e.span && `${sayTime(e.span.from, zone)}–${sayTime(e.span.to, zone)}`}
              </td>
              <td>{e.person.name}</td>
              <td>{e.kind}</td>
              <td className="num">{sayMinutes(e.minutes)}</td>
              <td>{e.text}</td>
              <td className="quiet">{e.state}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}

/** The customer's amount with its tax, as an estimate; and what is left of it, for who may see that. */
function AfterTax({ of }: { of: OrderCharges }) {
  const { tax, margin, currency, internal } = of;
  if (internal) return <p>Internal: nobody is billed.</p>;
  return (
    <>
      {tax && tax.withTax !== 0 && (
        <p>
          The customer would pay{' '}
          <strong className="font-semibold">
            {currency} {sayAmountOf(tax.withTax, currency)}
          </strong>{' '}
          with tax{' '}
          <span className="quiet">
            ({tax.rows.map((r) => `${r.name} ${r.hundredths / 100} % ${sayAmountOf(r.tax, currency)}`).join(', ')})
          </span>
          .
        </p>
      )}
      {margin !== null && (
        <p className="quiet">
          The customer’s amount less what it cost us: {currency} {sayAmountOf(margin, currency)}.
        </p>
      )}
    </>
  );
}

/** What the customer was promised it costs, where an offer was accepted; and how far it is from that, once there is something. */
function Offered({ offered, begun }: { offered: NonNullable<OrderCharges['offered']>; begun: boolean }) {
  const { id, withoutTax, currency, beyond } = offered;
  const off =
    begun && beyond ? `${currency} ${sayAmountOf(Math.abs(beyond), currency)} ${beyond > 0 ? 'more' : 'less'}` : null;
  return (
    <p>
      Offered for{' '}
      <strong className="font-semibold">
        {currency} {sayAmountOf(withoutTax, currency)}
      </strong>{' '}
      without tax by{' '}
      <Link className="serial link-ink" to={`/offers/${id}`}>
        {offerNumber(id)}
      </Link>
      {off && <>; the customer’s amount is {off}</>}.
    </p>
  );
}

/** Whose time has no price, and why. */
function WithoutPrice({ of: { card, withoutRate, entries } }: { of: OrderCharges }) {
  return (
    <>
      {card === null && entries.length > 0 && (
        <p className="quiet">No rate card is the standard one: the time has no price yet.</p>
      )}
      {withoutRate.length > 0 && (
        <p className="mt-1">
          Without a rate: {[...new Set(withoutRate.map((w) => w.person))].join(', ')}. Give them a craft, and the craft
          a rate, in Setup.
        </p>
      )}
    </>
  );
}

const PAID = {
  asked: 'asked for, no answer yet',
  paid: 'paid',
  declined: 'declined',
  agreed: 'to be invoiced',
} as const;

/** What was paid, or said about paying, on site. */
function Payments({ of: { payments }, zone }: { of: OrderCharges; zone: Zone }) {
  if (payments.length === 0) return null;
  return (
    <section aria-label="Paid on site">
      <h3 className="mt-3 font-semibold">Paid on site</h3>
      <ul>
        {payments.map((p) => (
          <li key={p.id}>
            {p.way === 'card' && 'Card, '}
            {PAID[p.state]}
            {p.amount !== null && ` ${p.currency} ${sayAmountOf(p.amount, p.currency ?? 'EUR')}`}
            <span className="quiet">
              {' '}
              {sayTime(p.at, zone)}, {[p.who, p.receipt].filter((x) => x !== '').join(', ')}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

export function ComesTo({
  orderId,
  zone,
  lines,
  open,
}: {
  orderId: number;
  zone: Zone;
  lines: readonly Line[];
  open: boolean;
}) {
  const reader = useReader();
  const { data: charges } = settleApi.useReadChargesQuery({ params: { id: String(orderId) } });
  const { data: session } = server.useReadSessionQuery();
  const [adding, setAdding] = useState<'time' | 'part' | 'cost' | null>(null);
  const may = open && reader.may(addEntry);
  const isEmpty = charges?.charges.length === 0 && charges.entries.length === 0 && charges.parts.length === 0;
  if (!charges || (isEmpty && !may)) return null;
  const button = (what: 'time' | 'part' | 'cost', word: string) => (
    <button className="link-ink font-normal" onClick={() => setAdding(what)}>
      {word}
    </button>
  );
  const close = (): void => setAdding(null);
  return (
    <section>
      <h2 className="flex items-baseline gap-4">
        What it comes to
        {may && button('time', 'enter time…')}
        {may && <RunningTime lines={lines} />}
        {may && reader.may(usePart) && button('part', 'part used…')}
        {may && reader.may(addCost) && button('cost', 'other cost…')}
      </h2>
      {charges.offered && <Offered offered={charges.offered} begun={!isEmpty} />}
      {isEmpty ? (
        <p className="quiet">Nobody has entered time, a part or another cost yet.</p>
      ) : (
        <>
          {charges.charges.length > 0 && <Charges labour={charges} />}
          <AfterTax of={charges} />
          <WithoutPrice of={charges} />
        </>
      )}
      <Parts
        orderId={orderId}
        lines={lines}
        parts={charges.parts}
        may={may}
        adding={adding === 'part'}
        onClose={close}
      />
      <Others
        orderId={orderId}
        lines={lines}
        others={charges.others}
        currency={charges.currency}
        may={may}
        adding={adding === 'cost'}
        today={session ? localDateAt(reader.zone, session.now) : null}
        onClose={close}
      />
      <Payments of={charges} zone={zone} />
      {charges.entries.length > 0 && <Behind labour={charges} zone={zone} />}
      {adding === 'time' && session && (
        <EntryDialog
          personId={reader.id}
          day={localDateAt(reader.zone, session.now)}
          entry={null}
          lines={lines}
          onClose={close}
        />
      )}
    </section>
  );
}
