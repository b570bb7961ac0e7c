// The year of upkeep of a customer, a place or an agreement: to look at, to print, and as a calendar feed.
import { useSearchParams } from 'react-router';
import { addFeed, type YearPlan } from '#api/year.ts';
import { localDateAt } from '#core/time/index.ts';
import { sayVisits } from '#core/upkeep/index.ts';
import { ChooseCustomer, useCustomerChoice } from '../../customers/index.ts';
import { SelectField } from '../../parts/fields.tsx';
import { useReader } from '../../shell/reader.tsx';
import { server } from '../../shell/store.ts';
import { Waiting } from '../../shell/waiting.tsx';
import { upkeepApi } from '../endpoints.ts';
import { UpkeepParts } from '../parts.tsx';
import { Feeds } from './feeds.tsx';
import { YearLegend, YearTable } from './year-table.tsx';

type Asked = { readonly customer?: string; readonly agreement?: string; readonly place?: string };

function Shown({ plan, query }: { plan: YearPlan; query: string }) {
  return (
    <>
      <div className="mt-4 flex flex-wrap items-baseline gap-x-5 gap-y-1">
        <h2>
          {plan.title}, {plan.year}
        </h2>
        <span className="quiet">{sayVisits(plan.visits, plan.prices)}</span>
        {plan.rows.length > 0 && (
          <a className="act" href={`/api/upkeep/year.pdf?${query}`} target="_blank" rel="noreferrer">
            Print
          </a>
        )}
      </div>
      {plan.rows.length === 0 ? (
        <p className="quiet mt-3 border-y border-hairline py-2">No visit lies in {plan.year}.</p>
      ) : (
        <>
          <YearLegend />
          <YearTable plan={plan} />
        </>
      )}
    </>
  );
}

export function YearRoom() {
  const reader = useReader();
  const [params, setParams] = useSearchParams();
  const { data: session } = server.useReadSessionQuery();
  const thisYear = Number(localDateAt(reader.zone, session?.now ?? (0 as never)).slice(0, 4));
  const year = params.get('year') ?? String(thisYear);
  const asked: Asked = Object.fromEntries(
    (['customer', 'agreement', 'place'] as const).flatMap((word) => {
      const value = params.get(word);
      return value === null ? [] : [[word, value]];
    }),
  );
  const isAsked = Object.keys(asked).length > 0;
  const customer = useCustomerChoice(asked.customer ?? '');
  const query = upkeepApi.useReadYearQuery({ query: { year, ...asked } }, { skip: !isAsked });
  const set = (word: string, value: string | null): void =>
    setParams(
      (before) => {
        if (value === null) before.delete(word);
        else before.set(word, value);
        return before;
      },
      { replace: true },
    );
  return (
    <div className="px-7 pt-5 pb-12">
      <UpkeepParts />
      <header className="mt-3 flex flex-wrap items-end gap-4">
        <h1>The year</h1>
        <ChooseCustomer
          chosen={customer}
          onChoose={(c) => {
            setParams(c ? { year, customer: String(c.id) } : { year }, { replace: true });
          }}
          none="choose a customer"
          className="w-64"
        />
        <SelectField
          label="Year"
          value={year}
          onChange={(value) => set('year', value)}
          options={[thisYear - 1, thisYear, thisYear + 1].map((y) => [String(y), String(y)] as const)}
          className="w-28"
        />
      </header>
      {isAsked ? (
        <Waiting query={{ ...query, data: query.error ? undefined : query.data }}>
          {(plan) => <Shown plan={plan} query={new URLSearchParams({ year, ...asked }).toString()} />}
        </Waiting>
      ) : (
        <p className="quiet mt-4 border-y border-hairline py-2">
          Choose a customer, or come here from a place or an agreement.
        </p>
      )}
      {reader.may(addFeed) && <Feeds customer={customer} placeId={asked.place ?? null} />}
    </div>
  );
}
