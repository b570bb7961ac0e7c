// What a coverage line gives: shares, promise, kinds of work, exclusions, discounts, labour hours, price and its own dates.
import { Link } from 'react-router';
import type { LineTerms } from '#api/agreements/index.ts';
import { CAUSES, COST_ELEMENTS, type CostElement } from '#core/entitlement/index.ts';
import { ORDER_KINDS, type OrderKind } from '#core/orders/index.ts';
import { asId, type CalendarId } from '#core/ids.ts';
import { NumberField, SelectField, Ticks, WordsField } from '../parts/fields.tsx';
import { WireDate, WireMoney, WireNumber, WireSelect, WireTicks } from '../parts/wire-fields.tsx';
import { Wire } from '../parts/wire-form.tsx';
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

type Discount = LineTerms['discounts'][number];

function Discounts({ name }: { name: string }) {
  return (
    <Wire<readonly Discount[]> name={name}>
      {({ value: discounts, change, errorAt }) => {
        const set = (i: number, over: Partial<Discount>): void =>
          change(discounts.map((d, n) => (n === i ? { ...d, ...over } : d)));
        return (
          <fieldset>
            <legend className="quiet pb-0.5">Discounts on what is left to the customer</legend>
            {discounts.map((d, i) => (
              <div key={i} className="mb-2 grid grid-cols-[7rem_9rem_1fr_auto] items-end gap-3">
                <NumberField
                  label="Percent off"
                  value={d.percent}
                  min={0}
                  max={100}
                  onChange={(percent) => set(i, { percent })}
                  error={errorAt(`${i}.percent`)}
                />
                <SelectField
                  label="Of"
                  value={d.element}
                  onChange={(element) => set(i, { element: element as CostElement })}
                  options={COST_ELEMENTS.map((e) => [e, e] as const)}
                />
                <div>
                  <Ticks
                    label="For"
                    values={ORDER_KINDS}
                    chosen={d.kinds}
                    onChange={(kinds: OrderKind[]) => set(i, { kinds })}
                  />
                  {errorAt(`${i}.kinds`) && <p className="text-missed">✕ {errorAt(`${i}.kinds`)}</p>}
                </div>
                <button type="button" className="act" onClick={() => change(discounts.filter((_, n) => n !== i))}>
                  Remove
                </button>
              </div>
            ))}
            <button
              type="button"
              className="link-ink"
              onClick={() => change([...discounts, { element: 'labour', percent: 10, kinds: ['repair'] }])}
            >
              Add a discount
            </button>
          </fieldset>
        );
      }}
    </Wire>
  );
}

function LabourHours({ name }: { name: string }) {
  const { data: reference } = setupApi.useReadReferenceQuery();
  const calendars = reference?.calendars ?? [];
  return (
    <Wire<LineTerms['hours']> name={name}>
      {({ value: hours, change, errorAt }) => (
        <div className="grid grid-cols-3 gap-4">
          <SelectField
            label="Hours in which labour is covered"
            value={hours ? String(hours.calendarId) : ''}
            onChange={(id) =>
              change(
                id
                  ? {
                      calendarId: asId<CalendarId>(Number(id)),
                      shareOutside: hours?.shareOutside ?? 0,
                      surchargePercent: hours?.surchargePercent ?? 50,
                    }
                  : null,
              )
            }
            options={[['', 'any hour'], ...calendars.map((c) => [String(c.id), c.name] as const)]}
            error={errorAt('calendarId')}
          />
          {hours && (
            <>
              <NumberField
                label="Labour we bear outside them, %"
                value={hours.shareOutside}
                min={0}
                max={100}
                onChange={(shareOutside) => change({ ...hours, shareOutside })}
                error={errorAt('shareOutside')}
              />
              <NumberField
                label="Surcharge outside them, %"
                value={hours.surchargePercent}
                min={0}
                max={300}
                onChange={(surchargePercent) => change({ ...hours, surchargePercent })}
                error={errorAt('surchargePercent')}
              />
            </>
          )}
        </div>
      )}
    </Wire>
  );
}

function ServiceLevelField({ name }: { name: string }) {
  const { data: reference } = setupApi.useReadReferenceQuery();
  const levels = reference?.serviceLevels ?? [];
  return (
    <WireSelect
      name={name}
      label="Service level"
      options={[[null, 'none'] as const, ...levels.map((l) => [l.id, l.name] as const)]}
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
  );
}

/** The terms under `at` in the form around. `own`: also what only a line has: service level, price, dates, hours. */
export function TermsFields({ at, own }: { at: string; own?: { readonly currency: string; readonly per: string } }) {
  return (
    <>
      <div className="grid grid-cols-[repeat(4,1fr)_2fr] gap-3">
        {COST_ELEMENTS.map((e) => (
          <WireNumber key={e} name={`${at}.shares.${e}`} label={`${named(e)} we bear, %`} min={0} max={100} />
        ))}
        {own && <ServiceLevelField name={`${at}.serviceLevelId`} />}
      </div>
      <div className="grid grid-cols-2 gap-4">
        <WireTicks name={`${at}.kinds`} label="Kinds of work included" values={ORDER_KINDS} />
        <WireTicks name={`${at}.excludedCauses`} label="Causes left out" values={CAUSES} />
      </div>
      <div className="grid grid-cols-[2fr_1fr_1fr_1fr] gap-3">
        <Wire<readonly string[]> name={`${at}.excludedParts`}>
          {({ value, change, error }) => (
            <WordsField
              label="Parts left out, by name or number"
              value={value}
              onChange={change}
              error={error}
              hint="Separated by commas; empty: none."
            />
          )}
        </Wire>
        {own && (
          <>
            <WireMoney name={`${at}.priceMinor`} label={`Price per ${own.per}`} currency={own.currency} />
            <WireDate name={`${at}.from`} label="From (empty: with the agreement)" empty={null} />
            <WireDate name={`${at}.to`} label="To (empty: with the agreement)" empty={null} />
          </>
        )}
      </div>
      {own && <LabourHours name={`${at}.hours`} />}
      <Discounts name={`${at}.discounts`} />
    </>
  );
}
