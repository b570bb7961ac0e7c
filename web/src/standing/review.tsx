// The review of an agreement on one page, as it is printed and taken along: standing, pledges, cost, machines in trouble, proposals.
import { Link, useParams } from 'react-router';
import type { ReviewPage } from '#api/review.ts';
import { sayAmountOf } from '#core/money.ts';
import type { ProposalKind } from '#core/standing/index.ts';
import { plural, sayDate, sayMinutes, sayShare } from '../parts/words.ts';
import { Waiting } from '../shell/waiting.tsx';
import { AskedPeriod, useAsked, UsualPeriods, type Asked } from './asked.tsx';
import { CourseTold } from './course.tsx';
import { standingApi } from './endpoints.ts';
import { Pledges } from './pledges.tsx';

const PROPOSED: Readonly<Record<ProposalKind, string>> = {
  ...{ renew: 'Renew it', reprice: 'Price it anew', 'prevent misses': 'Prevent the misses' },
  ...{ 'keep windows': 'Keep the windows of visits', retire: 'Retire', 'more upkeep': 'More upkeep for' },
};

function Proposals({ proposals }: Pick<ReviewPage, 'proposals'>) {
  return (
    <section aria-label="Proposals">
      <h2>Proposals</h2>
      {proposals.length === 0 ? (
        <p className="quiet">The figures of this period speak for going on as it is.</p>
      ) : (
        <ul className="space-y-1">
          {proposals.map((p) => (
            <li key={`${p.kind} ${p.machine?.id ?? ''}`}>
              <span className="font-semibold">
                {PROPOSED[p.kind]}
                {p.machine && (
                  <>
                    {' '}
                    <Link className="serial link-ink" to={`/assets/${p.machine.id}`}>
                      {p.machine.tag}
                    </Link>
                  </>
                )}
              </span>
              : {p.because}.
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

function Troubled({ troubled, machines, currency, money }: ReviewPage) {
  if (troubled.length === 0)
    return <p className="quiet">None of its {plural(machines, 'machine')} troubled in this period.</p>;
  const amount = (n: number | null) => <td className="num">{n === null ? '' : sayAmountOf(n, currency)}</td>;
  return (
    <table className="dense">
      <thead>
        <tr>
          <th>Machine</th>
          <th>Where</th>
          <th>In service since</th>
          <th className="num">Times down</th>
          <th className="num">soon again</th>
          <th className="num">Down for</th>
          {money && (
            <>
              <th className="num">Cost</th>
              <th className="num">Share of fees</th>
            </>
          )}
        </tr>
      </thead>
      <tbody>
        {troubled.map((m) => (
          <tr key={m.id}>
            <td>
              <Link className="serial link-ink" to={`/assets/${m.id}`}>
                {m.tag}
              </Link>{' '}
              {m.model}
            </td>
            <td className="quiet">{m.place.split(' · ').slice(0, 2).join(' · ')}</td>
            <td>{m.commissioned ? sayDate(m.commissioned) : <span className="quiet">not known</span>}</td>
            <td className="num">{m.failures}</td>
            <td className="num">{m.repeats}</td>
            <td className="num">{sayMinutes(m.downMinutes)}</td>
            {money && (
              <>
                {amount(m.cost)}
                {amount(m.earned)}
              </>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const Share = ({ of, none }: { of: number | null; none: string }) =>
  of === null ? <span className="quiet">{none}</span> : <span className="font-semibold">{sayShare(of)}</span>;

function Kept({ total, before }: Pick<ReviewPage, 'total' | 'before'>) {
  return (
    <table className="dense max-w-3xl" aria-label="What was kept">
      <thead>
        <tr>
          <th />
          <th>This period</th>
          <th className="quiet font-normal">
            {sayDate(before.from)} to {sayDate(before.to)}
          </th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <td>Promises met</td>
          <td>
            <Share of={total.attainment} none="no promise fell due" />{' '}
            {total.met + total.missed > 0 && `of ${total.met + total.missed}`}
          </td>
          <td>
            <Share of={before.attainment} none="no promise fell due" />
          </td>
        </tr>
        <tr>
          <td>Visits in window</td>
          <td>
            <Share of={total.compliance} none="no visit was owed" /> {total.owed > 0 && `of ${total.owed}`}
          </td>
          <td>
            <Share of={before.compliance} none="no visit was owed" />
          </td>
        </tr>
      </tbody>
    </table>
  );
}

function Money({ money: { earned, cost }, currency }: { money: NonNullable<ReviewPage['money']>; currency: string }) {
  const amount = (n: number): string => `${currency} ${sayAmountOf(n, currency)}`;
  return (
    <p>
      Fees {amount(earned)}, cost {amount(cost)}:{' '}
      <span className={`font-semibold ${earned < cost ? 'text-missed' : ''}`}>{amount(Math.abs(earned - cost))}</span>{' '}
      {earned < cost ? 'short' : 'left'}
      {earned > 0 && (
        <span className="quiet">, {Math.round(((earned - cost) / earned) * 100)} % of the fees</span>
      )}. <span className="quiet">Of orders that were approved.</span>
    </p>
  );
}

function Pack({ page }: { page: ReviewPage }) {
  return (
    <article className="max-w-5xl space-y-5">
      <p>
        <Link className="link-ink" to={`/agreements/${page.id}`}>
          {page.number} {page.name}
        </Link>
        , {page.customer.name}, from {sayDate(page.from)} to {sayDate(page.to)}. In force from {sayDate(page.termFrom)}
        {page.termTo ? ` to ${sayDate(page.termTo)}` : ' without an end'}
        {page.noticeBy ? `, notice by ${sayDate(page.noticeBy)}` : ''}.{' '}
        <span className="quiet">Covers {plural(page.machines, 'machine')}.</span>
      </p>
      <Proposals proposals={page.proposals} />
      <section aria-label="Standing" className="space-y-3">
        <h2>Standing</h2>
        <Kept {...page} />
        <div className="flex flex-wrap gap-x-10 gap-y-3">
          <CourseTold {...page} />
        </div>
        {page.pledges.length > 0 && <Pledges pledges={page.pledges} />}
      </section>
      {page.money && (
        <section aria-label="Cost">
          <h2>Cost</h2>
          <Money money={page.money} currency={page.currency} />
        </section>
      )}
      <section aria-label="Machines in trouble">
        <h2>Machines in trouble</h2>
        <Troubled {...page} />
      </section>
    </article>
  );
}

function Review({ id, asked }: { id: string; asked: Asked }) {
  const { period } = asked;
  const query = standingApi.useReadReviewQuery(
    { params: { id }, query: period ?? { from: '', to: '' } },
    { skip: period === null },
  );
  return (
    <div className="flex-1 overflow-y-auto px-7 pt-5 pb-10">
      <header className="flex flex-wrap items-end gap-4 pb-3">
        <h1>Review</h1>
        <div className="unprinted flex flex-wrap items-end gap-3">
          <AskedPeriod asked={asked} />
          <UsualPeriods asked={asked} />
        </div>
        <button className="act-main unprinted ml-auto" onClick={() => window.print()}>
          Print
        </button>
      </header>
      {period === null ? (
        <p className="quiet">Give the first and the last day.</p>
      ) : (
        <Waiting query={query}>{(page) => <Pack page={page} />}</Waiting>
      )}
    </div>
  );
}

/** A year up to yesterday, unless another period is asked for. */
export function ReviewOf({ id }: { id: string }) {
  const asked = useAsked(12);
  return asked && <Review id={id} asked={asked} />;
}

export function ReviewRoom() {
  const { id = '' } = useParams();
  return <ReviewOf key={id} id={id} />;
}
