// The price of an agreement: what falls due in the months to come, period by period with its parts.
import type { Answer } from '#api/contract.ts';
import { type readPrice, type AgreementPage as Page, addIndexValue } from '#api/agreements/index.ts';
import { useState } from 'react';
import { sayAmountOf } from '#core/money.ts';
import { SelectField } from '../parts/fields.tsx';
import { WireDate, WireNumber } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { Table, type Column } from '../parts/table/index.ts';
import { sayDate } from '../parts/words.ts';
import { agreementsApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';

const monthName = (month: string): string =>
  new Date(`${month}-01T00:00:00Z`).toLocaleDateString('en-GB', { month: 'short', year: 'numeric', timeZone: 'UTC' });

function Months({ months, currency }: { months: { month: string; minor: number }[]; currency: string }) {
  const most = Math.max(1, ...months.map((m) => m.minor));
  return (
    <ol className="mt-2 flex items-end gap-2" aria-label="Amounts by month">
      {months.map((m) => (
        <li key={m.month} className="w-20 text-center">
          <span className="block text-[0.85rem] tabular-nums">{sayAmountOf(m.minor, currency)}</span>
          <span
            className="mx-auto mt-1 block w-9 border border-base-content bg-base-300"
            style={{ height: `${Math.round((m.minor / most) * 64)}px` }}
            aria-hidden
          />
          <span className="quiet block pt-0.5">{monthName(m.month)}</span>
        </li>
      ))}
    </ol>
  );
}

function NewIndexValue({ agreement, onDone }: { agreement: Page; onDone: () => void }) {
  const [announce] = agreementsApi.useAddIndexValueMutation();
  const form = useWireForm(addIndexValue, { version: agreement.version, from: '', hundredths: NaN });
  return (
    <WireForm
      form={form}
      name="New index value"
      save="Record the value"
      send={(body) => announce({ params: { id: String(agreement.id) }, body })}
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid max-w-xl grid-cols-2 gap-3">
        <WireDate name="from" label="Holds from" />
        <WireNumber name="hundredths" label="Index, I₁" per={100} step="any" />
      </div>
    </WireForm>
  );
}

/** A new index value as published; what is billed from its day on follows at once. */
function IndexValues({ agreement, mayWrite }: { agreement: Page; mayWrite: boolean }) {
  const [isTyping, setTyping] = useState(false);
  const { indexation, stage } = agreement;
  if (!indexation) return null;
  return (
    <div className="mt-2">
      <p>
        Index {(indexation.base / 100).toFixed(2)} at the start
        {indexation.values.map((v) => `, ${(v.hundredths / 100).toFixed(2)} from ${sayDate(v.from)}`).join('')}.{' '}
        {mayWrite && (stage === 'in force' || stage === 'suspended') && !isTyping && (
          <button className="link-ink" onClick={() => setTyping(true)}>
            Record a new value
          </button>
        )}
      </p>
      {isTyping && <NewIndexValue agreement={agreement} onDone={() => setTyping(false)} />}
    </div>
  );
}

type Period = Answer<typeof readPrice>['periods'][number];

const periodColumns = (currency: string): Column<Period>[] => [
  { id: 'due', head: 'Due', value: (p) => p.dueOn, show: (p) => sayDate(p.dueOn), className: 'whitespace-nowrap' },
  {
    id: 'period',
    head: 'Period',
    value: (p) => `${p.from} – ${p.to}`,
    show: (p) => `${sayDate(p.from)} – ${sayDate(p.to)}`,
    className: 'whitespace-nowrap',
  },
  {
    id: 'parts',
    head: 'Parts',
    value: (p) => p.parts.map((part) => `${part.label}: ${sayAmountOf(part.minor, currency)}`).join(' · '),
    show: (p) =>
      p.parts.map((part, i) => (
        <span key={i} className="quiet block">
          {part.label}: {sayAmountOf(part.minor, currency)}
          {part.of > 1 && part.held < part.of ? ` (${part.held} of ${part.of} days)` : ''}
        </span>
      )),
  },
  {
    id: 'amount',
    head: `Amount, ${currency}`,
    isNumber: true,
    value: (p) => p.minor / 100,
    show: (p) => sayAmountOf(p.minor, currency),
  },
];

export function Price({ agreement, mayWrite }: { agreement: Page; mayWrite: boolean }) {
  const [months, setMonths] = useState('12');
  const query = agreementsApi.useReadPriceQuery({ params: { id: String(agreement.id) }, query: { months } });
  const { indexation, currency } = agreement;
  return (
    <section className="mt-5" aria-label="Price">
      <div className="flex items-end gap-4">
        <h2 className="pb-1">Price</h2>
        <SelectField
          label="Look ahead"
          value={months}
          onChange={setMonths}
          options={[
            ['12', '12 months'],
            ['24', '2 years'],
            ['60', '5 years'],
          ]}
          className="w-36"
        />
        <p className="quiet pb-1.5">
          {agreement.priceMinor === null
            ? 'No price for the whole; lines may have their own.'
            : `${currency} ${sayAmountOf(agreement.priceMinor, currency)} per ${agreement.billingPer} for the whole`}
          , {agreement.billingTiming}, broken periods by actual days
          {indexation
            ? `; ${indexation.fixedPercent} % fixed, ${100 - indexation.fixedPercent} % follow the index from ${(indexation.base / 100).toFixed(2)}`
            : ''}
        </p>
      </div>
      <IndexValues agreement={agreement} mayWrite={mayWrite} />
      <Waiting query={query}>
        {(price) =>
          price.periods.length === 0 ? (
            <p className="quiet mt-1 border-y border-hairline py-2">
              {agreement.priceMinor === null && agreement.lines.every((l) => l.terms.priceMinor === null)
                ? 'Nothing falls due: neither the agreement nor a line has a price.'
                : `Nothing falls due in that time${agreement.to ? `: the term ends on ${sayDate(agreement.to)}` : ''}.`}
            </p>
          ) : (
            <>
              <p className="mt-3">
                <span className="figure">
                  {price.currency} {sayAmountOf(price.total, price.currency)}
                </span>{' '}
                <span className="quiet">falls due in that time</span>
              </p>
              {price.months.length <= 24 && <Months months={price.months} currency={price.currency} />}
              <Table
                name="billing-periods"
                caption="Billing periods"
                title={<h3 className="mt-3 font-semibold">Periods</h3>}
                columns={periodColumns(price.currency)}
                rows={price.periods}
                idOf={(p) => p.from}
              />
            </>
          )
        }
      </Waiting>
    </section>
  );
}
