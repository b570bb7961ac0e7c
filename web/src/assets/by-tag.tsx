// A label’s link names the tag; this opens the asset behind it.
import { Link, Navigate, useParams } from 'react-router';
import { finderApi } from '../finder/index.ts';
import { Waiting } from '../shell/waiting.tsx';

export function AssetByTag() {
  const { tag = '' } = useParams();
  const query = finderApi.useReadScanQuery({ query: { code: tag } });
  return (
    <Waiting query={query}>
      {({ assetId }) =>
        assetId === null ? (
          <p className="p-7">
            No asset has the tag <span className="serial">{tag}</span>.{' '}
            <Link className="link-ink" to="/register">
              Look in the register
            </Link>
          </p>
        ) : (
          <Navigate to={`/assets/${assetId}`} replace />
        )
      }
    </Waiting>
  );
}
