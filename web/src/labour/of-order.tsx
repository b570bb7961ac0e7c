// The time of an order: who was there for how long, and what that comes to; for the office in money.
import { useState } from 'react';
import { group, sum } from 'd3-array';
import { addEntry, type OrderLabour } from '#api/labour.ts';
import { sayAmountOf } from '#core/money.ts';
import { localDateAt, type Zone } from '#core/time/index.ts';
import { sayDate, sayMinutes, sayTime } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { labourApi } from './endpoints.ts';
import { EntryDialog, type Line } from './entry-dialog.tsx';

type Charge = OrderLabour['charges'][number];
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

function Cells({ of, labour, figures }: { of: readonly Charge[]; labour: OrderLabour; figures: typeof FIGURES }) {
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

const keyOf = (c: Charge): string => `${c.person?.id} ${c.what} ${c.hours} ${c.salesRate} ${c.by}`;

/** A row for each person, kind and hours kind; machines that the same bears stand together. */
function Charges({ labour }: { labour: OrderLabour }) {
  const rows = [...group(labour.charges, keyOf).values()];
  const figures = figuresOf(labour.charges);
  const bearers = [...new Set(labour.charges.flatMap((c) => c.by ?? []))];
  return (
    <>
      <table className="dense mt-1 whitespace-nowrap">
        <thead>
          <tr>
            <th className="text-left">Who</th>
            <th className="text-left">What</th>
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
                <td>
                  {first.person?.name}
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
          {bearers.length > 0 && ` Borne by ${bearers.join(', ')}, as decided when it was raised.`}
        </p>
      )}
    </>
  );
}

/** The entries behind the figures. */
function Behind({ labour, zone }: { labour: OrderLabour; zone: Zone }) {
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

export function OrderTime({
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
  const { data: labour } = labourApi.useReadLabourQuery({ params: { id: String(orderId) } });
  const { data: session } = server.useReadSessionQuery();
  const [entering, setEntering] = useState(false);
  const may = open && reader.may(addEntry);
  if (!labour || (labour.entries.length === 0 && !may)) return null;
  return (
    <section>
      <h2 className="flex items-baseline gap-4">
        Time
        {may && (
          <button className="link-ink font-normal" onClick={() => setEntering(true)}>
            enter time…
          </button>
        )}
      </h2>
      {labour.entries.length === 0 ? (
        <p className="quiet">Nobody has entered time yet.</p>
      ) : (
        <>
          {labour.charges.length > 0 && <Charges labour={labour} />}
          {labour.card === null && (
            <p className="quiet">No rate card is the standard one: the time has no price yet.</p>
          )}
          {labour.withoutRate.length > 0 && (
            <p className="mt-1">
              Without a rate: {[...new Set(labour.withoutRate.map((w) => w.person))].join(', ')}. Give them a craft, and
              the craft a rate, in Setup.
            </p>
          )}
          <Behind labour={labour} zone={zone} />
        </>
      )}
      {entering && session && (
        <EntryDialog
          personId={reader.id}
          day={localDateAt(reader.zone, session.now)}
          entry={null}
          lines={lines}
          onClose={() => setEntering(false)}
        />
      )}
    </section>
  );
}
