// An asset's page: its life on one line, what it is entitled to today, who was here, its place and readings.
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { raiseOrder } from '#api/calls.ts';
import { changeAsset, recordLife, swapAsset } from '#api/assets.ts';
import type { AssetPage as Page } from '#api/register.ts';
import { orderNumber } from '#api/shapes.ts';
import { attainmentShare } from '#core/standing/index.ts';
import { addDays, DAY, localDateAt, type LocalDate, type Zone } from '#core/time/index.ts';
import { AgreementLinks } from '../parts/agreement-links.tsx';
import { sayMargin, TONE } from '../parts/margin-bar.tsx';
import { marginOf } from '#core/service-levels/index.ts';
import { RibbonSheet } from '../parts/ribbon-sheet.tsx';
import { CoverVerdict } from '../parts/verdict.tsx';
import { StageMoon } from '../parts/stage-moon.tsx';
import type { OrderStage } from '#core/orders/index.ts';
import { plural, sayDate, sayMinutes, sayShare, sayShortDate } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { assetsApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import { AskCover } from '../agreements/index.ts';
import { EditAsset } from './form.tsx';
import { Files } from '../files/index.ts';
import { BuiltInto } from '../stores/index.ts';
import { Facts } from './facts.tsx';
import { LifeActs } from './life.tsx';
import { RibbonTable } from './ribbon-table.tsx';

function Standing({ asset, today }: { asset: Page; today: LocalDate }) {
  const since = addDays(today, -365);
  const counted = asset.clocks.filter(
    (c) => c.dueAt !== null && c.dueAt >= asset.now - 365 * DAY && (c.state === 'met' || c.state === 'missed'),
  );
  const met = counted.filter((c) => c.state === 'met').length;
  const visits = asset.visits.filter(
    (v) =>
      v.windowTo >= since &&
      v.windowTo < today &&
      (v.state === 'in window' || v.state === 'outside window' || v.state === 'not done'),
  );
  const kept = visits.filter((v) => v.state === 'in window').length;
  return (
    <section className="mt-5">
      <h2>Standing, last 12 months</h2>
      <div className="mt-1 flex gap-10">
        <div>
          <p className="figure">{sayShare(attainmentShare({ met, missed: counted.length - met }))}</p>
          <p className="quiet">
            {counted.length === 0 ? 'no promise fell due' : `promises met, ${met} of ${counted.length}`}
          </p>
        </div>
        <div>
          <p className="figure">{sayShare(visits.length === 0 ? null : kept / visits.length)}</p>
          <p className="quiet">
            {visits.length === 0 ? 'no window ended' : `upkeep in window, ${kept} of ${visits.length}`}
          </p>
        </div>
      </div>
    </section>
  );
}

/** Somebody was there: what is only raised or planned stands among the open orders. */
const BEGUN: readonly string[] = ['on site', 'done', 'settled'];

function History({ asset, zone, today }: { asset: Page; zone: Zone; today: LocalDate }) {
  const worked = asset.orders.filter((o) => BEGUN.includes(o.stage));
  const ahead = asset.orders.filter((o) => ['raised', 'planned', 'sent'].includes(o.stage));
  return (
    <section>
      <h2>Who was here, and what they did</h2>
      {worked.length === 0 ? (
        <p className="quiet mt-1 border-y border-hairline py-2">Nobody yet: no work on it has begun.</p>
      ) : (
        <table className="dense mt-1">
          <tbody>
            {worked.slice(0, 12).map((o) => (
              <tr key={o.id}>
                <td className="quiet w-20 whitespace-nowrap">{sayShortDate(localDateAt(zone, o.startedAt), today)}</td>
                <td className="w-6">
                  <StageMoon stage={o.stage as OrderStage} />
                </td>
                <td>
                  <Link className="link-ink" to={`/orders/${o.id}`}>
                    {o.title}
                  </Link>{' '}
                  <span className="quiet">
                    {o.kind} <span className="whitespace-nowrap">{orderNumber(o.id)}</span>
                    {o.technician ? `, ${o.technician}` : ''}
                    {o.fault ? `: ${o.fault}` : ''}
                    {o.labourMinutes ? `, ${sayMinutes(o.labourMinutes)} of labour` : ''}
                  </span>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {asset.clocks.length > 0 && (
        <details className="mt-2" open={asset.clocks.some((c) => c.stoppedAt === null && c.state !== 'void')}>
          <summary className="w-fit">
            <h2 className="inline">Clocks</h2> <span className="quiet">{asset.clocks.length}</span>
          </summary>
          <table className="dense">
            <tbody>
              {asset.clocks.slice(0, 12).map((c) => (
                <tr key={`${c.orderId}${c.target}`}>
                  <td className="w-24">{c.target}</td>
                  <td className={TONE[marginOf(c)]}>{sayMargin(c, asset.now, zone)}</td>
                  <td>
                    <Link className="serial link-ink" to={`/orders/${c.orderId}`}>
                      {orderNumber(c.orderId)}
                    </Link>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </details>
      )}
      {ahead.length > 0 && (
        <p className="mt-1">
          <span className="quiet">Still to come:</span>{' '}
          {ahead.slice(0, 6).map((o, i) => (
            <span key={o.id}>
              {i > 0 && ', '}
              <Link className="link-ink" to={`/orders/${o.id}`}>
                {o.title}
              </Link>{' '}
              <span className="quiet">
                {orderNumber(o.id)}, {o.stage}
              </span>
            </span>
          ))}
          {ahead.length > 6 && <span className="quiet"> and {ahead.length - 6} more</span>}
        </p>
      )}
    </section>
  );
}

function WhereItStands({ asset }: { asset: Page }) {
  return (
    <p className="quiet">
      <Link className="link-ink" to={`/register?customer=${asset.customer.id}`}>
        {asset.customer.name}
      </Link>
      {asset.path.map((n) => (
        <span key={n.id}>
          {' '}
          ›{' '}
          <Link className="hover:underline" to={`/register?customer=${asset.customer.id}&location=${n.id}`}>
            {n.name}
          </Link>
        </span>
      ))}
    </p>
  );
}

function EntitledToday({ asset, zone }: { asset: Page; zone: Zone }) {
  const [asking, setAsking] = useState(false);
  return (
    <section>
      <h2>Entitled to, today</h2>
      <div className="mt-1">
        <CoverVerdict {...asset.verdict} promise="" />
      </div>
      <button className="link-ink mt-1 text-[0.87rem]" onClick={() => setAsking(true)}>
        Ask for another day, cause or part…
      </button>
      {asking && (
        <AskCover
          subject={{ kind: 'asset', id: asset.id, tag: asset.tag, model: asset.model }}
          zone={zone}
          now={asset.now}
          onClose={() => setAsking(false)}
        />
      )}
    </section>
  );
}

function LifeEvents({ asset, zone }: { asset: Page; zone: Zone }) {
  return (
    <details className="mt-4" open={asset.events.length <= 6}>
      <summary className="w-fit">
        <h2 className="inline">Life events</h2>{' '}
        <span className="quiet">{plural(asset.events.length, 'entry', 'entries')}</span>
      </summary>
      <table className="dense mt-1">
        <tbody>
          {asset.events.map((e, i) => (
            <tr key={i}>
              <td className="quiet w-40">{sayDate(localDateAt(zone, e.at))}</td>
              <td className="w-32">{e.kind}</td>
              <td>{e.text}</td>
              <td className="quiet">{e.who ?? ''}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}

function AssetView({ asset }: { asset: Page }) {
  const reader = useReader();
  const [editing, setEditing] = useState(false);
  const zone = (asset.zone?.value ?? reader.zone) as Zone;
  const today = localDateAt(zone, asset.now);
  const span = { from: asset.ribbonFrom, to: asset.ribbonTo, now: asset.now };
  return (
    <article className="px-7 pt-4 pb-10">
      <WhereItStands asset={asset} />
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h1>
          {asset.className} {asset.model}
        </h1>
        <span className="serial">{asset.serial}</span>
        <span className="serial">tag {asset.tag}</span>
        <span className="quiet">
          {asset.maker} · {asset.state}
        </span>
        <span className="ml-auto flex gap-2">
          {reader.may(changeAsset) && (
            <button className="act" onClick={() => setEditing(true)}>
              Change…
            </button>
          )}
          {reader.may(raiseOrder) && (
            <Link className="act-main" to={`/call?asset=${asset.id}`}>
              Raise order…
            </Link>
          )}
        </span>
      </header>
      <RibbonSheet ribbon={asset.ribbon} span={span} pulses={asset.pulses} />
      <RibbonTable asset={asset} />
      <div className="mt-4 grid grid-cols-[1fr_1.15fr_1fr] gap-x-8 gap-y-6 max-[960px]:grid-cols-1">
        <div>
          <EntitledToday asset={asset} zone={zone} />
          {asset.agreements.length > 0 && (
            <section className="mt-5">
              <h2>Agreements</h2>
              <AgreementLinks agreements={asset.agreements} />
            </section>
          )}
          <Standing asset={asset} today={today} />
        </div>
        <History asset={asset} zone={zone} today={today} />
        <div>
          <Facts asset={asset} zone={zone} today={today} />
          <BuiltInto assetId={asset.id} />
        </div>
      </div>
      <section className="mt-6">
        <h2>Files</h2>
        <Files subject="asset" id={asset.id} />
      </section>
      {reader.may(recordLife) && (
        <section className="mt-6">
          <h2 className="pb-1">Its life</h2>
          <LifeActs asset={asset} today={today} maySwap={reader.may(swapAsset)} />
        </section>
      )}
      <LifeEvents asset={asset} zone={zone} />
      {editing && <EditAsset asset={asset} onClose={() => setEditing(false)} />}
    </article>
  );
}

export function AssetPage() {
  const { id = '' } = useParams();
  const query = assetsApi.useReadAssetQuery({ params: { id } });
  return (
    <Waiting query={{ ...query, data: query.currentData ?? (query.isFetching ? undefined : query.data) }}>
      {(asset) => <AssetView key={asset.id} asset={asset} />}
    </Waiting>
  );
}
