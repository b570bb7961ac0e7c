// What a run, a load or a year looks at, as an address asks for it.
import type { RunScope } from '#core/upkeep/index.ts';

type ScopeQuery = {
  readonly customer?: RunScope['customerId'];
  readonly agreement?: RunScope['agreementId'];
  readonly place?: RunScope['locationId'];
  readonly depot?: RunScope['depotId'];
  readonly month?: string;
};

export const scopeOf = ({
  customer: customerId,
  agreement: agreementId,
  place: locationId,
  depot: depotId,
  month,
}: ScopeQuery): RunScope => ({
  ...(customerId !== undefined && { customerId }),
  ...(agreementId !== undefined && { agreementId }),
  ...(locationId !== undefined && { locationId }),
  ...(depotId !== undefined && { depotId }),
  ...(month !== undefined && { month }),
});
