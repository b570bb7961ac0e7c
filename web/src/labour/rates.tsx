// Setup: crafts and rate cards.
import { addCraft, addRateCard, type RateCardIn, type RateCardOut } from '#api/labour.ts';
import { ENTRY_KINDS, HOURS_KINDS, TRAVEL_WAYS, type HoursKind } from '#core/labour/index.ts';
import { sayTimeOfDay } from '#core/time/index.ts';
import { WireDate, WireMoney, WireNumber, WireSelect, WireText, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { plural, sayMinutes, sayMoney } from '../parts/words.ts';
import { EditableList, NameForm, setupApi } from '../setup/index.ts';
import { Waiting } from '../shell/waiting.tsx';
import { labourApi } from './endpoints.ts';

type Craft = { readonly id: number; readonly version: number; readonly name: string };

function CraftForm({ craft, onDone }: { craft: Craft | null; onDone: () => void }) {
  const [add] = labourApi.useAddCraftMutation();
  const [change] = labourApi.useChangeCraftMutation();
  return (
    <NameForm
      what="craft"
      item={craft}
      contract={addCraft}
      add={(body) => add({ body })}
      change={(id, body) => change({ params: { id }, body })}
      onDone={onDone}
    />
  );
}

const NO_FACTOR = { sales: 100, cost: 100 };

const blank = (today: string, crafts: readonly Craft[], isFirst: boolean): RateCardIn => ({
  ...{ name: '', currency: 'EUR', isStandard: isFirst, callOut: 0, travel: { by: 'time' } },
  rates: crafts.map((c) => ({ craftId: c.id, from: `${today.slice(0, 4)}-01-01`, cost: 0, sales: 0 })),
  surcharges: { outside: NO_FACTOR, night: { sales: 150, cost: 100 }, holiday: { sales: 200, cost: 100 } },
  billing: {
    work: { step: 15, minimum: 60 },
    travel: { step: 15, minimum: 0 },
    waiting: { step: 15, minimum: 0 },
  },
  night: { from: 1320, to: 360 },
});

const held = ({ id: _, version: __, ...card }: RateCardOut): RateCardIn => ({
  ...card,
  surcharges: { outside: NO_FACTOR, night: NO_FACTOR, holiday: NO_FACTOR, ...card.surcharges },
});

/** What each craft costs and is sold for, from a day on. */
function CraftRates({ crafts, currency, today }: { crafts: readonly Craft[]; currency: string; today: string }) {
  return (
    <Wire<RateCardIn['rates']> name="rates">
      {({ value, change, ownError }) => (
        <fieldset>
          <legend className="quiet pb-1">An hour of each craft, from a day on until the next</legend>
          {value.map((rate, i) => (
            <div
              key={`${i} of ${value.length}`}
              className="grid grid-cols-[1.5fr_1.2fr_1fr_1fr_auto] items-start gap-3 pb-2"
            >
              <WireSelect
                name={`rates.${i}.craftId`}
                label="Craft"
                options={crafts.map((c) => [c.id, c.name] as const)}
              />
              <WireDate name={`rates.${i}.from`} label="From" />
              <WireMoney name={`rates.${i}.cost`} label="Costs" currency={currency} />
              <WireMoney name={`rates.${i}.sales`} label="Sold for" currency={currency} />
              <button
                type="button"
                className="quiet link-ink pt-7"
                aria-label={`Remove rate ${i + 1}`}
                onClick={() => change(value.filter((r) => r !== rate))}
              >
                remove
              </button>
            </div>
          ))}
          {ownError && <p className="text-missed">✕ {ownError}</p>}
          {crafts[0] && (
            <button
              type="button"
              className="act"
              onClick={() =>
                change([
                  ...value,
                  { craftId: value.at(-1)?.craftId ?? crafts[0]?.id ?? 0, from: today, cost: 0, sales: 0 },
                ])
              }
            >
              Another rate
            </button>
          )}
        </fieldset>
      )}
    </Wire>
  );
}

const SURCHARGED: readonly (readonly [Exclude<HoursKind, 'normal'>, string])[] = [
  ['outside', 'Outside opening hours'],
  ['night', 'At night'],
  ['holiday', 'Sundays and holidays'],
];

function HoursFields() {
  return (
    <fieldset>
      <legend className="quiet pb-1">Other hours, in percent of the rate; 100 changes nothing</legend>
      <div className="grid grid-cols-3 gap-6">
        {SURCHARGED.map(([kind, name]) => (
          <div key={kind} className="grid grid-cols-2 gap-3">
            <WireNumber name={`surcharges.${kind}.sales`} label={`${name}, sold`} min={0} />
            <WireNumber name={`surcharges.${kind}.cost`} label="costs" min={0} />
          </div>
        ))}
      </div>
    </fieldset>
  );
}

const BILLED: Readonly<Record<(typeof ENTRY_KINDS)[number], string>> = {
  work: 'Work',
  travel: 'Travel',
  waiting: 'Waiting',
};

function BillingFields() {
  return (
    <fieldset>
      <legend className="quiet pb-1">Billed in steps of minutes, and at least so many</legend>
      <div className="grid grid-cols-3 gap-6">
        {ENTRY_KINDS.map((kind) => (
          <div key={kind} className="grid grid-cols-2 gap-3">
            <WireNumber name={`billing.${kind}.step`} label={`${BILLED[kind]}, step`} min={1} />
            <WireNumber name={`billing.${kind}.minimum`} label="at least" min={0} />
          </div>
        ))}
      </div>
    </fieldset>
  );
}

const TRAVEL: Readonly<Record<(typeof TRAVEL_WAYS)[number], string>> = {
  time: 'by its time',
  flat: 'a flat sum each time',
  km: 'by the kilometre',
};

function TravelFields({ travel, currency }: { travel: RateCardIn['travel']; currency: string }) {
  return (
    <div className="grid grid-cols-4 items-start gap-3">
      <WireMoney name="callOut" label="Each time somebody comes" currency={currency} />
      <Wire<RateCardIn['travel']> name="travel">
        {({ value, change }) => (
          <label>
            <span className="quiet block">Travel is sold</span>
            <select
              className="box-select"
              value={value.by}
              onChange={(e) => {
                const by = e.target.value as RateCardIn['travel']['by'];
                change(by === 'time' ? { by } : { by, price: value.by === 'time' ? 0 : value.price });
              }}
            >
              {TRAVEL_WAYS.map((by) => (
                <option key={by} value={by}>
                  {TRAVEL[by]}
                </option>
              ))}
            </select>
          </label>
        )}
      </Wire>
      {travel.by !== 'time' && <WireMoney key={travel.by} name="travel.price" label="for" currency={currency} />}
    </div>
  );
}

/** From when to when hours count as night. */
function NightField() {
  return (
    <Wire<RateCardIn['night']> name="night">
      {({ value, change, error }) => {
        const said =
          value === null ? '' : `${sayTimeOfDay(value.from)}–${value.to === 1440 ? '24:00' : sayTimeOfDay(value.to)}`;
        return (
          <label>
            <span className="quiet block">Night</span>
            <select
              className="box-select"
              value={said}
              onChange={(e) => change(NIGHTS.find(([words]) => words === e.target.value)?.[1] ?? null)}
            >
              {(NIGHTS.some(([words]) => words === said) ? NIGHTS : [...NIGHTS, [said, value] as const]).map(
                ([words]) => (
                  <option key={words} value={words}>
                    {words === '' ? 'no hour counts as night' : words}
                  </option>
                ),
              )}
            </select>
            {error && <span className="text-missed">✕ {error}</span>}
          </label>
        );
      }}
    </Wire>
  );
}
const NIGHTS: readonly (readonly [string, RateCardIn['night']])[] = [
  ['', null],
  ...[20, 21, 22, 23].flatMap((from) =>
    [5, 6, 7].map((to) => [`${from}:00–0${to}:00`, { from: from * 60, to: to * 60 }] as const),
  ),
];

type CardProps = {
  card: RateCardOut | null;
  crafts: readonly Craft[];
  today: string;
  isFirst: boolean;
  onDone: () => void;
};

function CardForm({ card, crafts, today, isFirst, onDone }: CardProps) {
  const [add] = labourApi.useAddRateCardMutation();
  const [change] = labourApi.useChangeRateCardMutation();
  const form = useWireForm<RateCardIn>(addRateCard, card ? held(card) : blank(today, crafts, isFirst));
  const [currency, travel] = [form.watch('currency'), form.watch('travel')];
  return (
    <WireForm<RateCardIn, unknown>
      form={form}
      name="Rate card"
      save="Save the rate card"
      send={(body, seen) =>
        card
          ? change({ params: { id: String(card.id) }, body: { ...body, version: seen ?? card.version } })
          : add({ body })
      }
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-[2fr_6rem_1fr_1.2fr] items-start gap-3">
        <WireText name="name" label="Name" />
        <WireText name="currency" label="Currency" />
        <NightField />
        <WireTick name="isStandard" label="holds where nothing else is agreed" className="pt-6" />
      </div>
      <CraftRates crafts={crafts} currency={currency} today={today} />
      <HoursFields />
      <BillingFields />
      <TravelFields travel={travel} currency={currency} />
    </WireForm>
  );
}

/** The rates that hold on a day, in words. */
function sayRates({ rates, currency }: RateCardOut, crafts: readonly Craft[], today: string): string {
  return crafts
    .flatMap((c) => {
      const own = rates
        .filter((r) => r.craftId === c.id && r.from <= today)
        .sort((a, b) => (a.from < b.from ? 1 : -1))[0];
      return own ? [`${c.name} ${sayMoney(own.sales, currency)}`] : [];
    })
    .join(', ');
}

const sayBilling = ({ billing: { work } }: RateCardOut): string =>
  `${sayMinutes(work.step)} steps${work.minimum > 0 ? `, at least ${sayMinutes(work.minimum)}` : ''}`;

const NAMED = 2;

/** The first customers by name, and how many more. */
const sayAgreed = ({ agreedWith: { names, count } }: RateCardOut): string =>
  [names.slice(0, NAMED).join(', '), count > NAMED && `and ${count - NAMED} more`].filter((x) => x).join(' ');

function Lists({ crafts, cards, today }: { crafts: readonly Craft[]; cards: readonly RateCardOut[]; today: string }) {
  return (
    <>
      <h2>Rate cards</h2>
      <EditableList
        name="rate-cards"
        items={cards}
        adding={addRateCard}
        add="Add a rate card"
        empty="No rate card yet: time that is entered has no price."
        form={(card, done) => (
          <CardForm card={card} crafts={crafts} today={today} isFirst={cards.length === 0} onDone={done} />
        )}
        columns={[
          {
            id: 'name',
            head: 'Name',
            value: (c) => c.name,
            show: (c) => (
              <>
                {c.name}
                {c.isStandard && <span className="quiet"> the standard</span>}
              </>
            ),
          },
          { id: 'rates', head: 'An hour today', value: (c) => sayRates(c, crafts, today) || 'no rate holds today' },
          { id: 'agreed', head: 'Agreed with', value: sayAgreed },
          { id: 'billing', head: 'Work is billed', value: sayBilling, className: 'quiet' },
          {
            id: 'surcharged',
            head: 'Other hours',
            value: (c) =>
              plural(HOURS_KINDS.filter((k) => c.surcharges[k] && c.surcharges[k].sales !== 100).length, 'surcharge'),
            className: 'quiet',
          },
        ]}
      />
      <h2 className="mt-6">Crafts</h2>
      <EditableList
        name="crafts"
        items={crafts}
        adding={addCraft}
        add="Add a craft"
        empty="No craft yet. A rate card gives each its price; each person has one."
        form={(craft, done) => <CraftForm craft={craft} onDone={done} />}
        columns={[{ id: 'name', head: 'Name', value: (c) => c.name }]}
      />
    </>
  );
}

export function Rates() {
  const query = labourApi.useReadRatesQuery();
  const { data: reference } = setupApi.useReadReferenceQuery();
  return (
    <Waiting query={query}>
      {({ crafts, cards }) => reference && <Lists crafts={crafts} cards={cards} today={reference.today} />}
    </Waiting>
  );
}
