// The upkeep of a whole place: every machine with what its class suggests, all schedules set in one matrix.
import { useEffect, useState } from 'react';
import { useSearchParams } from 'react-router';
import { group } from 'd3-array';
import { setFacility, type Facility } from '#api/facility.ts';
import type { Reference } from '#api/setup.ts';
import type { Problem } from '#api/shapes.ts';
import { WORKING_DAY_CONVENTIONS } from '#core/calendars/index.ts';
import { LEAD_UNITS } from '#core/upkeep/index.ts';
import { ChooseCustomer, useCustomerChoice } from '../../customers/index.ts';
import { GeneralError, NumberField, SelectField, useSubmit } from '../../parts/fields.tsx';
import { plural } from '../../parts/words.ts';
import { ChoosePlace, placesApi, namedPlaces } from '../../places/index.ts';
import { setupApi } from '../../setup/index.ts';
import { useReader } from '../../shell/reader.tsx';
import { Waiting } from '../../shell/waiting.tsx';
import { firstTerms } from '../editor/fields.tsx';
import { upkeepApi } from '../endpoints.ts';
import { FIRST_RULE_TEXT } from '../editor/rule-words.ts';
import { UpkeepParts } from '../parts.tsx';
import { ClassMatrix } from './matrix.tsx';
import { Outcome } from './outcome.tsx';
import { setsOf, type Days, type Matrix } from './sets.ts';

const FIRST_RULE_CADENCE = { kind: 'rule', rule: FIRST_RULE_TEXT } as const;

const { convention, earlyDays, lateDays, lead, leadUnit } = firstTerms(0, '');
const NONE: Matrix = {
  days: { convention, earlyDays, lateDays, lead, leadUnit },
  columns: new Map(),
  ticked: new Set(),
  own: new Map(),
  under: new Map(),
};

function DaysOfAll({ days, change }: { days: Days; change: (days: Days) => void }) {
  const number = (name: 'earlyDays' | 'lateDays' | 'lead', label: string) => (
    <NumberField
      label={label}
      value={days[name]}
      onChange={(value) => change({ ...days, [name]: value })}
      min={0}
      max={180}
      className="w-28"
    />
  );
  return (
    <fieldset className="mt-4 flex flex-wrap items-end gap-3">
      <legend className="quiet pb-1">For everything that is ticked</legend>
      <SelectField
        label="On closed days"
        value={days.convention}
        onChange={(value) => change({ ...days, convention: value as Days['convention'] })}
        options={WORKING_DAY_CONVENTIONS.map((c) => [c, c] as const)}
        className="w-52"
      />
      {number('earlyDays', 'Days early')}
      {number('lateDays', 'Days late')}
      {number('lead', 'Raised ahead')}
      <SelectField
        label="counted in"
        value={days.leadUnit}
        onChange={(value) => change({ ...days, leadUnit: value as Days['leadUnit'] })}
        options={LEAD_UNITS.map((u) => [u, u] as const)}
        className="w-36"
      />
    </fieldset>
  );
}

const ASKS_AFTER_MS = 400;

/** What was typed or ticked last, once it stands still. */
function useSettled<T>(value: T): T {
  const [settled, setSettled] = useState(value);
  const text = JSON.stringify(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), ASKS_AFTER_MS);
    return () => clearTimeout(timer);
    // By its text: it is made anew with every drawing.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [text]);
  return settled;
}

/** What is ticked comes to so much; made all together, or not at all. */
function Setting({
  facility,
  sets,
  jobPlans,
  onMade,
}: {
  facility: Facility;
  sets: ReturnType<typeof setsOf>;
  jobPlans: Reference['jobPlans'];
  onMade: (said: string) => void;
}) {
  const [send, { isLoading }] = upkeepApi.useSetFacilityMutation();
  const { errors, submit } = useSubmit([]);
  const asked = useSettled(sets);
  const body = { placeId: facility.place.id, sets: asked };
  const { currentData, error } = upkeepApi.usePreviewFacilityQuery({ body }, { skip: asked.length === 0 });
  const count = sets.reduce((sum, s) => sum + s.assetIds.length, 0);
  const problem = asked.length > 0 ? (error as Problem | undefined) : undefined;
  const make = async (): Promise<void> => {
    const made = await submit(send({ body: { placeId: facility.place.id, sets } }));
    if (made) onMade(`${plural(made.added, 'schedule')} made.`);
  };
  return (
    <section className="sheet sticky bottom-0 z-[4] mt-5 p-4" aria-label="What it comes to" aria-live="polite">
      {sets.length === 0 ? (
        <p className="quiet">Tick what is to be scheduled; what it comes to stands here before anything is made.</p>
      ) : problem ? (
        <p className="text-missed">✕ {problem.detail}</p>
      ) : currentData ? (
        <Outcome outcome={currentData} tagged={(id) => jobPlans.find((p) => p.id === id)?.name ?? 'A job plan'} />
      ) : (
        <p className="quiet">Working it out…</p>
      )}
      <GeneralError errors={errors} />
      {sets.length > 0 && (
        <button className="act-main mt-3" disabled={isLoading || problem !== undefined} onClick={() => void make()}>
          Make {plural(count, 'schedule')}
        </button>
      )}
    </section>
  );
}

