// Choosing a customer by a part of its name.
import type { ReactNode } from 'react';
import { Choose, type Choice } from '../parts/choose.tsx';
import { customersApi } from './endpoints.ts';

const SHOWN = '20';

/** `known` spares asking again for the name of one whose id alone is known. */
export function ChooseCustomer({
  chosen,
  onChoose,
  except = [],
  ...rest
}: {
  label?: string;
  chosen: Choice | null;
  onChoose: (customer: Choice | null) => void;
  /** Ids that are not offered. */
  except?: readonly number[];
  none?: string | undefined;
  hint?: ReactNode;
  error?: string | undefined;
  className?: string | undefined;
}) {
  return (
    <Choose
      label="Customer"
      {...rest}
      chosen={chosen}
      onChoose={onChoose}
      useFind={(typed, isOpen) => {
        const {
          currentData,
          data: before,
          isFetching,
        } = customersApi.useListCustomersQuery(
          { query: { limit: SHOWN, ...(typed && { search: typed }) } },
          { skip: !isOpen },
        );
        // While it looks, what was found before stays: nothing moves away from under a press.
        const found = currentData ?? before;
        const items = (found?.items ?? []).filter((c) => !except.includes(c.id));
        return {
          choices: items.map((c) => ({ id: c.id, name: c.name, beside: c.serviceAddress ?? '' })),
          more: (found?.next ?? null) !== null,
          isLooking: isFetching,
        };
      }}
    />
  );
}

/** The customer of an id, as a choice; null until its name is known. */
export function useCustomerChoice(id: string): Choice | null {
  const { currentData } = customersApi.useReadCustomerQuery({ params: { id } }, { skip: id === '' });
  return id === '' ? null : { id: Number(id), name: currentData?.name ?? '' };
}
