// The statement of a customer: what they are given to work every promise out again.
import { useState } from 'react';
import type { LocalDate } from '#core/time/index.ts';
import { ChooseCustomer } from '../customers/index.ts';
import type { Choice } from '../parts/choose.tsx';

export function StatementFile({ period }: { period: { readonly from: LocalDate; readonly to: LocalDate } }) {
  const [customer, setCustomer] = useState<Choice | null>(null);
  return (
    <section className="mt-10 max-w-xl" aria-label="Statement of a customer">
      <h2>Statement of a customer</h2>
      <p className="quiet">
        Every promise of this period with all that it follows from, as a file: ./stavok recompute works each of them out
        again without a database.
      </p>
      <div className="mt-2 flex items-end gap-4">
        <div className="w-72">
          <ChooseCustomer label="Customer" chosen={customer} onChoose={setCustomer} />
        </div>
        {customer && (
          <a
            className="act"
            href={`/api/standing/statement.json?${new URLSearchParams({ ...period, customer: String(customer.id) }).toString()}`}
          >
            Data of the statement
          </a>
        )}
      </div>
    </section>
  );
}
