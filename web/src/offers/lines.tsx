// The lines of an offer while they are written: work, parts of the list or to be purchased, travel and the rest, and what it comes to.
import { useState } from 'react';
import { useFormContext } from 'react-hook-form';
import { X } from 'lucide-react';
import type { OfferLineIn, OfferProposal } from '#api/offers.ts';
import { decimalsOf, sayAmountOf } from '#core/money.ts';
import { amountOfLine, totalsOfOffer, type OfferLine, type OfferTotals } from '#core/offers/index.ts';
import type { TaxRate } from '#core/settle/index.ts';
import { settleApi } from '../settle/index.ts';
import { ChoosePart } from '../stores/index.ts';
import { WireNumber, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { Wire } from '../parts/wire-form.tsx';
import { plural, sayMinutes } from '../parts/words.ts';

type Machine = OfferProposal['machines'][number];
type Like = OfferProposal['like'][number];

const blank = (kind: OfferLineIn['kind'], over: Partial<OfferLineIn> = {}): OfferLineIn => ({
  ...{ kind, assetId: null, text: '', quantity: kind === 'work' ? 60 : 1000, unit: kind === 'work' ? 'h' : 'piece' },
  ...{ price: 0, cost: 0, discount: 0, partId: null, supplier: '', taxId: null, ...over },
});

const isWhole = (line: OfferLineIn): boolean =>
  [line.quantity, line.price, line.cost, line.discount].every((n) => Number.isInteger(n));

/** What the lines come to, by the taxes as they are now; lines that are not finished count for nothing. */
export function useTotals(lines: readonly OfferLineIn[]): OfferTotals {
  const { data } = settleApi.useReadTaxesQuery();
  const taxes = data?.items ?? [];
  const rateOf = ({ taxId }: OfferLine): TaxRate =>
    taxes.find((t) => (taxId === null ? t.isStandard : t.id === taxId)) ?? { category: 'E', hundredths: 0 };
  return totalsOfOffer(lines.filter(isWhole) as readonly OfferLine[], (line) => {
    const { category, hundredths } = rateOf(line);
    return { category, hundredths };
  });
}

export function Totals({ totals, currency }: { totals: Omit<OfferTotals, 'lines'>; currency: string }) {
  const say = (minor: number): string => `${currency} ${sayAmountOf(minor, currency)}`;
  const rows: readonly (readonly [string, number])[] = [
    ...(totals.off > 0 ? [['List', totals.list] as const, ['Discount', -totals.off] as const] : []),
    ['Without tax', totals.withoutTax],
    ...totals.rows.map((r) => [`Tax ${r.hundredths / 100} % (${r.category})`, r.tax] as const),
    ['With tax', totals.withTax],
  ];
  return (
    <dl aria-label="What it comes to" className="ml-auto w-72">
      {rows.map(([name, minor]) => (
        <div key={name} className="flex justify-between border-b border-hairline py-0.5">
          <dt className={name.startsWith('With') ? 'font-semibold' : 'quiet'}>{name}</dt>
          <dd className="tabular-nums">{say(minor)}</dd>
        </div>
      ))}
      <div className="quiet flex justify-between py-0.5">
        <dt>It costs us</dt>
        <dd className="tabular-nums">{say(totals.cost)}</dd>
      </div>
    </dl>
  );
}

const sayLike = ({ className, count, minutes, partsCost, otherCost }: Like, currency: string): string =>
  `Like work on ${className.toLowerCase()}s took ${sayMinutes(minutes)}, ${currency} ${sayAmountOf(partsCost, currency)} of parts and ${currency} ${sayAmountOf(otherCost, currency)} of other costs on average (${plural(count, 'repair')}).`;

const KIND_WORDS = { work: 'Work', travel: 'Travel', part: 'Part', other: 'Other' } as const;

function Line({
  i,
  line,
  machines,
  like,
  currency,
  remove,
}: {
  i: number;
  line: OfferLineIn;
  machines: readonly Machine[];
  like: readonly Like[];
  currency: string;
  remove: () => void;
}) {
  const at = `lines.${i}`;
  const per = 10 ** decimalsOf(currency);
  const comes = isWhole(line) ? amountOfLine(line as OfferLine).pay : 0;
  const isBought = line.kind === 'part' && line.partId === null;
  const beside = line.kind === 'work' ? like.find((l) => l.assetId === line.assetId) : undefined;
  return (
    <li className="border-b border-hairline py-2" aria-label={`Line ${i + 1}`}>
      <div className="grid grid-cols-[minmax(0,2.4fr)_minmax(0,1.1fr)_6.5rem_6rem_4rem_6rem_1.5rem] items-start gap-3">
        <WireText name={`${at}.text`} label={isBought ? 'Part to be purchased' : KIND_WORDS[line.kind]} />
        <WireSelect
          name={`${at}.assetId`}
          label="On"
          options={[[null, 'the whole'] as const, ...machines.map((m) => [m.id, m.tag] as const)]}
        />
        <WireNumber
          name={`${at}.quantity`}
          label={line.kind === 'work' ? 'Hours' : `Quantity, ${line.unit || 'units'}`}
          per={line.kind === 'work' ? 60 : 1000}
          step="any"
          min={0}
        />
        <WireNumber name={`${at}.price`} label="Price of one" per={per} step="any" min={0} />
        <WireNumber name={`${at}.discount`} label="% off" min={0} max={100} />
        <p className="pt-6 text-right tabular-nums">{sayAmountOf(comes, currency)}</p>
        <button type="button" className="pt-6" aria-label={`Take line ${i + 1} away`} onClick={remove}>
          <X size={15} aria-hidden="true" />
        </button>
      </div>
      {isBought && (
        <div className="mt-1 grid grid-cols-[minmax(0,2.4fr)_minmax(0,1.1fr)_1fr] gap-3">
          <WireText name={`${at}.supplier`} label="Purchased from" />
          <WireNumber name={`${at}.cost`} label="Expected price" per={per} step="any" min={0} />
        </div>
      )}
      {beside && <p className="quiet mt-1">{sayLike(beside, currency)}</p>}
    </li>
  );
}

/** A part of the list, with its prices of now. */
function AddPart({ add }: { add: (line: OfferLineIn) => void }) {
  return (
    <ChoosePart
      label="Add a part of the list"
      chosen={null}
      onChoose={(chosen) => {
        if (!chosen) return;
        const { id, number, name, unit, listPrice, cost, taxId } = chosen.part;
        add(
          blank('part', { text: `${number} ${name}`, unit, price: listPrice ?? 0, cost: cost ?? 0, taxId, partId: id }),
        );
      }}
    />
  );
}

export function Lines({
  machines,
  like,
  currency,
}: {
  machines: readonly Machine[];
  like: readonly Like[];
  currency: string;
}) {
  const lines = useFormContext<{ lines: OfferLineIn[] }>().watch('lines');
  const totals = useTotals(lines);
  // Counted up when a line goes: those below it take new fields, with what they hold.
  const [taken, setTaken] = useState(0);
  const first = machines.length === 1 ? (machines[0]?.id ?? null) : null;
  return (
    <Wire<OfferLineIn[]> name="lines">
      {({ value, change, ownError }) => {
        const add = (line: OfferLineIn): void => change([...value, { ...line, assetId: first }]);
        return (
          <section aria-label="Lines">
            <h2>What is offered</h2>
            {value.length === 0 && <p className="quiet py-2">Nothing yet: add work, parts or travel.</p>}
            <ul className="border-t border-hairline">
              {value.map((line, i) => (
                <Line
                  key={`${taken} ${i}`}
                  {...{ i, line, machines, like, currency }}
                  remove={() => {
                    setTaken(taken + 1);
                    change(value.filter((_, j) => j !== i));
                  }}
                />
              ))}
            </ul>
            {ownError && <p className="text-missed">✕ {ownError}</p>}
            <div className="mt-2 flex items-start gap-6">
              <div className="w-80 shrink-0 space-y-2">
                <AddPart key={value.length} add={add} />
                <div className="flex flex-wrap gap-2">
                  <button type="button" className="act" onClick={() => add(blank('work'))}>
                    Add work
                  </button>
                  <button type="button" className="act" onClick={() => add(blank('part'))}>
                    A part to purchase
                  </button>
                  <button
                    type="button"
                    className="act"
                    onClick={() => add(blank('travel', { unit: 'visit', text: 'Travel' }))}
                  >
                    Travel
                  </button>
                  <button type="button" className="act" onClick={() => add(blank('other'))}>
                    Something else
                  </button>
                </div>
              </div>
              <Totals totals={totals} currency={currency} />
            </div>
          </section>
        );
      }}
    </Wire>
  );
}
