// Scanning a label with the camera: what is read opens the asset, the part or its unit.
import { useNavigate } from 'react-router';
import type { Scanned } from '#api/assets.ts';
import { Camera } from '../parts/camera.tsx';
import { finderApi } from './endpoints.ts';

/** Where what was scanned is shown; null: it is nothing of ours. */
export function pathOf({ assetId, part }: Pick<Scanned, 'assetId' | 'part'>): string | null {
  if (assetId !== null) return `/assets/${assetId}`;
  if (part === null) return null;
  return part.serial === null
    ? `/stores/parts/${part.id}`
    : `/stores/parts/${part.id}/unit?serial=${encodeURIComponent(part.serial)}`;
}

/** Reads codes from the camera until one is an asset’s or a part’s. */
export function Scanner({ onFound, onClose }: { onFound: () => void; onClose: () => void }) {
  const navigate = useNavigate();
  const [look] = finderApi.useLazyReadScanQuery();
  const read = async (code: string): Promise<string | null> => {
    const { data } = await look({ query: { code } });
    const path = data && pathOf(data);
    if (!path) return `“${data?.read ?? code}” is no asset of the register, and no part.`;
    onFound();
    void navigate(path);
    return null;
  };
  return (
    <div className="mt-2">
      <Camera read={read} />
      <button className="act" onClick={onClose}>
        Stop scanning
      </button>
    </div>
  );
}
