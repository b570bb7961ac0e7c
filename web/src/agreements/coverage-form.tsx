// Adding or changing coverage: which machines, and what they are given. Used for drafts and inside an amendment.
import { useState } from 'react';
import { type AgreementPage, changeLines, type LineChange, type LineTerms } from '#api/agreements/index.ts';
import { SelectField } from '../parts/fields.tsx';
import { plural } from '../parts/words.ts';
import { ChooseAsset } from '../assets/index.ts';
import type { Choice } from '../parts/choose.tsx';
import { useWireForm, Wire, WireForm, type Bound } from '../parts/wire-form.tsx';
import { ChoosePlace, namedPlaces, placesApi } from '../places/index.ts';
import { setupApi } from '../setup/index.ts';
import { NEW_TERMS, TermsFields } from './terms-fields.tsx';

/** Takes a change: writes it to a draft, or keeps it for the amendment in the making. */
export type ApplyChange = (change: LineChange) => Promise<{ data?: unknown; error?: unknown }>;

/** The one change a form makes, where its refusals come back: at `changes.0…`. */
export type OneChange<Act extends LineChange['act']> = { changes: [Extract<LineChange, { act: Act }>] };

type AddReach = OneChange<'add'>['changes'][0]['reach'];

function PickedAssets({
  customer,
  picked,
  pick,
  error,
}: {
  customer: string;
  picked: readonly Choice[];
  pick: (picked: readonly Choice[]) => void;
  error: string | undefined;
}) {
  return (
    <fieldset>
      <legend className="quiet">Assets, {picked.length} picked</legend>
      <ChooseAsset
        label="Pick one more"
        within={{ customer }}
        chosen={null}
        onChoose={(asset) => asset && pick([...picked, asset])}
        except={picked.map((a) => a.id)}
        error={error}
      />
      <ul className="mt-1 grid max-h-44 grid-cols-2 gap-x-4 overflow-y-auto">
        {picked.map((a) => (
          <li key={a.id} className="flex items-baseline gap-1.5 border-b border-hairline py-0.5">
            <span className="serial">{a.mark}</span> <span className="min-w-0 flex-1 truncate">{a.name}</span>
            <button type="button" className="quiet link-ink" onClick={() => pick(picked.filter((p) => p.id !== a.id))}>
              remove
            </button>
          </li>
        ))}
      </ul>
    </fieldset>
  );
}

/** Which machines: `change` takes the reach as it travels; `first` is the place that is offered to begin with. */
function ReachFields({
  agreement,
  first,
  value,
  change,
  error,
  errorAt,
}: Pick<Bound, 'error' | 'errorAt'> & {
  agreement: AgreementPage;
  first: Choice | null;
  value: AddReach;
  change: (reach: AddReach) => void;
}) {
  const customer = String(agreement.customer.id);
  const { data: reference } = setupApi.useReadReferenceQuery();
  const [location, setLocation] = useState(first);
  const [picked, setPicked] = useState<readonly Choice[]>([]);
  const classes = reference?.classes ?? [];
  const reachOf = (kind: AddReach['kind'], place: Choice | null, assets: readonly Choice[]): AddReach =>
    (kind === 'assets'
      ? { kind, assetIds: assets.map((a) => a.id) }
      : kind === 'location'
        ? { kind, locationId: place?.id ?? NaN }
        : kind === 'class'
          ? { kind, assetClassId: classes[0]?.id ?? NaN }
          : { kind }) as AddReach;
  return (
    <>
      <div className="grid grid-cols-[1fr_2fr] gap-4">
        <SelectField
          label="Covers"
          value={value.kind}
          onChange={(kind) => change(reachOf(kind as AddReach['kind'], location, picked))}
          options={[
            ['location', 'everything below a location'],
            ['assets', 'picked assets'],
            ['class', 'a class at the customer'],
            ['own fleet', 'our own fleet at the customer'],
          ]}
          error={value.kind === 'own fleet' ? error : errorAt('kind')}
        />
        {value.kind === 'location' && (
          <ChoosePlace
            label="Location"
            customer={customer}
            chosen={location}
            onChoose={(place) => {
              setLocation(place);
              change(reachOf('location', place, picked));
            }}
            error={errorAt('locationId')}
          />
        )}
        {value.kind === 'class' && (
          <SelectField
            label="Class"
            value={String(value.assetClassId)}
            onChange={(id) => change({ kind: 'class', assetClassId: Number(id) } as AddReach)}
            options={classes.map((c) => [String(c.id), c.name])}
            error={errorAt('assetClassId')}
          />
        )}
      </div>
      {value.kind === 'assets' && (
        <PickedAssets
          customer={customer}
          picked={picked}
          pick={(assets) => {
            setPicked(assets);
            change(reachOf('assets', location, assets));
          }}
          error={errorAt('assetIds')}
        />
      )}
    </>
  );
}

