// How travel is reckoned in this house, in Setup: detour, speeds by distance, what is fixed; and the times that were measured.
import { useState } from 'react';
import { Plus, X } from 'lucide-react';
import { Link } from 'react-router';
import { keepTravel, type TravelOut } from '#api/rota-people.ts';
import { TRAVEL_RULES, travelBetween } from '#core/rota/index.ts';
import { NumberField } from '../parts/fields.tsx';
import { plural, sayMinutes } from '../parts/words.ts';
import { WireNumber } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { rotaApi } from './endpoints.ts';

type Band = TravelOut['bands'][number];

/** Speeds by road kilometres, the last without an end. */
function BandFields() {
  return (
    <Wire<Band[]> name="bands">
      {({ value, change, error }) => (
        <fieldset className="mt-3">
          <legend className="quiet pb-1">Speeds: the kilometres of each stretch at its own</legend>
          {value.map((band, i) => {
            const isLast = i === value.length - 1;
            const set = (next: Band) => change(value.map((b, k) => (k === i ? next : b)));
            return (
              <div key={i} className="grid grid-cols-[11rem_11rem_auto] items-end gap-3 py-1">
                {isLast ? (
                  <span className="quiet pb-1">and beyond</span>
                ) : (
                  <NumberField
                    label="below, km"
                    value={band.belowKm ?? NaN}
                    min={0}
                    step="any"
                    onChange={(km) => set({ ...band, belowKm: Number.isNaN(km) ? null : km })}
                  />
                )}
                <NumberField
                  label="km/h"
                  value={band.kmPerHour}
                  min={1}
                  step="any"
                  onChange={(kmPerHour) => set({ ...band, kmPerHour })}
                />
                {!isLast && (
                  <button
                    type="button"
                    className="icon-act"
                    aria-label={`Without the speed below ${band.belowKm ?? 0} km`}
                    title="Without this speed"
                    onClick={() => change(value.filter((_, k) => k !== i))}
                  >
                    <X size={16} />
                  </button>
                )}
              </div>
            );
          })}
          <button
            type="button"
            className="link-ink mt-1 inline-flex items-center gap-1"
            onClick={() => change([{ belowKm: null, kmPerHour: 30 }, ...value])}
          >
            <Plus size={14} /> a speed for shorter ways
          </button>
          {error && <p className="text-missed">✕ {error}</p>}
        </fieldset>
      )}
    </Wire>
  );
}

function RulesForm({ of, onDone }: { of: TravelOut; onDone: () => void }) {
  const [keep] = rotaApi.useKeepTravelMutation();
  const { detour, fixedMinutes, bands, version } = of;
  const form = useWireForm(keepTravel, { detour, fixedMinutes, bands, version });
  return (
    <WireForm
      form={form}
      name="How travel is reckoned"
      save="Reckon so"
      send={(body, seen) => keep({ body: { ...body, version: seen ?? version } })}
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-3 gap-3">
        <WireNumber name="detour" label="Road for one of the straight line" step="any" />
        <WireNumber name="fixedMinutes" label="Fixed, minutes: setting out, parking, the way in" />
      </div>
      <BandFields />
    </WireForm>
  );
}

/** Two places so many kilometres apart, due north: what a way of that length comes to. */
const KM_OF_A_DEGREE = 111.195;
const example = ({ detour, fixedMinutes, bands }: TravelOut, km: number): string => {
  const at = (latitude: number) => ({ key: `${latitude}`, at: { latitude, longitude: 0 } });
  const way = travelBetween(at(0), at(km / KM_OF_A_DEGREE), { detour, fixedMinutes, bands });
  return `${km} km as the crow flies: ${sayMinutes(way?.minutes ?? 0)}`;
};

const isPlain = ({ detour, fixedMinutes, bands }: TravelOut): boolean =>
  JSON.stringify({ detour, bands, fixedMinutes }) === JSON.stringify(TRAVEL_RULES);

function Kept({ travel }: { travel: TravelOut }) {
  const mayChange = useReader().may(keepTravel);
  const [changes, setChanges] = useState(false);
  return (
    <>
      <h2>Estimates</h2>
      {changes ? (
        <RulesForm of={travel} onDone={() => setChanges(false)} />
      ) : (
        <>
          <p className="max-w-2xl">
            The great-circle distance times {travel.detour}, at{' '}
            {travel.bands
              .map((b) => `${b.kmPerHour} km/h${b.belowKm === null ? ' beyond' : ` below ${b.belowKm} km`}`)
              .join(', ')}
            , and {travel.fixedMinutes} min on top{isPlain(travel) ? '; as it comes' : ''}.
          </p>
          <p className="quiet">{[5, 20, 80].map((km) => example(travel, km)).join(' · ')}</p>
          {mayChange && (
            <button className="link-ink mt-1" onClick={() => setChanges(true)}>
              Reckon otherwise
            </button>
          )}
        </>
      )}
      <h2 className="mt-6">Times that were measured</h2>
      <p className="max-w-2xl">
        {travel.known.length === 0
          ? 'None yet. A known time goes before the estimate.'
          : `${plural(travel.known.length, 'way')}; each goes before the estimate, and where only one direction is known it holds for both.`}{' '}
        {mayChange && (
          <Link className="link-ink" to="/register/import?kind=travel+times">
            Import them from a file
          </Link>
        )}
      </p>
      {travel.shown.length > 0 && (
        <table className="dense mt-2 max-w-3xl">
          <thead>
            <tr>
              <th>From</th>
              <th>To</th>
              <th className="num">Minutes</th>
            </tr>
          </thead>
          <tbody>
            {travel.shown.map((t) => (
              <tr key={`${t.from} ${t.to}`}>
                <td>{t.from}</td>
                <td>{t.to}</td>
                <td className="num">{t.minutes}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {travel.shown.length < travel.known.length && <p className="quiet">The first {travel.shown.length}.</p>}
    </>
  );
}

export function TravelSetup() {
  const query = rotaApi.useReadTravelQuery();
  return <Waiting query={query}>{(travel) => <Kept travel={travel} />}</Waiting>;
}
