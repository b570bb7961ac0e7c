// Choosing an asset by a part of its tag, serial or model.
import type { ReactNode } from 'react';
import { Choose, type Choice } from '../parts/choose.tsx';
import { assetsApi } from './endpoints.ts';

const SHOWN = '20';

export function ChooseAsset({
  within = {},
  except = [],
  ...rest
}: {
  label: string;
  chosen: Choice | null;
  onChoose: (asset: Choice | null) => void;
  /** Only those of a customer, or in a state. */
  within?: { readonly customer?: string; readonly state?: 'in store' };
  except?: readonly number[];
  none?: string | undefined;
  hint?: ReactNode;
  error?: string | undefined;
  className?: string | undefined;
}) {
  return (
    <Choose
      {...rest}
      useFind={(typed, isOpen) => {
        const {
          currentData,
          data: before,
          isFetching,
        } = assetsApi.useListAssetsQuery(
          { query: { ...within, limit: SHOWN, ...(typed && { search: typed }) } },
          { skip: !isOpen },
        );
        // While it looks, what was found before stays: nothing moves away from under a press.
        const found = currentData ?? before;
        return {
          choices: (found?.items ?? [])
            .filter((a) => !except.includes(a.id))
            .map((a) => ({ id: a.id, mark: a.tag, name: `${a.className} ${a.model}`, beside: a.place })),
          more: (found?.next ?? null) !== null,
          isLooking: isFetching,
        };
      }}
    />
  );
}