/** Asked once the server found that a line names what another names already. */
export function Alongside({
  error,
  value,
  onChange,
}: {
  error: string | undefined;
  value: boolean;
  onChange: (value: boolean) => void;
}) {
  if (error === undefined && !value) return null;
  return (
    <div>
      {error && (
        <p role="alert" className="text-missed">
          ✕ {error}
        </p>
      )}
      <label className="flex items-center gap-1.5">
        <input type="checkbox" className="box-tick" checked={value} onChange={(e) => onChange(e.target.checked)} />
        Both lines are meant to stand
      </label>
    </div>
  );
}

export function WireAlongside() {
  return (
    <Wire<boolean | undefined> name="changes.0.alongside">
      {({ value, change, error }) => <Alongside error={error} value={value ?? false} onChange={change} />}
    </Wire>
  );
}

type AddProps = { agreement: AgreementPage; start?: LineTerms; apply: ApplyChange; onDone: () => void };

function AddForm({ agreement, start, apply, onDone, first }: AddProps & { first: Choice | null }) {
  const form = useWireForm<OneChange<'add'>>(changeLines as never, {
    changes: [
      {
        act: 'add',
        // Mostly everything the customer has, or its first site.
        reach: { kind: 'location', locationId: (first?.id ?? NaN) as never },
        terms: start ?? NEW_TERMS,
        alongside: false,
      },
    ],
  });
  return (
    <WireForm
      form={form}
      name="Add coverage"
      save="Add the coverage"
      send={({ changes: [change] }) => apply(change)}
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <Wire<AddReach> name="changes.0.reach">
        {(bound) => <ReachFields {...bound} agreement={agreement} first={first} />}
      </Wire>
      <TermsFields at="changes.0.terms" own={{ currency: agreement.currency, per: agreement.billingPer }} />
      <WireAlongside />
    </WireForm>
  );
}

export function AddCoverage(given: AddProps) {
  const { currentData: tree } = placesApi.useReadTreeQuery({ params: { id: String(given.agreement.customer.id) } });
  return tree ? <AddForm {...given} first={namedPlaces(tree.nodes)[0] ?? null} /> : null;
}

/** Changes one line or many: what is said here holds for all of them. */
export function ChangeCoverage({
  agreement,
  lineIds,
  apply,
  onDone,
}: {
  agreement: AgreementPage;
  lineIds: readonly number[];
  apply: ApplyChange;
  onDone: () => void;
}) {
  const first = agreement.lines.find((l) => l.id === lineIds[0]);
  const form = useWireForm<OneChange<'change'>>(changeLines as never, {
    changes: [{ act: 'change', lineIds: [...lineIds] as never, terms: first?.terms ?? NEW_TERMS }],
  });
  return (
    <WireForm
      form={form}
      name="Change coverage"
      save={`Change ${plural(lineIds.length, 'line')}`}
      send={({ changes: [change] }) => {
        // Each line keeps its own dates unless only one is changed.
        const { from, to, ...same } = change.terms;
        return apply({
          ...change,
          terms: lineIds.length === 1 ? { ...same, from: from ?? null, to: to ?? null } : same,
        });
      }}
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <p>
        {lineIds.length === 1
          ? first?.label
          : `${plural(lineIds.length, 'line')}: what stands here, taken from the first, will hold for all of them; each keeps its own dates.`}
      </p>
      <TermsFields at="changes.0.terms" own={{ currency: agreement.currency, per: agreement.billingPer }} />
    </WireForm>
  );
}
