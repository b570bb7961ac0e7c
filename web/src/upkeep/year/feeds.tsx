// Calendar feeds: a secret address that any calendar can read; told once, revoked for good.
import { useState } from 'react';
import { addFeed, type FeedOut } from '#api/year.ts';
import { localDateAt } from '#core/time/index.ts';
import { Choose, type Choice } from '../../parts/choose.tsx';
import { newRequestKey } from '../../parts/fields.tsx';
import { Table, type Column } from '../../parts/table/index.ts';
import { sayDate } from '../../parts/words.ts';
import { WireSelect } from '../../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../../parts/wire-form.tsx';
import { useTechnicians } from '../../setup/index.ts';
import { useReader } from '../../shell/reader.tsx';
import { upkeepApi } from '../endpoints.ts';

const columns = (day: (at: FeedOut['at']) => string, revoke: (feed: FeedOut) => void): readonly Column<FeedOut>[] => [
  { id: 'of', head: 'Visits of', value: (f) => f.of.name },
  { id: 'kind', head: '', drawnHead: <span className="sr-only">Kind</span>, value: (f) => f.kind, className: 'quiet' },
  { id: 'at', head: 'Made', value: (f) => f.at, show: (f) => `${day(f.at)}${f.by ? `, ${f.by}` : ''}` },
  {
    id: 'read',
    head: 'Last read',
    value: (f) => f.readAt ?? 0,
    show: (f) => (f.readAt === null ? 'never' : day(f.readAt)),
    className: 'quiet',
  },
  {
    id: 'works',
    head: 'Address',
    value: (f) => (f.works ? 'works' : 'revoked'),
    show: (f) =>
      f.works ? (
        <button className="link-ink" onClick={() => revoke(f)} aria-label={`Revoke the address of ${f.of.name}`}>
          revoke
        </button>
      ) : (
        <span className="quiet">revoked</span>
      ),
  },
];

function Made({ address }: { address: string }) {
  const [copied, setCopied] = useState(false);
  return (
    <p role="status" className="mt-3">
      The address, shown this once; whoever has it can read the visits:
      <span className="my-1 flex flex-wrap items-center gap-3">
        <code className="serial border border-base-content px-2 py-1 break-all select-all">{address}</code>
        <button
          type="button"
          className="act"
          onClick={() => void navigator.clipboard.writeText(address).then(() => setCopied(true))}
        >
          {copied ? 'Copied' : 'Copy'}
        </button>
      </span>
    </p>
  );
}

type Typed = { requestKey: string; kind: FeedOut['kind']; of: number };
const blank = (): Typed => ({ requestKey: newRequestKey(), kind: 'technician', of: NaN });

export function Feeds({ customer, placeId }: { customer: Choice | null; placeId: string | null }) {
  const reader = useReader();
  const { data } = upkeepApi.useListFeedsQuery();
  const [add] = upkeepApi.useAddFeedMutation();
  const [revoke] = upkeepApi.useRevokeFeedMutation();
  const [made, setMade] = useState<string | null>(null);
  const [technician, setTechnician] = useState<Choice | null>(null);
  const form = useWireForm<Typed>(addFeed, blank());
  const kind = form.watch('kind');
  const kinds: (readonly [FeedOut['kind'], string])[] = [
    ...(customer ? [['customer', customer.name] as const] : []),
    ...(placeId ? [['place', 'this place'] as const] : []),
    ['technician', 'a technician'],
  ];
  const idOf = (of: FeedOut['kind']): number =>
    of === 'customer' ? (customer?.id ?? NaN) : of === 'place' ? Number(placeId ?? NaN) : (technician?.id ?? NaN);
  const day = (at: FeedOut['at']): string => sayDate(localDateAt(reader.zone, at));
  return (
    <section className="mt-8">
      <h2>Calendar feeds</h2>
      <p className="quiet">
        A calendar that reads the address shows the visits and follows when they move; of a technician also appointments
        and absences.
      </p>
      <WireForm<Typed, { id: number; path: string }>
        form={form}
        name="Calendar feed"
        save="Make an address"
        send={(body) => add({ body })}
        onDone={({ path }) => {
          setMade(`${window.location.origin}${path}`);
          setTechnician(null);
          form.reset(blank());
        }}
      >
        <div className="mt-2 grid max-w-2xl grid-cols-2 gap-4">
          <WireSelect name="kind" label="Visits of" options={kinds} onChosen={(of) => form.setValue('of', idOf(of))} />
          <Wire<number> name="of">
            {({ change, error }) =>
              kind === 'technician' ? (
                <Choose
                  label="Technician"
                  chosen={technician}
                  onChoose={(choice) => {
                    setTechnician(choice);
                    change(choice?.id ?? NaN);
                  }}
                  useFind={useTechnicians}
                  error={error}
                />
              ) : error ? (
                <p className="pt-6 text-missed">✕ {error}</p>
              ) : null
            }
          </Wire>
        </div>
      </WireForm>
      {made && <Made key={made} address={made} />}
      {data && data.items.length > 0 && (
        <Table
          name="feeds"
          caption="Calendar feeds"
          columns={columns(day, (f) => void revoke({ params: { id: String(f.id) } }))}
          rows={data.items}
          idOf={(f) => f.id}
        />
      )}
    </section>
  );
}
