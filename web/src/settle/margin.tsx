// One agreement's margin: by month, by what it went into, by machine, and what a renewal would have to cost.
import { scaleLinear } from 'd3-scale';
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import type { MarginPage, MarginSums } from '#api/margins.ts';
import { sayAmountOf } from '#core/money.ts';
import { forecastOf, marginPercentOf, priceFor } from '#core/settle/index.ts';
import { NumberField } from '../parts/fields.tsx';
import { plural, sayDate } from '../parts/words.ts';
import { Waiting } from '../shell/waiting.tsx';
import { settleApi } from './endpoints.ts';
import { SettleParts } from './sections.tsx';

const WIDTH = 640;
const HEIGHT = 140;
const FOOT = 18;

/** Earned above the line, cost below it, month by month. */
function Months({ months, currency }: { months: MarginPage['months']; currency: string }) {
  const most = Math.max(1, ...months.flatMap((m) => [m.earned, m.cost]));
  const y = scaleLinear([0, most], [0, (HEIGHT - FOOT) / 2 - 2]);
  const step = WIDTH / Math.max(1, months.length);
  const middle = (HEIGHT - FOOT) / 2;
  const said = months.map((m) => `${m.month}: ${sayAmountOf(m.margin, currency)}`).join(', ');
  return (
    <svg
      width={WIDTH}
      height={HEIGHT}
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={`Margin by month: ${said}`}
      className="mt-2 max-w-full text-base-content"
    >
      {months.map((m, i) => (
        <g key={m.month} transform={`translate(${i * step},0)`}>
          <title>
            {m.month}: earned {sayAmountOf(m.earned, currency)}, cost {sayAmountOf(m.cost, currency)}, margin{' '}
            {sayAmountOf(m.margin, currency)}
          </title>
          <rect
            x={3}
            width={step - 6}
            y={middle - y(m.earned)}
            height={y(m.earned)}
            fill="currentColor"
            opacity={0.75}
          />
          <rect x={3} width={step - 6} y={middle + 1} height={y(m.cost)} fill="currentColor" opacity={0.3} />
          {i % 3 === 0 && (
            <text x={3} y={HEIGHT - 4} fontSize={12} fill="currentColor">
              {m.month}
            </text>
          )}
        </g>
      ))}
      <line x1={0} x2={WIDTH} y1={middle} y2={middle} stroke="currentColor" />
    </svg>
  );
}

const NUMBERS = ['earned', 'charged', 'cost', 'margin'] as const;
function Sums({ of, currency }: { of: MarginSums; currency: string }) {
  return NUMBERS.map((n) => (
    <td key={n} className="num">
      {sayAmountOf(of[n], currency)}
    </td>
  ));
}
const SumHeads = () => (
  <>
    <th className="num">Share of fees</th>
    <th className="num">Charged beside it</th>
    <th className="num">Cost</th>
    <th className="num">Margin</th>
  </>
);

const MACHINES_SHOWN = 12;

