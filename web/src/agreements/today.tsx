// What Today shows of agreements: what the reader was told, and notice dates that come soon.
import { Link } from 'react-router';
import { sayDate } from '../parts/words.ts';
import { Decision } from '../shell/today-card.tsx';
import { agreementsApi } from './endpoints.ts';

/** What the reader was told about agreements they look after, until they put it away. */
export function OwnNoticesCard() {
  const { data: notices } = agreementsApi.useReadNoticesQuery();
  const [see] = agreementsApi.useSeeNoticeMutation();
  if (!notices || notices.own.length === 0) return null;
  return (
    <section className="mt-7" aria-label="For you">
      <h2 className="pb-1.5">For you, who look after them</h2>
      <ul className="border-t border-hairline">
        {notices.own.map((n) => (
          <li key={n.id} className="flex items-baseline gap-3 border-b border-hairline py-1.5">
            <span className="flex-1">
              <Link className="link-ink" to={`/agreements/${n.agreementId}`}>
                {n.number} {n.name}
              </Link>{' '}
              <span className="quiet">{n.customer}</span> {n.text}
            </span>
            <Link className="link-ink" to="/agreements/renewals">
              decide
            </Link>
            <button className="link-ink" onClick={() => void see({ params: { id: String(n.id) } })}>
              put away
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

export function NoticeDates() {
  const { data: notices } = agreementsApi.useReadNoticesQuery();
  return notices?.coming.map((n) => (
    <Decision key={n.agreementId} what="Notice date" figure={sayDate(n.noticeBy)}>
      <Link className="link-ink" to={`/agreements/${n.agreementId}`}>
        {n.number} {n.name}
      </Link>{' '}
      · {n.customer}
    </Decision>
  ));
}
