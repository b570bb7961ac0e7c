// What a run is asked for: the date it goes to, and what it looks at: a customer, one of their agreements or places, a depot, a month.
import { addDays, addMonths, SHORT_MONTHS, type LocalDate } from '#core/time/index.ts';
import { agreementsApi } from '../agreements/index.ts';
import { ChooseCustomer, useCustomerChoice } from '../customers/index.ts';
import { DateField } from '../parts/date-field.tsx';
import { SelectField } from '../parts/fields.tsx';
import { ChoosePlace, namedPlaces, placesApi } from '../places/index.ts';
import { setupApi } from '../setup/index.ts';
import { useScope, type Scope, type ScopeChange } from './scope.ts';

const AHEAD = [
  ['today', 0],
  ['in 2 weeks', 14],
  ['in 6 weeks', 42],
  ['in 3 months', 91],
] as const;

type SetScope = (change: ScopeChange) => void;

/** Of a customer: one agreement, one place. */
function OfCustomer({ customer, scope, set }: { customer: string; scope: Scope; set: SetScope }) {
  const agreements =
    agreementsApi.useListAgreementsQuery({ query: { customer, limit: '200' } }).currentData?.items ?? [];
  const tree = placesApi.useReadTreeQuery({ params: { id: customer } }).currentData;
  const place = namedPlaces(tree?.nodes ?? []).find((n) => String(n.id) === scope.place) ?? null;
  return (
    <>
      <SelectField
        label="Agreement"
        value={scope.agreement ?? ''}
        onChange={(id) => set({ agreement: id === '' ? null : id })}
        options={[
          ['', 'all agreements'],
          ...agreements.filter((a) => a.stage !== 'ended').map((a) => [String(a.id), `${a.number} ${a.name}`] as const),
        ]}
        className="w-56"
      />
      <ChoosePlace
        customer={customer}
        label="Place"
        chosen={place}
        onChoose={(p) => set({ place: p ? String(p.id) : null })}
        none="every place"
        className="w-64"
      />
    </>
  );
}

/** The month visits are planned for: this one and those of the coming year. */
const monthsFrom = (today: LocalDate): (readonly [string, string])[] =>
  Array.from({ length: 13 }, (_, i) => {
    const month = addMonths(today, i).slice(0, 7);
    return [month, `${SHORT_MONTHS[Number(month.slice(5)) - 1]} ${month.slice(0, 4)}`] as const;
  });

export function Asked({
  typed,
  choose,
  today,
  begin,
}: {
  typed: string;
  choose: (to: string) => void;
  today: LocalDate;
  /** The first page again: what is looked at is another. */
  begin: () => void;
}) {
  const [scope, setScope] = useScope();
  const set: SetScope = (change) => {
    begin();
    setScope(change);
  };
  const customer = useCustomerChoice(scope.customer ?? '');
  const depots = setupApi.useReadReferenceQuery().data?.depots ?? [];
  return (
    <header className="mt-3 space-y-2">
      <div className="flex flex-wrap items-end gap-3">
        <h1>Upkeep run</h1>
        <DateField label="Raise everything due to be raised by" value={typed} onChange={choose} className="w-56" />
        <div className="flex gap-2 pb-0.5">
          {AHEAD.map(([name, n]) => (
            <button key={name} className="act" onClick={() => choose(addDays(today, n))}>
              {name}
            </button>
          ))}
        </div>
      </div>
      <div className="flex flex-wrap items-end gap-3">
        <ChooseCustomer
          chosen={customer}
          // An agreement or place of another customer would leave nothing to look at.
          onChoose={(c) => set({ customer: c ? String(c.id) : null, agreement: null, place: null })}
          none="every customer"
          className="w-48"
        />
        {depots.length > 0 && (
          <SelectField
            label="Depot"
            value={scope.depot ?? ''}
            onChange={(id) => set({ depot: id === '' ? null : id })}
            options={[['', 'all depots'], ...depots.map((d) => [String(d.id), d.name] as const)]}
            className="w-36"
          />
        )}
        {scope.customer !== undefined && <OfCustomer customer={scope.customer} scope={scope} set={set} />}
        <SelectField
          label="Planned for"
          value={scope.month ?? ''}
          onChange={(month) => set({ month: month === '' ? null : month })}
          options={[['', 'any month'], ...monthsFrom(today)]}
          className="w-32"
        />
      </div>
    </header>
  );
}
