// Adding coverage to a draft: which assets, which shares, which service level.
import { useState } from 'react';
import { Link } from 'react-router';
import type { AgreementPage } from '#api/agreements.ts';
import { CAUSES, COST_ELEMENTS, type Cause, type CostElement } from '#core/entitlement/index.ts';
import { ORDER_KINDS, type OrderKind } from '#core/orders/index.ts';
import { NumberField, SelectField, Ticks, useSubmit } from '../parts/fields.tsx';
import { Form } from '../parts/form.tsx';
import { server } from '../shell/store.ts';

type ReachKind = 'assets' | 'location' | 'class';

export function CoverageForm({ agreement, onDone }: { agreement: AgreementPage; onDone: () => void }) {
  const customer = String(agreement.customer.id);
  const { data: reference } = server.useReadReferenceQuery();
  const { data: tree } = server.useReadTreeQuery({ params: { id: customer } });
  const { data: assets } = server.useListAssetsQuery({ query: { customer, limit: '200' } });
  const [kind, setKind] = useState<ReachKind>('location');
  const [location, setLocation] = useState('');
  const [assetClass, setAssetClass] = useState('');
  const [picked, setPicked] = useState<ReadonlySet<number>>(new Set());
  const [shares, setShares] = useState<Record<CostElement, number>>({ labour: 100, parts: 100, travel: 100 });
  const [level, setLevel] = useState('');
  const [kinds, setKinds] = useState<OrderKind[]>(['preventive', 'repair']);
  const [excluded, setExcluded] = useState<Cause[]>(['misuse', 'consumable']);
  const [add, { isLoading }] = server.useAddCoverageMutation();
  const { errors, submit } = useSubmit(['reach', 'shares', 'serviceLevelId', 'kinds']);
  const places = tree?.nodes ?? [];
  const byId = new Map(places.map((n) => [n.id, n]));
  const pathOf = (id: number): string => {
    const node = byId.get(id);
    return node
      ? `${node.parentId !== null && byId.has(node.parentId) ? `${pathOf(node.parentId)} › ` : ''}${node.name}`
      : '';
  };
  const reach =
    kind === 'assets'
      ? { kind, assetIds: [...picked] }
      : kind === 'location'
        ? { kind, locationId: Number(location || places[0]?.id) }
        : { kind, assetClassId: Number(assetClass || reference?.classes[0]?.id) };
  const send = async (): Promise<void> => {
    if (
      await submit(
        add({
          params: { id: String(agreement.id) },
          body: { reach, shares, serviceLevelId: level ? Number(level) : null, kinds, excludedCauses: excluded },
        }),
      )
    )
      onDone();
  };
  return (
    <Form
      name="Add coverage"
      save="Add the coverage"
      onSave={() => send()}
      onCancel={onDone}
      errors={errors}
      disabled={isLoading}
      sheet
    >
      <div className="grid grid-cols-[1fr_2fr] gap-4">
        <SelectField
          label="Covers"
          value={kind}
          onChange={(v) => setKind(v as ReachKind)}
          options={[
            ['location', 'everything below a location'],
            ['assets', 'picked assets'],
            ['class', 'a class at the customer'],
          ]}
          error={errors.of('reach')}
        />
        {kind === 'location' && (
          <SelectField
            label="Location"
            value={location || String(places[0]?.id ?? '')}
            onChange={setLocation}
            options={places.map((n) => [String(n.id), pathOf(n.id)])}
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
          <legend className="quiet">Assets, {picked.size} picked</legend>
          <div className="mt-1 grid max-h-44 grid-cols-3 gap-x-4 overflow-y-auto border-y border-hairline py-1">
            {(assets?.items ?? []).map((a) => (
              <label key={a.id} className="flex items-center gap-1.5">
                <input
                  type="checkbox"
                  className="box-tick"
                  checked={picked.has(a.id)}
                  onChange={(e) =>
                    setPicked(new Set(e.target.checked ? [...picked, a.id] : [...picked].filter((x) => x !== a.id)))
                  }
                />
                <span className="serial">{a.tag}</span> <span className="truncate">{a.className}</span>
              </label>
            ))}
          </div>
          {assets?.next && (
            <p className="quiet">The first 200 assets are listed; use a location or a class for more.</p>
          )}
        </fieldset>
      )}
      <div className="grid grid-cols-[1fr_1fr_1fr_2fr] gap-4">
        {COST_ELEMENTS.map((e) => (
          <NumberField
            key={e}
            label={`${e.charAt(0).toUpperCase()}${e.slice(1)} we bear, %`}
            value={shares[e]}
            min={0}
            max={100}
            onChange={(n) => setShares({ ...shares, [e]: n })}
            error={errors.of(`shares.${e}`)}
          />
        ))}
        <SelectField
          label="Service level"
          value={level}
          onChange={setLevel}
          options={[
            ['', 'none'],
            ...(reference?.serviceLevels ?? []).map((l): [string, string] => [String(l.id), l.name]),
          ]}
          error={errors.of('serviceLevelId')}
          hint={
            reference?.serviceLevels.length === 0 ? (
              <>
                None exists yet:{' '}
                <Link className="link-ink" to="/setup/service-levels">
                  write one in Setup
                </Link>
                .
              </>
            ) : undefined
          }
        />
      </div>
      <div className="grid grid-cols-2 gap-4">
        <Ticks label="Kinds of work included" values={ORDER_KINDS} chosen={kinds} onChange={setKinds} />
        <Ticks label="Causes left out" values={CAUSES} chosen={excluded} onChange={setExcluded} />
      </div>
      {errors.of('kinds') && <p className="text-missed">✕ {errors.of('kinds')}</p>}
    </Form>
  );
}
