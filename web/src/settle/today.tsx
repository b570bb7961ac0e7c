// What Today shows of Settle: work that is odd, payments that pay nothing yet, claims that are to be sent in time.
import { Link } from 'react-router';
import { claimNumber } from '#api/claims.ts';
import { readSettleToday } from '#api/billing.ts';
import { localDateAt } from '#core/time/index.ts';
import { plural, sayDate } from '../parts/words.ts';
import { Decision } from '../shell/today-card.tsx';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { settleApi } from './endpoints.ts';

const many = (n: number, thing: string): string => (n >= 1000 ? `1,000 ${thing}s or more` : plural(n, thing));

export function ToSettle() {
  const reader = useReader();
  const may = reader.may(readSettleToday);
  const { data: session } = server.useReadSessionQuery();
  const { data } = settleApi.useReadSettleTodayQuery(undefined, { skip: !may });
  if (!data) return null;
  const { odd, second, payments, claims, answered, soonest } = data;
  const isOver = soonest !== null && session !== undefined && soonest.by < localDateAt(reader.zone, session.now);
  return (
    <>
      {odd + second > 0 && (
        <Decision what="Finished work to look at" figure={many(odd + second, 'order')}>
          <Link className="link-ink" to="/settle">
            what it comes to
          </Link>
          {second > 0 && (
            <>
              {' · '}
              <Link className="link-ink" to="/settle?show=second">
                {second} {second === 1 ? 'waits' : 'wait'} for a second person
              </Link>
            </>
          )}
        </Decision>
      )}
      {payments > 0 && (
        <Decision what="Payments to allocate" figure={many(payments, 'payment')}>
          <Link className="link-ink" to="/settle/payments?state=open">
            what they pay
          </Link>
        </Decision>
      )}
      {claims + answered > 0 && (
        <Decision what="Claims to makers" figure={many(claims + answered, 'claim')}>
          {soonest && (
            <>
              <Link className="link-ink" to={`/settle/claims/${soonest.id}`}>
                <span className="serial">{claimNumber(soonest.id)}</span> to {soonest.maker}
              </Link>{' '}
              {isOver ? <span className="text-missed">✕ their last day was</span> : 'until'} {sayDate(soonest.by)}
              {' · '}
            </>
          )}
          <Link className="link-ink" to="/settle/claims">
            {claims} to send
          </Link>
          {answered > 0 && (
            <>
              {' · '}
              <Link className="link-ink" to="/settle/claims?state=answered">
                {answered} to be paid
              </Link>
            </>
          )}
        </Decision>
      )}
    </>
  );
}
