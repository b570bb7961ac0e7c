// What a run looks at, as the address names it.
import { useSearchParams } from 'react-router';

export const SCOPE_WORDS = ['customer', 'agreement', 'place', 'depot', 'month'] as const;
export type Scope = Readonly<Partial<Record<(typeof SCOPE_WORDS)[number], string>>>;

/** What is to be looked at besides; null: no more. */
export type ScopeChange = { readonly [W in keyof Scope]: Scope[W] | null };

export function useScope(): [Scope, (change: ScopeChange) => void] {
  const [params, setParams] = useSearchParams();
  const scope: Scope = Object.fromEntries(
    SCOPE_WORDS.flatMap((word) => {
      const value = params.get(word);
      return value === null ? [] : [[word, value]];
    }),
  );
  return [
    scope,
    (change) =>
      setParams(
        (before) => {
          for (const [word, value] of Object.entries(change))
            if (value === null) before.delete(word);
            else before.set(word, value);
          return before;
        },
        { replace: true },
      ),
  ];
}

/** The same as the act takes it. */
export const scopeBody = ({ customer, agreement, place, depot, month }: Scope) => ({
  ...(customer !== undefined && { customerId: Number(customer) }),
  ...(agreement !== undefined && { agreementId: Number(agreement) }),
  ...(place !== undefined && { locationId: Number(place) }),
  ...(depot !== undefined && { depotId: Number(depot) }),
  ...(month !== undefined && { month }),
});
