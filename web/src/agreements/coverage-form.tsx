// Adding or changing coverage: which machines, and what they are given. Used for drafts and inside an amendment.
import { useState } from 'react';
import type { AgreementPage } from '#api/agreements.ts';
import type { LineChange, LineTerms } from '#api/terms.ts';
import { SelectField, useSubmit } from '../parts/fields.tsx';
import { Form } from '../parts/form.tsx';
import { plural } from '../parts/words.ts';
import { ChooseAsset } from '../assets/index.ts';
import type { Choice } from '../parts/choose.tsx';
import { ChoosePlace, namedPlaces, placesApi } from '../places/index.ts';
import { setupApi } from '../setup/index.ts';
import { NEW_TERMS, TermsFields } from './terms-fields.tsx';

/** Takes a change: writes it to a draft, or keeps it for the amendment in the making. */
export type ApplyChange = (change: LineChange) => Promise<{ data?: unknown; error?: unknown }>;

type ReachKind = 'location' | 'assets' | 'class' | 'own fleet';
type AddReach = Extract<LineChange, { act: 'add' }>['reach'];

function useReach(agreement: AgreementPage) {
  const customer = String(agreement.customer.id);
  const { data: reference } = setupApi.useReadReferenceQuery();
  const [kind, setKind] = useState<ReachKind>('location');
  const { currentData: tree } = placesApi.useReadTreeQuery({ params: { id: customer } });
  const [picking, setLocation] = useState<Choice | null>(null);
  // Mostly everything the customer has, or its first site.
  const location = picking ?? (tree && namedPlaces(tree.nodes)[0]) ?? null;
  const [assetClass, setAssetClass] = useState('');
  const [picked, setPicked] = useState<readonly Choice[]>([]);
  const reach = (
    kind === 'assets'
      ? { kind, assetIds: picked.map((a) => a.id) }
      : kind === 'location'
        ? { kind, locationId: location?.id }
        : kind === 'class'
          ? { kind, assetClassId: Number(assetClass || reference?.classes[0]?.id) }
          : { kind }
  ) as AddReach;
  return {
    reach,
    fields: (error: (field: string) => string | undefined) => (
      <>
        <div className="grid grid-cols-[1fr_2fr] gap-4">
          <SelectField
            label="Covers"
            value={kind}
            onChange={(v) => setKind(v as ReachKind)}
            options={[
              ['location', 'everything below a location'],
              ['assets', 'picked assets'],
              ['class', 'a class at the customer'],
              ['own fleet', 'our own fleet at the customer'],
            ]}
            error={error('reach')}
          />
          {kind === 'location' && (
            <ChoosePlace
              label="Location"
              customer={customer}
              chosen={location}
              onChoose={setLocation}
              error={error('reach.locationId')}
            />
          )}
          {kind === 'class' && (
            <SelectField
              label="Class"
              value={assetClass || String(reference?.classes[0]?.id ?? '')}
              onChange={setAssetClass}
              options={(reference?.classes ?? []).map((c) => [String(c.id), c.name])}
            />
          )}
        </div>
        {kind === 'assets' && (
          <fieldset>
            <legend className="quiet">Assets, {picked.length} picked</legend>
            <ChooseAsset
              label="Pick one more"
              within={{ customer }}
              chosen={null}
              onChoose={(asset) => asset && setPicked([...picked, asset])}
              except={picked.map((a) => a.id)}
              error={error('reach.assetIds')}
            />
            <ul className="mt-1 grid max-h-44 grid-cols-2 gap-x-4 overflow-y-auto">
              {picked.map((a) => (
                <li key={a.id} className="flex items-baseline gap-1.5 border-b border-hairline py-0.5">
                  <span className="serial">{a.mark}</span> <span className="min-w-0 flex-1 truncate">{a.name}</span>
                  <button
                    type="button"
                    className="quiet link-ink"
                    onClick={() => setPicked(picked.filter((p) => p.id !== a.id))}
                  >
                    remove
                  </button>
                </li>
              ))}
            </ul>
          </fieldset>
        )}
      </>
    ),
  };
}

/** Errors come back as `changes.0.terms.shares.labour`; the form knows them as `shares.labour`. */
const FIELDS = ['changes'] as const;
const errorIn = (of: (field: string) => string | undefined, part: string) => (field: string) => of(`${part}.${field}`);

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

export function AddCoverage({
  agreement,
  start,
  apply,
  onDone,
}: {
  agreement: AgreementPage;
  start?: LineTerms;
  apply: ApplyChange;
  onDone: () => void;
}) {
  const { reach, fields } = useReach(agreement);
  const [terms, setTerms] = useState<LineTerms>(start ?? NEW_TERMS);
  const [alongside, setAlongside] = useState(false);
  const [busy, setBusy] = useState(false);
  const { errors, submit } = useSubmit(FIELDS);
  const doubled = errors.of('changes.0.alongside');
  const save = async (): Promise<void> => {
    setBusy(true);
    const done = await submit(apply({ act: 'add', reach, terms, ...(alongside && { alongside }) }));
    setBusy(false);
    if (done) onDone();
  };
  return (
    <Form
      name="Add coverage"
      save="Add the coverage"
      onSave={save}
      onCancel={onDone}
      errors={errors}
      disabled={busy}
      sheet
    >
      {fields((field) => errorIn(errors.of, 'changes.0')(field))}
      <TermsFields
        terms={terms}
        change={setTerms}
        error={errorIn(errors.of, 'changes.0.terms')}
        currency={agreement.currency}
        per={agreement.billingPer}
      />
      <Alongside error={doubled} value={alongside} onChange={setAlongside} />
    </Form>
  );
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
  const [terms, setTerms] = useState<LineTerms>(first?.terms ?? NEW_TERMS);
  const [busy, setBusy] = useState(false);
  const { errors, submit } = useSubmit(FIELDS);
  const save = async (): Promise<void> => {
    setBusy(true);
    // Each line keeps its own dates unless only one is changed.
    const { from, to, ...same } = terms;
    const done = await submit(
      apply({
        act: 'change',
        lineIds: [...lineIds] as never,
        terms: lineIds.length === 1 ? { ...same, from, to } : same,
      }),
    );
    setBusy(false);
    if (done) onDone();
  };
  return (
    <Form
      name="Change coverage"
      save={`Change ${plural(lineIds.length, 'line')}`}
      onSave={save}
      onCancel={onDone}
      errors={errors}
      disabled={busy}
      sheet
    >
      <p>
        {lineIds.length === 1
          ? first?.label
          : `${plural(lineIds.length, 'line')}: what stands here, taken from the first, will hold for all of them; each keeps its own dates.`}
      </p>
      <TermsFields
        terms={terms}
        change={setTerms}
        error={errorIn(errors.of, 'changes.0.terms')}
        currency={agreement.currency}
        per={agreement.billingPer}
      />
    </Form>
  );
}
