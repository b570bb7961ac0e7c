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
        Every promise, visit, pledge and credit of this period on paper, and the data that it follows from: ./stavok
        recompute works each promise out again from it, without a database.
      </p>
      <div className="mt-2 flex items-end gap-4">
        <div className="w-72">
          <ChooseCustomer label="Customer" chosen={customer} onChoose={setCustomer} />
        </div>
        {customer &&
          (
            [
              ['pdf', 'On paper'],
              ['csv', 'Promises as CSV'],
              ['json', 'Data of the statement'],
            ] as const
          ).map(([kind, text]) => (
            <a
              key={kind}
              className="act whitespace-nowrap"
              href={`/api/standing/statement.${kind}?${new URLSearchParams({ ...period, customer: String(customer.id) }).toString()}`}
            >
              {text}
            </a>
          ))}
      </div>
    </section>
  );
}
