// A label’s link names the number; this opens the part behind it.
import { Link, Navigate, useParams } from 'react-router';
import { finderApi } from '../finder/index.ts';
import { Waiting } from '../shell/waiting.tsx';

export function PartByLabel() {
  const { number = '' } = useParams();
  const query = finderApi.useReadScanQuery({ query: { code: `/stores/scan/${encodeURIComponent(number)}` } });
  return (
    <Waiting query={query}>
      {({ part }) =>
        part === null ? (
          <p className="p-7">
            No part has the number <span className="serial">{number}</span>.{' '}
            <Link className="link-ink" to="/stores">
              Look in the parts list
            </Link>
          </p>
        ) : (
          <Navigate to={`/stores/parts/${part.id}`} replace />
        )
      }
    </Waiting>
  );
}
