// What is known of an asset: place, owner, warranty, meters and the last readings of its device.
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { addDevice } from '#api/setup.ts';
import { addReading } from '#api/assets.ts';
import type { AssetPage as Page } from '#api/register.ts';
import { type LocalDate, type Zone } from '#core/time/index.ts';
import { WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { sayUnit } from '#core/signals/index.ts';
import { plural, sayDate, sayMoment, sayShortDate, sayValue } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { signalsApi } from '../signals/index.ts';
import { Meters } from './meters.tsx';

function sayWarranty({ warranty: w }: Page): string {
  if (!w.until) return 'none';
  const shares =
    w.labour === 100 && w.parts === 100 && w.travel === 100
      ? ''
      : `, labour ${w.labour} %, parts ${w.parts} %, travel ${w.travel} %`;
  const visits = w.visits > 0 ? `, ${plural(w.visits, 'free visit')}` : '';
  return `${w.from ? `${sayDate(w.from)} ` : ''}to ${sayDate(w.until)}${shares}${visits}`;
}

/** What is known of it, in words, with where each thing comes from. */
function factsOf(asset: Page, today: LocalDate): readonly (readonly [string, ReactNode])[] {
  const next = [...asset.ribbon.care].filter((c) => c.state === 'planned').sort((a, b) => (a.due < b.due ? -1 : 1))[0];
  return [
    ['Address', asset.address ? `${asset.address.value}, from ${asset.address.from}` : 'none: give one to the place'],
    ['Zone', asset.zone ? `${asset.zone.value}, from ${asset.zone.from}` : '✕ none: nothing can be due here'],
    ['Calendar', asset.calendar ? `${asset.calendar.value}, from ${asset.calendar.from}` : 'none: every day counts'],
    ...(asset.accessNote
      ? [['Access', `${asset.accessNote.value.replace(/\.$/, '')}, from ${asset.accessNote.from}`] as const]
      : []),
    [
      'Owner',
      asset.owner === 'customer'
        ? asset.customer.name
        : `own fleet, rented to ${asset.customer.name}${asset.rentedSince ? ` since ${sayDate(asset.rentedSince)}` : ''}`,
    ],
    ['Commissioned', asset.commissioned ? sayDate(asset.commissioned) : 'not known'],
    ['Warranty', sayWarranty(asset)],
    [
      'Next visit',
      next
        ? `${sayShortDate(next.due, today)} (${sayShortDate(next.windowFrom, today)} to ${sayShortDate(next.windowTo, today)}), ${next.label.toLowerCase()}`
        : 'none planned',
    ],
    ...(asset.parent
      ? [
          [
            'Part of',
            <Link key="p" className="serial link-ink" to={`/assets/${asset.parent.id}`}>
              {asset.parent.tag}
            </Link>,
          ] as const,
        ]
      : []),
    ...(asset.children.length > 0
      ? [
          [
            'Parts',
            asset.children.map((c) => (
              <Link key={c.id} className="link-ink mr-2" to={`/assets/${c.id}`}>
                {c.model} <span className="serial">{c.tag}</span>
              </Link>
            )),
          ] as const,
        ]
      : []),
  ];
}

function RegisterDevice({ asset }: { asset: Page }) {
  const [add] = signalsApi.useAddDeviceMutation();
  const form = useWireForm(addDevice, { assetId: asset.id, key: `urn:dev:os:stavok-${asset.tag.toLowerCase()}` });
  return (
    <details className="mt-2">
      <summary className="quiet w-fit link-ink">Connect its device</summary>
      <WireForm
        form={form}
        name="Connect its device"
        save="Register the device"
        send={(body) => add({ body })}
        onDone={() => undefined}
      >
        <WireText name="key" label="Device key" />
      </WireForm>
    </details>
  );
}

/** The last word of each channel of its device. */
function Readings({ asset, zone }: { asset: Page; zone: Zone }) {
  const reader = useReader();
  if (asset.deviceKey === null)
    return (
      <>
        <p className="quiet">No device reports for this asset.</p>
        {reader.may(addDevice) && <RegisterDevice asset={asset} />}
      </>
    );
  return asset.readings.length === 0 ? (
    <p className="quiet">
      Its device <span className="serial">{asset.deviceKey}</span> has sent nothing yet.
    </p>
  ) : (
    <dl className="mt-1 grid grid-cols-[6.4rem_1fr] gap-y-1">
      {asset.readings.map((r) => (
        <div key={r.channel} className="contents">
          <dt className="quiet">{r.channel}</dt>
          <dd className="tabular-nums">
            {sayValue(r.value)} {sayUnit(r.unit)} <span className="quiet">{sayMoment(r.at, asset.now, zone)}</span>
          </dd>
        </div>
      ))}
    </dl>
  );
}

export function Facts({ asset, zone, today }: { asset: Page; zone: Zone; today: LocalDate }) {
  const reader = useReader();
  return (
    <section>
      <h2>Place and facts</h2>
      <dl className="mt-1 grid grid-cols-[6.4rem_1fr] gap-y-1.5">
        {factsOf(asset, today).map(([what, value]) => (
          <div key={what} className="contents">
            <dt className="quiet">{what}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
      <Meters assetId={asset.id} meters={asset.meters} zone={zone} now={asset.now} may={reader.may(addReading)} />
      <h2 className="mt-5">Readings</h2>
      <Readings asset={asset} zone={zone} />
    </section>
  );
}
