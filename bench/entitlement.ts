// Entitlement at load: decisions a second in the core against a plain loop over the same index, one verdict over HTTP, and “no cover on a day” over the whole register.
import { buildApp } from '#server/app.ts';
import {
  decideEntitlement,
  holdsOn,
  indexCovers,
  leftOf,
  type Cover,
  type CoveredAsset,
  type LineCover,
  type Question,
} from '#core/entitlement/index.ts';
import {
  asId,
  type AgreementId,
  type AllowanceId,
  type AssetClassId,
  type AssetId,
  type CoverageLineId,
  type LocationId,
  type ServiceLevelId,
} from '#core/ids.ts';
import { addDays, addMonths, asLocalDate } from '#core/time/index.ts';
import { seeded } from '#demo/random.ts';
import { buildWeb } from '../commands/house.ts';
import { percentile, serverConfig, signIn, spread, spreadId, timed } from './calls.ts';
import { sized } from './size.ts';
import { rounded, secondsOf } from './stopwatch.ts';
import { inWorld, type World } from './world.ts';
import { ROOMS } from '#server/rooms.ts';

const CUSTOMERS = sized(10_000, 20);
const MACHINES_EACH = 10;
const ASKED = sized(400, 4);
const TODAY = asLocalDate('2026-11-24');

type Ground = { readonly asset: CoveredAsset; readonly candidates: readonly Cover[] };

/** 100,000 machines under 20,000 agreements: lines for machines, places and classes, some drafts, some counted rights, some warranties. */
function ground(): { machines: Ground[]; agreements: number; lines: number } {
  const random = seeded(4);
  const machines: Ground[] = [];
  let [agreements, lines] = [0, 0];
  for (let c = 0; c < CUSTOMERS; c += 1) {
    const site = asId<LocationId>(c * 4 + 1);
    const assets = Array.from({ length: MACHINES_EACH }, (_, i): CoveredAsset => ({
      id: asId<AssetId>(c * MACHINES_EACH + i + 1),
      classId: asId<AssetClassId>(1 + (i % 5)),
      owner: i === 9 ? 'own fleet' : 'customer',
      locationPath: [site, asId<LocationId>(c * 4 + 2 + (i % 3))],
    }));
    const covers = [0, 1].flatMap((n): LineCover[] => {
      agreements += 1;
      const from = addMonths(TODAY, -random.whole(1, 30));
      const term = { from, to: addDays(addMonths(from, 36), -1) };
      const base: Omit<LineCover, 'reach' | 'lineId'> = {
        kind: 'coverage line',
        label: `AG-${agreements}`,
        agreementId: asId<AgreementId>(agreements),
        stage: random.chance(0.06) ? 'draft' : 'in force',
        coversSuspended: false,
        agreementTerm: term,
        term,
        shares: { labour: 100, parts: random.pick([0, 50, 100]), consumables: 0, travel: 100 },
        discounts: [{ element: 'parts', percent: 10, kinds: ['repair'] }],
        hours: null,
        allowances: random.chance(0.2)
          ? [
              leftOf(
                {
                  key: { kind: 'agreement', id: asId<AllowanceId>(agreements) },
                  unit: 'call-outs',
                  amount: 5,
                  period: 'agreement year',
                  carriesOver: false,
                },
                term,
                Array.from({ length: random.whole(0, 6) }, () => ({ on: TODAY, amount: 1 })),
                TODAY,
              ),
            ]
          : [],
        serviceLevelId: asId<ServiceLevelId>(1 + n),
        kinds: n === 0 ? ['repair', 'preventive'] : ['preventive', 'repair', 'inspection'],
        excludedCauses: ['misuse'],
        excludedParts: [],
      };
      const reaches: LineCover['reach'][] = [
        { kind: 'asset', assetId: assets[random.whole(0, 9)]?.id as AssetId },
        { kind: 'location', locationId: site },
        { kind: 'class', assetClassId: asId<AssetClassId>(random.whole(1, 5)) },
      ];
      return reaches.map((reach) => ({ ...base, reach, lineId: asId<CoverageLineId>((lines += 1)) }));
    });
    const index = indexCovers(covers);
    for (const asset of assets) {
      const warranty: Cover[] = random.chance(0.25)
        ? [
            {
              kind: 'warranty',
              label: 'Warranty',
              assetId: asset.id,
              term: { from: addMonths(TODAY, -12), to: addMonths(TODAY, 12) },
              shares: { labour: 100, parts: 100, consumables: 0, travel: 0 },
              visits: null,
            },
          ]
        : [];
      machines.push({ asset, candidates: index.candidatesOf(asset, warranty) });
    }
  }
  return { machines, agreements, lines };
}