function Machines({ page }: { page: MarginPage }) {
  const [isAll, setAll] = useState(false);
  const shown = isAll ? page.machines : page.machines.slice(0, MACHINES_SHOWN);
  return (
    <>
      <h2 className="mt-6">Machines, those that cost more than they bring first</h2>
      <table className="dense max-w-5xl">
        <thead>
          <tr>
            <th className="text-left">Machine</th>
            <th className="text-left">Class</th>
            <th className="num">Orders</th>
            <SumHeads />
          </tr>
        </thead>
        <tbody>
          {shown.map((m) => (
            <tr key={m.id}>
              <td>
                <Link className="link-ink" to={`/assets/${m.id}`}>
                  {m.tag}
                </Link>{' '}
                {m.model}
              </td>
              <td>{m.class}</td>
              <td className="num">{m.orders}</td>
              <Sums of={m} currency={page.currency} />
            </tr>
          ))}
        </tbody>
      </table>
      {page.machines.length > shown.length && (
        <button className="act mt-2" onClick={() => setAll(true)}>
          Show all {page.machines.length}
        </button>
      )}
      {page.classes.length > 1 && (
        <>
          <h2 className="mt-6">Classes</h2>
          <table className="dense max-w-5xl">
            <thead>
              <tr>
                <th className="text-left">Class</th>
                <th className="num">Machines</th>
                <SumHeads />
              </tr>
            </thead>
            <tbody>
              {page.classes.map((c) => (
                <tr key={c.name}>
                  <td>{c.name}</td>
                  <td className="num">{c.machines}</td>
                  <Sums of={c} currency={page.currency} />
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </>
  );
}

const one = (n: number): string => n.toFixed(1);

/** What the next year may take, and what it would have to cost to leave a margin. Nothing is changed here. */
function Renewal({ page }: { page: MarginPage }) {
  const { currency, record, priceNow } = page;
  const [percent, setPercent] = useState(20);
  const [machines, setMachines] = useState(record.machines);
  const forecast = forecastOf({ ...record, machines });
  const amount = (minor: number | null) =>
    minor === null ? 'no price' : `${currency} ${sayAmountOf(minor, currency)}`;
  const shown = (cost: number) => marginPercentOf(priceNow, cost);
  return (
    <section aria-label="What a renewal would have to cost" className="mt-6 max-w-3xl">
      <h2>What a renewal would have to cost</h2>
      {forecast === null || Number.isNaN(percent) || Number.isNaN(machines) ? (
        <p className="quiet">There is no history to learn from yet.</p>
      ) : (
        <>
          <p>
            {plural(record.failures, 'repair')} in {one(record.machineYears)} machine-years: expect{' '}
            <strong>{one(forecast.failures)} a year</strong> ({one(forecast.range.low)} to {one(forecast.range.high)} in
            four of five cases), at {amount(record.medianCost)} in the middle, and {amount(record.plannedCost)} of
            planned work.
          </p>
          <p>
            That takes <strong>{amount(forecast.cost)}</strong> in the year ({amount(forecast.costRange.low)} to{' '}
            {amount(forecast.costRange.high)}). It earns {amount(priceNow)} as it stands
            {shown(forecast.cost) !== null && `: ${Math.round(shown(forecast.cost) ?? 0)} % of it would be left`}.
          </p>
        </>
      )}
      <div className="mt-2 grid grid-cols-3 gap-3">
        <NumberField label="Machines" value={machines} onChange={setMachines} min={1} />
        <NumberField label="Margin wanted, %" value={percent} onChange={setPercent} min={0} max={99} />
      </div>
      {forecast !== null && !Number.isNaN(percent) && (
        <p className="mt-2" aria-live="polite">
          <strong className="font-serif text-2xl font-semibold">{amount(priceFor(forecast.cost, percent))}</strong> a
          year, from {amount(priceFor(forecast.costRange.low, percent))} to{' '}
          {amount(priceFor(forecast.costRange.high, percent))}.{' '}
          <Link className="link-ink" to={`/agreements/${page.id}`}>
            Renew or amend it
          </Link>
        </p>
      )}
    </section>
  );
}

function Page({ page }: { page: MarginPage }) {
  const { currency } = page;
  return (
    <article aria-label={page.number}>
      <h1 className="mt-3">
        {page.number} {page.name}
      </h1>
      <p className="quiet">
        {page.customer.name}
        {page.termTo && `, to ${sayDate(page.termTo)}`}.{' '}
        <Link className="link-ink" to={`/agreements/${page.id}`}>
          The agreement
        </Link>
      </p>
      <h2 className="mt-3">Earned above, cost below, month by month</h2>
      <Months months={page.months} currency={currency} />
      <p className="quiet">
        {page.elements.map((e) => `${e.element} ${sayAmountOf(e.cost, currency)}`).join(' · ') ||
          'Nothing was done under it that cost anything.'}
      </p>
      <Renewal page={page} />
      {page.machines.length > 0 && <Machines page={page} />}
    </article>
  );
}

export function OneMargin({ id }: { id: string }) {
  const query = settleApi.useReadMarginQuery({ params: { id } });
  return (
    <div className="flex-1 overflow-y-auto px-7 pt-5 pb-10">
      <SettleParts />
      <Waiting query={query}>{(page) => <Page key={page.id} page={page} />}</Waiting>
    </div>
  );
}

export function MarginRoom() {
  const { id = '' } = useParams();
  return <OneMargin id={id} />;
}
