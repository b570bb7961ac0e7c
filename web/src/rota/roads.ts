// How travel is reckoned in this house, for whatever is looked at before it is let go.
import { useMemo } from 'react';
import { knownTimes, type Roads } from '#core/rota/index.ts';
import { rotaApi } from './endpoints.ts';

export function useRoads(): Roads | undefined {
  const { data } = rotaApi.useReadTravelQuery();
  return useMemo(() => {
    if (!data) return undefined;
    const { detour, bands, fixedMinutes, known } = data;
    return { rules: { detour, bands, fixedMinutes }, known: knownTimes(known) };
  }, [data]);
}
