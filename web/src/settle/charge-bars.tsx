// Charges as bars: each as long as its list price, split by who bears it; what the customer pays stands as the figure.
import { Fragment } from 'react';
import type { LookPage } from '#api/billing.ts';
import { sayAmountOf } from '#core/money.ts';
import { sayDate } from '../parts/words.ts';
import { SAY_WHAT } from './words.ts';

type Charge = LookPage['charges'][number];
const PARTS = [
  ['borne', 'borne'],
  ['discount', 'discount'],
  ['goodwill', 'goodwill'],
  ['pay', 'to pay'],
] as const;

function Bar({ charge, longest }: { charge: Charge; longest: number }) {
  if (charge.list <= 0) return null;
  const width = Math.max(2, (100 * charge.list) / longest);
  return (
    <span className="flex h-3.5 overflow-hidden" style={{ width: `${width}%` }} aria-hidden>
      {PARTS.map(
        ([part]) =>
          charge[part] > 0 && (
            <span key={part} className={`charge-${part}`} style={{ width: `${(100 * charge[part]) / charge.list}%` }} />
          ),
      )}
    </span>
  );
}

const nameOf = ({ what, text, machine }: Charge, several: boolean): string =>
  `${SAY_WHAT[what]}${text ? ` · ${text}` : ''}${several && machine ? ` · ${machine}` : ''}`;

/** What bears or lowers it, in words. */
function whyOf(charge: Charge, currency: string): string {
  const said = PARTS.flatMap(([part, word]) =>
    part !== 'pay' && charge[part] !== 0 ? [`${word} ${sayAmountOf(charge[part], currency)}`] : [],
  );
  return [charge.bearer && charge.borne > 0 ? `by ${charge.bearer}` : '', ...said, ...charge.reasons]
    .filter((s) => s !== '')
    .join(', ');
}

export function ChargeBars({ page }: { page: LookPage }) {
  const longest = Math.max(1, ...page.charges.map((c) => c.list));
  const several = new Set(page.charges.map((c) => c.machine)).size > 1;
  const others = page.charges.some((c) => c.payers.some((p) => p.customer.id !== page.customer.id));
  const amount = (minor: number) => sayAmountOf(minor, page.currency);
  const hasCost = page.total.cost !== null;
  return (
    <table className="dense mt-1">
      <caption className="quiet pt-2 text-left">
        <span className="charge-key charge-borne" /> borne <span className="charge-key charge-discount" /> discount{' '}
        <span className="charge-key charge-goodwill" /> goodwill <span className="charge-key charge-pay" /> to pay
      </caption>
      <thead>
        <tr>
          <th className="text-left">Charge</th>
          <th className="w-[36%] text-left">Who bears it</th>
          {hasCost && <th className="num">Cost</th>}
          <th className="num">List</th>
          <th className="num">To pay</th>
        </tr>
      </thead>
      <tbody>
        {page.charges.map((c, i) => (
          <Fragment key={`${i} ${c.what}`}>
            {c.coming && c.coming.nth !== page.charges[i - 1]?.coming?.nth && (
              <tr>
                <th colSpan={hasCost ? 5 : 4} className="pt-2 text-left">
                  Appointment of {sayDate(c.coming.on)}
                </th>
              </tr>
            )}
            <tr className="align-top">
              <td>
                {nameOf(c, several)}
                {others && c.payers.length > 0 && (
                  <span className="quiet block">
                    {c.payers.map((p) => `${p.customer.name} ${amount(p.minor)}`).join(', ')}
                  </span>
                )}
              </td>
              <td>
                <Bar charge={c} longest={longest} />
                <span className="quiet">{whyOf(c, page.currency)}</span>
              </td>
              {hasCost && <td className="num">{amount(c.cost ?? 0)}</td>}
              <td className="num">{amount(c.list)}</td>
              <td className="num font-semibold">{amount(c.pay)}</td>
            </tr>
          </Fragment>
        ))}
      </tbody>
      <tfoot>
        <tr className="border-t border-base-content font-semibold">
          <td colSpan={2}>In all, {page.currency}, without tax</td>
          {hasCost && <td className="num">{amount(page.total.cost ?? 0)}</td>}
          <td className="num">{amount(page.total.list)}</td>
          <td className="num">{amount(page.total.pay)}</td>
        </tr>
      </tfoot>
    </table>
  );
}
