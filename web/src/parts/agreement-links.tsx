// Agreements in short: number and name, where they stand and until when, each leading to its page.
import { Link } from 'react-router';
import type { LocalDate } from '#core/time/index.ts';
import { sayDate } from './words.ts';

type InShort = {
  readonly id: number;
  readonly number: string;
  readonly name: string;
  readonly stage: string;
  readonly to: LocalDate | null;
};

export function AgreementLinks({ agreements }: { agreements: readonly InShort[] }) {
  return agreements.map((a) => (
    <p key={a.id}>
      <Link className="link-ink" to={`/agreements/${a.id}`}>
        {a.number} {a.name}
      </Link>{' '}
      <span className="quiet">
        {a.stage}, {a.to ? `to ${sayDate(a.to)}` : 'open-ended'}
      </span>
    </p>
  ));
}
