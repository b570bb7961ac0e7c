// What the service levels of an agreement pledged over a period, and what is owed for it.
import { Link } from 'react-router';
import { orderNumber } from '#api/shapes.ts';
import type { PledgeOut } from '#api/standing.ts';
import { sayAmountOf } from '#core/money.ts';
import { plural, sayMinutes, sayShare } from '../parts/words.ts';

const percentOf = (hundredths: number): string => `${hundredths / 100} %`;

/** What is still to come: how many more misses cost the next tier. */
function Forecast({ forecast: { toCome, next } }: { forecast: NonNullable<PledgeOut['forecast']> }) {
  if (next === null) return <span className="text-missed">the highest credit is reached</span>;
  if (next.misses === null)
    return <span className="quiet">{plural(toCome, 'promise')} to come, no further credit by them</span>;
  return (
    <>
      {plural(next.misses, 'more miss', 'more misses')} of some {toCome} to come {next.misses === 1 ? 'costs' : 'cost'}{' '}
      {percentOf(next.credit)}
    </>
  );
}

function Availability({ of }: { of: PledgeOut['availability'] }) {
  return (
    <td>
      {of === null ? (
        <span className="quiet">none agreed</span>
      ) : of.share === null ? (
        <span className="quiet">no service time in this period</span>
      ) : (
        <>
          <span className={of.share * 10_000 < of.target ? 'text-missed' : ''}>
            {of.share * 10_000 < of.target ? '✕ ' : ''}
            {(of.share * 100).toFixed(2)} %
          </span>{' '}
          <span className="quiet">
            of {percentOf(of.target)} agreed {of.measure}; {sayMinutes(of.downMinutes)} down over{' '}
            {plural(of.machines, 'machine')}
          </span>
          {of.downtime.length > 0 && (
            <details>
              <summary className="link-ink">When machines were down</summary>
              {of.downtime.map((d) => (
                <span key={`${d.orderId} ${d.tag}`} className="block">
                  <Link className="serial link-ink" to={`/orders/${d.orderId}`}>
                    {orderNumber(d.orderId)}
                  </Link>{' '}
                  <span className="serial">{d.tag}</span> {sayMinutes(d.downMinutes)}
                  {d.to === null && ' and still down'}
                </span>
              ))}
            </details>
          )}
        </>
      )}
    </td>
  );
}

function Upkeep({ of }: { of: PledgeOut['upkeep'] }) {
  return (
    <td>
      {of === null ? (
        <span className="quiet">none agreed</span>
      ) : of.share === null ? (
        <span className="quiet">no visit was owed</span>
      ) : (
        <>
          <span className={of.share * 10_000 < of.target ? 'text-missed' : ''}>
            {of.share * 10_000 < of.target ? '✕ ' : ''}
            {sayShare(of.share)}
          </span>{' '}
          <span className="quiet">of {percentOf(of.target)} agreed</span>
        </>
      )}
    </td>
  );
}

/** What the service levels pledged and what is owed for it. */
export function Pledges({ pledges }: { pledges: PledgeOut[] }) {
  return (
    <section className="col-span-2" aria-label="What was pledged">
      <h2>What was pledged</h2>
      <table className="dense">
        <thead>
          <tr>
            <th>Service level</th>
            <th>Promises met</th>
            <th>Credit owed</th>
            <th>To its end</th>
            <th>Availability</th>
            <th>Visits in window</th>
          </tr>
        </thead>
        <tbody>
          {pledges.map((p) => (
            <tr key={p.serviceLevel}>
              <td>{p.serviceLevel}</td>
              <td>
                {p.attainment === null ? <span className="quiet">no promise fell due</span> : sayShare(p.attainment)}
              </td>
              <td>
                {p.tiers.length === 0 ? (
                  <span className="quiet">no credit agreed</span>
                ) : p.attainment === null ? (
                  'none'
                ) : p.credit === 0 ? (
                  `none: not below ${percentOf(Math.max(...p.tiers.map((t) => t.below)))}`
                ) : (
                  <>
                    <span className="font-semibold">
                      {p.currency} {sayAmountOf(p.amount, p.currency)}
                    </span>{' '}
                    <span className="quiet">
                      {percentOf(p.credit)} of the fee for the period, {sayAmountOf(p.fee, p.currency)}
                      {p.cap !== null && p.credit === p.cap ? ', the cap' : ''}
                    </span>
                  </>
                )}
              </td>
              <td>{p.forecast && <Forecast forecast={p.forecast} />}</td>
              <Availability of={p.availability} />
              <Upkeep of={p.upkeep} />
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