/** The reference: a loop over the same candidates that only adds up what each cover would bear; no order, reasons or promises. */
function plainLoop(machines: readonly Ground[]): number {
  let borne = 0;
  for (const { candidates } of machines)
    for (const c of candidates) {
      if (!holdsOn(c.term, TODAY)) continue;
      if (c.kind === 'coverage line' && (c.stage !== 'in force' || !c.kinds.includes('repair'))) continue;
      borne += c.shares.labour;
    }
  return borne;
}

async function core() {
  const { machines, agreements, lines } = ground();
  const ask = (asset: CoveredAsset): Question => ({ asset, on: TODAY, kind: 'repair', cause: 'wear' });
  let covered = 0;
  const decide = (): void => {
    for (const { asset, candidates } of machines)
      if (decideEntitlement(ask(asset), candidates).agreementId !== null) covered += 1;
  };
  // In turns, so that both meet the same machine; the median of each counts.
  const [own, plain]: [number[], number[]] = [[], []];
  for (let i = 0; i < 7; i += 1) {
    covered = 0;
    own.push(await secondsOf(decide));
    plain.push(await secondsOf(() => plainLoop(machines)));
  }
  const [seconds, reference] = [percentile(own, 0.5), percentile(plain, 0.5)];
  return {
    machines: machines.length,
    agreements,
    lines,
    looksPerMachine: rounded(machines.reduce((n, m) => n + m.candidates.length, 0) / machines.length),
    covered,
    decisionsPerSecond: Math.round(machines.length / seconds),
    wanted: '≥ 200,000 decisions/s',
    reference: {
      what: 'a plain loop over the same index that adds up shares',
      perSecond: Math.round(machines.length / reference),
    },
    ratio: rounded(seconds / reference),
  };
}

async function overHttp({ database, url, figures }: World) {
  await buildWeb();
  const app = await buildApp(serverConfig(url), database, ROOMS);
  try {
    const call = await signIn(app);
    const assets = figures.assets as number;
    const bare = await timed(ASKED, (i) =>
      database.pool.execute('SELECT * FROM asset WHERE id = ?', [spreadId(i, assets)]),
    );
    const verdicts = await timed(ASKED, (i) =>
      call('GET', `/api/cover?asset=${spreadId(i, assets)}&at=2026-11-24T09:20:00Z&kind=repair&cause=unknown`),
    );
    const without: number[] = [];
    let found = { total: 0, asked: 0 };
    for (let i = 0; i < 5; i += 1)
      without.push(
        await secondsOf(async () => {
          found = await call('GET', '/api/cover/all?question=no%20cover&on=2027-03-01');
        }),
      );
    const bareScan = await secondsOf(() =>
      database.pool.query('SELECT id, customer_id, class_id, location_id, warranty_until FROM asset'),
    );
    return {
      world: figures,
      verdict: { ...spread(verdicts), wanted: 'p95 ≤ 30 ms' },
      reference: { what: 'one asset by primary key, mysql2 execute', ...spread(bare) },
      verdictToReference: rounded(percentile(verdicts, 0.95) / percentile(bare, 0.95)),
      noCover: {
        machines: found.asked,
        without: found.total,
        medianSeconds: rounded(percentile(without, 0.5)),
        worstSeconds: rounded(Math.max(...without)),
        wanted: '≤ 2 s over 96,000 assets',
        reference: { what: 'five columns of every asset read once', seconds: rounded(bareScan) },
        ratio: rounded(percentile(without, 0.5) / bareScan),
      },
    };
  } finally {
    await app.close();
  }
}

export async function measure(): Promise<unknown> {
  const decisions = await core();
  return { bench: 'entitlement', core: decisions, ...(await inWorld(overHttp)) };
}
