// Cover verdict: one sentence, with a fold-out Why that lists every cover looked at, taken or refused, and the reason.
import { Link } from 'react-router';

type Considered = {
  readonly label: string;
  readonly agreementId: number | null;
  readonly taken: boolean;
  readonly reason: string;
};

export function CoverVerdict({
  sentence,
  promise,
  considered,
}: {
  sentence: string;
  promise: string;
  considered: readonly Considered[];
}) {
  const taken = considered.filter((c) => c.taken).length;
  return (
    <div>
      <p>
        {sentence} {promise}
      </p>
      <details className="mt-1">
        <summary className="quiet w-fit">
          <span className="link-ink">Why</span>:{' '}
          {considered.length === 0
            ? 'no cover reaches this asset'
            : `${considered.length === 1 ? 'one cover' : `${considered.length} covers`} looked at, ${taken === 0 ? 'none' : taken} taken`}
        </summary>
        <ul className="quiet mt-1 border-l border-hairline pl-3">
          {considered.map((c) => (
            <li key={c.label + c.reason}>
              <strong className="font-semibold">{c.taken ? 'taken' : 'refused'}</strong>:{' '}
              {c.agreementId === null ? (
                c.label
              ) : (
                <Link className="link-ink" to={`/agreements/${c.agreementId}`}>
                  {c.label}
                </Link>
              )}
              , {c.reason}
            </li>
          ))}
        </ul>
      </details>
    </div>
  );
}

/** What the agreements in question want said to whoever works with them. */
export function Reminders({ texts }: { texts: readonly string[] }) {
  return texts.map((text) => (
    <p key={text} className="mt-2 border border-base-content bg-base-100 px-3 py-1.5">
      {text}
    </p>
  ));
}
