// Counted rights: those that are used up or will be first, with what was done beyond them and what to propose.
import { Link, useSearchParams } from 'react-router';
import { ALLOWANCE_STATES, type AllowanceList } from '#api/allowances.ts';
import { orderNumber } from '#api/shapes.ts';
import { sayAmount } from '#core/entitlement/index.ts';
import { sayAmountOf } from '#core/money.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { Which } from '../parts/which.tsx';
import { plural, sayDate } from '../parts/words.ts';
import { Waiting } from '../shell/waiting.tsx';
import { settleApi } from './endpoints.ts';
import { SettleParts } from './sections.tsx';

type Right = AllowanceList['items'][number];

function sayState({ state, runsOutOn, granted, drawn, unit, to }: Right): string {
  const rest = sayAmount(unit, Math.max(0, granted - drawn));
  if (state === 'used up') return `used up since ${runsOutOn ? sayDate(runsOutOn) : 'its start'}`;
  if (state === 'runs out') return `${rest} left; used up on ${runsOutOn ? sayDate(runsOutOn) : ''} at this pace`;
  if (state === 'lapses') return `${rest} lapse on ${to ? sayDate(to) : ''}`;
  return `${rest} left`;
}

/** What was done beyond it is charged as it is; more of it from the next period on is proposed where the pace asks for it. */
function Proposal({ right }: { right: Right }) {
  const { beyond, wholePeriod, granted, unit, agreement, state } = right;
  const more = wholePeriod === null ? 0 : wholePeriod - granted;
  return (
    <>
      {beyond && (
        <span className="block">
          {plural(beyond.count, 'order')} beyond it came to {beyond.currency} {sayAmountOf(beyond.pay, beyond.currency)}
          :{' '}
          {beyond.orders.map((id, i) => (
            <span key={id}>
              {i > 0 && ', '}
              <Link className="serial link-ink" to={`/settle/orders/${id}`}>
                {orderNumber(id)}
              </Link>
            </span>
          ))}
          {beyond.count > beyond.orders.length && ' and others'}.
        </span>
      )}
      {(state === 'used up' || state === 'runs out') && more > 0 && (
        <span className="block">
          {sayAmount(unit, more)} more would do for the period.{' '}
          <Link className="link-ink" to={`/agreements/${agreement.id}`}>
            Propose it
          </Link>
        </span>
      )}
      {state === 'lapses' && <span className="quiet block">Tell the customer before it is lost to them.</span>}
    </>
  );
}

/** Used of granted, as a bar. */
function Used({ right: { granted, drawn, unit } }: { right: Right }) {
  const part = granted === 0 ? 1 : Math.min(1, drawn / granted);
  return (
    <>
      <span className="mt-2 block h-2 w-32 border border-base-content" aria-hidden>
        <span className="block h-full bg-base-content" style={{ width: `${part * 100}%` }} />
      </span>
      <span className="quiet">
        {unit === 'hours' ? Math.round(drawn / 6) / 10 : drawn} of {sayAmount(unit, granted)}
      </span>
    </>
  );
}

const SHOWN = ['all', ...ALLOWANCE_STATES] as const;

export function AllowancesRoom() {
  const pages = usePages();
  const [params, setParams] = useSearchParams();
  const state = ALLOWANCE_STATES.find((s) => s === params.get('state'));
  const { after } = pages;
  const query = settleApi.useListAllowancesQuery({ query: { ...(state && { state }), ...(after && { after }) } });
  return (
    <div className="flex-1 overflow-y-auto px-7 pt-5 pb-10">
      <h1 className="mb-2">Allowances</h1>
      <SettleParts />
      <Waiting query={query}>
        {({ items, next, counts }) => (
          <>
            <Which
              of={SHOWN}
              chosen={state ?? 'all'}
              wordOf={(s) => (s === 'all' ? 'all' : `${s}: ${counts[s]}`)}
              onChoose={(s) => {
                pages.begin();
                setParams(s === 'all' ? {} : { state: s });
              }}
            />
            {items.length === 0 ? (
              <p className="quiet border-y border-hairline py-4">
                {state ? 'None at present.' : 'No agreement in force counts visits, hours or call-outs.'}
              </p>
            ) : (
              <table className="dense">
                <thead>
                  <tr>
                    <th className="text-left">Agreement</th>
                    <th className="text-left">Used</th>
                    <th className="text-left">Period</th>
                    <th className="text-left">How it stands</th>
                    <th className="text-left">What to do</th>
                  </tr>
                </thead>
                <tbody>
                  {items.map((right) => (
                    <tr key={right.id} className="align-top">
                      <td>
                        <Link className="link-ink" to={`/agreements/${right.agreement.id}`}>
                          {right.number} {right.agreement.name}
                        </Link>
                        <span className="quiet block">{right.customer.name}</span>
                      </td>
                      <td>
                        <Used right={right} />
                      </td>
                      <td className="whitespace-nowrap">
                        {sayDate(right.from)}
                        {right.to && ` to ${sayDate(right.to)}`}
                        {right.carriesOver && <span className="quiet block">the rest is carried over</span>}
                      </td>
                      <td>{sayState(right)}</td>
                      <td>
                        <Proposal right={right} />
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            )}
            <Pager pages={pages} next={next} />
          </>
        )}
      </Waiting>
    </div>
  );
}
