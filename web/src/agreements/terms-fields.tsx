// What a coverage line gives: shares, promise, kinds of work, exclusions, discounts, labour hours, price and its own dates.
import { Link } from 'react-router';
import type { LineTerms } from '#api/terms.ts';
import { CAUSES, COST_ELEMENTS, type CostElement } from '#core/entitlement/index.ts';
import { ORDER_KINDS, type OrderKind } from '#core/orders/index.ts';
import type { LocalDate } from '#core/time/index.ts';
import { NumberField, SelectField, TextField, Ticks } from '../parts/fields.tsx';
import { DateField } from '../parts/date-field.tsx';
import { MoneyField } from '../parts/money-field.tsx';
import { setupApi } from '../setup/index.ts';

export const NEW_TERMS: LineTerms = {
  shares: { labour: 100, parts: 100, consumables: 0, travel: 100 },
  serviceLevelId: null,
  kinds: ['preventive', 'repair'],
  excludedCauses: ['misuse', 'consumable'],
  excludedParts: [],
  discounts: [],
  hours: null,
  priceMinor: null,
  from: null,
  to: null,
};

const named = (text: string): string => `${text.charAt(0).toUpperCase()}${text.slice(1)}`;

function Discounts({ terms, change, error }: FieldsProps) {
  const set = (i: number, over: Partial<LineTerms['discounts'][number]>): void =>
    change({ ...terms, discounts: terms.discounts.map((d, n) => (n === i ? { ...d, ...over } : d)) });
  return (
    <fieldset>
      <legend className="quiet pb-0.5">Discounts on what is left to the customer</legend>
      {terms.discounts.map((d, i) => (
        <div key={i} className="mb-2 grid grid-cols-[7rem_9rem_1fr_auto] items-end gap-3">
          <NumberField
            label="Percent off"
            value={d.percent}
            min={0}
            max={100}
            onChange={(percent) => set(i, { percent })}
            error={error(`discounts.${i}.percent`)}
          />
          <SelectField
            label="Of"
            value={d.element}
            onChange={(element) => set(i, { element: element as CostElement })}
            options={COST_ELEMENTS.map((e) => [e, e] as const)}
          />
          <Ticks
            label="For"
            values={ORDER_KINDS}
            chosen={d.kinds}
            onChange={(kinds: OrderKind[]) => set(i, { kinds })}
          />
          <button
            type="button"
            className="act"
            onClick={() => change({ ...terms, discounts: terms.discounts.filter((_, n) => n !== i) })}
          >
            Remove
          </button>
        </div>
      ))}
      <button
        type="button"
        className="link-ink"
        onClick={() =>
          change({ ...terms, discounts: [...terms.discounts, { element: 'labour', percent: 10, kinds: ['repair'] }] })
        }
      >
        Add a discount
      </button>
    </fieldset>
  );
}

function LabourHours({ terms, change, error }: FieldsProps) {
  const { data: reference } = setupApi.useReadReferenceQuery();
  const calendars = reference?.calendars ?? [];
  const { hours } = terms;
  return (
    <div className="grid grid-cols-3 gap-4">
      <SelectField
        label="Hours in which labour is covered"
        value={hours ? String(hours.calendarId) : ''}
        onChange={(id) =>
          change({
            ...terms,
            hours: id
              ? {
                  calendarId: Number(id) as NonNullable<LineTerms['hours']>['calendarId'],
                  shareOutside: hours?.shareOutside ?? 0,
                  surchargePercent: hours?.surchargePercent ?? 50,
                }
              : null,
          })
        }
        options={[['', 'any hour'], ...calendars.map((c) => [String(c.id), c.name] as const)]}
        error={error('hours.calendarId')}
      />
      {hours && (
        <>
          <NumberField
            label="Labour we bear outside them, %"
            value={hours.shareOutside}
            min={0}
            max={100}
            onChange={(shareOutside) => change({ ...terms, hours: { ...hours, shareOutside } })}
            error={error('hours.shareOutside')}
          />
          <NumberField
            label="Surcharge outside them, %"
            value={hours.surchargePercent}
            min={0}
            max={300}
            onChange={(surchargePercent) => change({ ...terms, hours: { ...hours, surchargePercent } })}
            error={error('hours.surchargePercent')}
          />
        </>
      )}
    </div>
  );
}

type FieldsProps = {
  terms: LineTerms;
  change: (terms: LineTerms) => void;
  error: (field: string) => string | undefined;
};

export function TermsFields({
  terms,
  change,
  error,
  ...rest
}: FieldsProps &
  (
    | { currency: string; per: string }
    | { /** Only what a type says: no price, dates, hours or service level. */ shared: true }
  )) {
  const own = 'shared' in rest ? null : rest;
  const { data: reference } = setupApi.useReadReferenceQuery();
  const levels = reference?.serviceLevels ?? [];
  return (
    <>
      <div className="grid grid-cols-[repeat(4,1fr)_2fr] gap-3">
        {COST_ELEMENTS.map((e) => (
          <NumberField
            key={e}
            label={`${named(e)} we bear, %`}
            value={terms.shares[e]}
            min={0}
            max={100}
            onChange={(n) => change({ ...terms, shares: { ...terms.shares, [e]: n } })}
            error={error(`shares.${e}`)}
          />
        ))}
        {own && (
          <SelectField
            label="Service level"
            value={terms.serviceLevelId === null ? '' : String(terms.serviceLevelId)}
            onChange={(id) =>
              change({ ...terms, serviceLevelId: id ? (Number(id) as NonNullable<LineTerms['serviceLevelId']>) : null })
            }
            options={[['', 'none'], ...levels.map((l) => [String(l.id), l.name] as const)]}
            error={error('serviceLevelId')}
            hint={
              reference && levels.length === 0 ? (
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
        )}
      </div>
      <div className="grid grid-cols-2 gap-4">
        <Ticks
          label="Kinds of work included"
          values={ORDER_KINDS}
          chosen={terms.kinds}
          onChange={(kinds) => change({ ...terms, kinds })}
        />
        <Ticks
          label="Causes left out"
          values={CAUSES}
          chosen={terms.excludedCauses}
          onChange={(excludedCauses) => change({ ...terms, excludedCauses })}
        />
      </div>
      {error('kinds') && <p className="text-missed">✕ {error('kinds')}</p>}
      <div className="grid grid-cols-[2fr_1fr_1fr_1fr] gap-3">
        <TextField
          label="Parts left out, by name or number"
          value={terms.excludedParts.join(', ')}
          onChange={(text) => change({ ...terms, excludedParts: text === '' ? [] : text.split(/,\s?/) })}
          error={error('excludedParts')}
          hint="Separated by commas; empty: none."
        />
        {own && (
          <>
            <MoneyField
              label={`Price per ${own.per}`}
              value={terms.priceMinor}
              currency={own.currency}
              onChange={(priceMinor) => change({ ...terms, priceMinor })}
              error={error('priceMinor')}
            />
            <DateField
              label="From (empty: with the agreement)"
              value={terms.from ?? ''}
              onChange={(from) => change({ ...terms, from: from === '' ? null : (from as LocalDate) })}
              error={error('from')}
            />
            <DateField
              label="To (empty: with the agreement)"
              value={terms.to ?? ''}
              onChange={(to) => change({ ...terms, to: to === '' ? null : (to as LocalDate) })}
              error={error('to')}
            />
          </>
        )}
      </div>
      {own && <LabourHours terms={terms} change={change} error={error} />}
      <Discounts terms={terms} change={change} error={error} />
    </>
  );
}