function Place({ facility, reference }: { facility: Facility; reference: Reference }) {
  const maySet = useReader().may(setFacility);
  const [matrix, setMatrix] = useState(NONE);
  const [added, setAdded] = useState<ReadonlyMap<string, readonly number[]>>(new Map());
  const [said, setSaid] = useState<string | null>(null);
  const firstColumn = { cadence: FIRST_RULE_CADENCE, anchor: facility.today };
  const change = (next: Partial<Matrix>): void => setMatrix((before) => ({ ...before, ...next }));
  const uncovered = facility.machines.filter((m) => m.agreementIds.length === 0).length;
  const classes = [...group(facility.machines, (m) => m.className)].sort(([a], [b]) => (a < b ? -1 : 1));
  if (facility.machines.length === 0)
    return <p className="quiet mt-4 border-y border-hairline py-2">No machine stands at {facility.place.name}.</p>;
  return (
    <>
      <p className="mt-4">
        {plural(facility.machines.length, 'machine')} at {facility.place.name}.{' '}
        {facility.join && facility.join.days > 0
          ? `Visits due within ${plural(facility.join.days, 'day')} of each other make one order, as ${facility.join.from} says.`
          : 'Each visit makes an order of its own; the place can say that they join.'}
      </p>
      {uncovered > 0 && (
        <p className="quiet">
          {plural(uncovered, 'machine')} no agreement covers: nothing can be scheduled before one does.
        </p>
      )}
      {said && (
        <p role="status" className="mt-2 font-semibold">
          ✓ {said}
        </p>
      )}
      {maySet && <DaysOfAll days={matrix.days} change={(days) => change({ days })} />}
      {classes.map(([className, machines]) => (
        <ClassMatrix
          key={className}
          className={className}
          machines={machines}
          jobPlans={reference.jobPlans}
          added={added.get(className) ?? []}
          onAdd={(id) => setAdded(new Map([...added, [className, [...(added.get(className) ?? []), id]]]))}
          {...{ facility, matrix, change, firstColumn, maySet }}
        />
      ))}
      {maySet && (
        <Setting
          facility={facility}
          sets={setsOf(facility, matrix, firstColumn)}
          jobPlans={reference.jobPlans}
          onMade={(text) => {
            setSaid(text);
            change({ ticked: new Set(), own: new Map() });
          }}
        />
      )}
    </>
  );
}

export function FacilityRoom() {
  const [params, setParams] = useSearchParams();
  const [customerId, placeId] = [params.get('customer') ?? '', params.get('place') ?? ''];
  const customer = useCustomerChoice(customerId);
  const { data: tree } = placesApi.useReadTreeQuery({ params: { id: customerId } }, { skip: customerId === '' });
  const place = namedPlaces(tree?.nodes ?? []).find((n) => String(n.id) === placeId) ?? null;
  const { data: reference } = setupApi.useReadReferenceQuery();
  const query = upkeepApi.useReadFacilityQuery({ query: { place: placeId } }, { skip: placeId === '' });
  return (
    <div className="px-7 pt-5 pb-12">
      <UpkeepParts />
      <header className="mt-3 flex flex-wrap items-end gap-4">
        <h1>A whole place</h1>
        <ChooseCustomer
          chosen={customer}
          onChoose={(c) => setParams(c ? { customer: String(c.id) } : {}, { replace: true })}
          none="choose a customer"
          className="w-64"
        />
        {customerId !== '' && (
          <ChoosePlace
            customer={customerId}
            label="Place"
            chosen={place}
            onChoose={(p) => setParams({ customer: customerId, ...(p && { place: String(p.id) }) }, { replace: true })}
            none="choose a place"
            className="w-96"
          />
        )}
      </header>
      {placeId === '' ? (
        <p className="quiet mt-4">
          Choose a customer and a place: its machines come with what their classes suggest, to be scheduled together.
        </p>
      ) : (
        reference && (
          <Waiting query={{ ...query, data: query.error ? undefined : query.currentData }}>
            {(facility) => <Place key={facility.place.id} facility={facility} reference={reference} />}
          </Waiting>
        )
      )}
    </div>
  );
}
