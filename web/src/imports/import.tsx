// Importing a file: choose it, say how its columns are read, look through the dry run, load, and undo as a whole.
import { useRef, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import type { Answer } from '#api/contract.ts';
import type { ImportPage as Page, listImports } from '#api/imports.ts';
import {
  ASSET_KEYS,
  checkMapping,
  DATE_FORMATS,
  DELIMITERS,
  IMPORT_DATES,
  IMPORT_FIELDS,
  IMPORT_KINDS,
  type Encoding,
  type ImportKind,
  type ImportSettings,
} from '#core/imports/index.ts';
import { formatInstant, localDateAt, type Zone } from '#core/time/index.ts';
import { Table, type Column } from '../parts/table/index.ts';
import { GeneralError, SelectField, useSubmit, type Errors } from '../parts/fields.tsx';
import { plural, sayDate } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { importsApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';

const KIND_NAMES: Record<ImportKind, string> = {
  assets: 'assets, with their customers and places',
  customers: 'customers',
  contacts: 'contacts',
  locations: 'places',
  meters: 'meters',
  readings: 'meter readings',
  agreements: 'agreements and their coverage',
};
const DELIMITER_NAMES = { ',': 'comma', ';': 'semicolon', '\t': 'tab' } as const;

function Remarks({ title, remarks, total }: { title: string; remarks: Page['bad']; total: number }) {
  if (remarks.length === 0) return null;
  return (
    <section className="mt-6">
      <h2>{title}</h2>
      <table className="dense mt-1">
        <thead>
          <tr>
            <th className="num w-16">Line</th>
            <th className="w-36">Column</th>
            <th>What would be right</th>
          </tr>
        </thead>
        <tbody>
          {remarks.map((r, i) => (
            <tr key={i}>
              <td className="num">{r.rows === 1 ? r.line : ''}</td>
              <td className="serial">{r.column}</td>
              <td>
                {r.message}
                {r.rows > 1 && (
                  <span className="quiet block">
                    {plural(r.rows, 'row')}: lines {r.lines.join(', ')}
                    {r.rows > r.lines.length ? ', …' : ''}
                  </span>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {total > remarks.length && <p className="quiet">and {total - remarks.length} more</p>}
    </section>
  );
}

function Figures({ page }: { page: Page }) {
  const loaded = page.state !== 'read';
  const { created, updated, unchanged, refused } = page.tally;
  const figures: [number, string][] = [
    ...Object.entries(created).map(([what, n]): [number, string] => [n, `${what}${loaded ? '' : ' to create'}`]),
    ...(updated > 0 ? ([[updated, loaded ? 'changed' : 'to change']] as [number, string][]) : []),
    [unchanged, 'held already, unchanged'],
    [refused, 'rows that do not load'],
  ];
  return (
    <dl className="mt-4 flex flex-wrap gap-x-10 gap-y-2 border-y border-hairline py-3">
      {figures.map(([n, what]) => (
        <div key={what}>
          <dd className={`figure ${what.startsWith('rows') && n > 0 ? 'text-missed' : ''}`}>
            {n.toLocaleString('en-GB')}
          </dd>
          <dt className="quiet">{what}</dt>
        </div>
      ))}
    </dl>
  );
}

function Settings({
  page,
  dateUnclear,
  set,
}: {
  page: Page;
  dateUnclear: boolean;
  set: (settings: ImportSettings) => void;
}) {
  const { settings, head, sample } = page;
  const columns: (readonly [string, string])[] = [
    ['', 'not in the file'],
    ...head.map(
      (h, i) => [String(i), `${h || `column ${i + 1}`}${sample[0]?.[i] ? `: ${sample[0][i]}` : ''}`] as const,
    ),
  ];
  const map = (field: string, at: string): void => {
    const { [field]: _, ...rest } = settings.mapping;
    set({ ...settings, mapping: at === '' ? rest : { ...rest, [field]: Number(at) } });
  };
  const dates = IMPORT_FIELDS[page.kind].some((f) => IMPORT_DATES.includes(f.name));
  // Open while something is left to say: a column nobody reads, or a field that is needed.
  const unmapped =
    head.some((_, i) => !Object.values(settings.mapping).includes(i)) ||
    checkMapping(page.kind, settings, head.length).length > 0;
  return (
    <section className="mt-4" aria-label="How the file is read">
      <div className="grid max-w-4xl grid-cols-3 gap-3">
        <SelectField
          label="Delimiter"
          value={settings.delimiter}
          onChange={(d) => set({ ...settings, delimiter: d as ImportSettings['delimiter'] })}
          options={DELIMITERS.map((d) => [d, DELIMITER_NAMES[d]])}
        />
        {dates && (
          <SelectField
            label="Dates are written"
            value={settings.dateFormat}
            onChange={(f) => set({ ...settings, dateFormat: f as ImportSettings['dateFormat'] })}
            options={DATE_FORMATS.map((f) => [f, f])}
            error={dateUnclear ? 'The file has dates that can be read two ways: choose the order.' : undefined}
          />
        )}
        {page.kind === 'assets' && (
          <SelectField
            label="A machine is known by"
            value={settings.key}
            onChange={(k) => set({ ...settings, key: k as ImportSettings['key'] })}
            options={ASSET_KEYS.map((k) => [k, k])}
            hint={
              settings.key === 'tag and serial'
                ? 'Rows whose two do not fit together are refused.'
                : `A row may change its ${settings.key === 'tag' ? 'serial' : 'tag'}.`
            }
          />
        )}
      </div>
      <details className="mt-3" open={unmapped}>
        <summary className="w-fit">
          <h2 className="inline">Columns</h2>{' '}
          <span className="quiet">
            {Object.keys(settings.mapping).length} of {IMPORT_FIELDS[page.kind].length} fields read
            {page.remembered ? ', as last time' : ''}
          </span>
        </summary>
        <div className="mt-1 grid max-w-5xl grid-cols-3 gap-x-4 gap-y-2">
          {IMPORT_FIELDS[page.kind].map((f) => (
            <SelectField
              key={f.name}
              label={`${f.label}${f.needed ? ' (needed)' : ''}`}
              value={String(settings.mapping[f.name] ?? '')}
              onChange={(at) => map(f.name, at)}
              options={columns}
            />
          ))}
        </div>
      </details>
    </section>
  );
}

function Progress({ page }: { page: Page }) {
  const [cancel] = importsApi.useCancelImportMutation();
  const of = Object.entries(page.tally.created)
    .filter(([what]) => what === (page.kind === 'locations' ? 'places' : page.kind))
    .reduce((n, [, x]) => n + x, page.tally.updated);
  return (
    <div className="mt-4 max-w-2xl" role="status">
      <progress
        className="progress h-3 w-full rounded-none text-base-content"
        value={page.rowsDone}
        max={Math.max(1, of)}
      />
      <p className="flex justify-between">
        <span className="tabular-nums">
          {page.rowsDone.toLocaleString('en-GB')} of {of.toLocaleString('en-GB')} loaded
        </span>
        <button className="act" onClick={() => void cancel({ params: { id: String(page.id) } })}>
          Stop
        </button>
      </p>
      <p className="quiet">You may leave; it goes on, and the result waits here.</p>
    </div>
  );
}

const STATE_WORDS = {
  read: 'not loaded',
  running: 'loading',
  done: 'loaded',
  cancelled: 'stopped on the way',
  failed: 'failed',
  undone: 'undone',
} as const;

type ImportRow = Answer<typeof listImports>['items'][number];

const importColumns = (zone: Zone, open: (id: number) => void): Column<ImportRow>[] => [
  {
    id: 'file',
    head: 'File',
    value: (i) => i.fileName,
    show: (i) => (
      <button className="link-ink" onClick={() => open(i.id)}>
        {i.fileName}
      </button>
    ),
  },
  { id: 'kind', head: 'Kind', value: (i) => KIND_NAMES[i.kind].split(',')[0] ?? '' },
  {
    id: 'when',
    head: 'When',
    value: (i) => formatInstant(i.createdAt),
    show: (i) => sayDate(localDateAt(zone, i.createdAt)),
  },
  { id: 'who', head: 'Who', value: (i) => i.who },
  { id: 'rows', head: 'Rows', isNumber: true, value: (i) => i.rows, show: (i) => i.rows.toLocaleString('en-GB') },
  { id: 'state', head: 'State', value: (i) => STATE_WORDS[i.state] },
];

function PastImports({ open }: { open: (id: number) => void }) {
  const reader = useReader();
  const query = importsApi.useListImportsQuery();
  return (
    <Waiting query={query}>
      {({ items }) =>
        items.length === 0 ? null : (
          <section className="mt-10">
            <Table
              name="imports"
              caption="Newest imports"
              title={<h2>Newest imports</h2>}
              columns={importColumns(reader.zone, open)}
              rows={items}
              idOf={(i) => i.id}
            />
          </section>
        )
      }
    </Waiting>
  );
}

function Loaded({ id }: { id: number }) {
  const query = importsApi.useReadImportQuery({ params: { id: String(id) } });
  const [start] = importsApi.useStartImportMutation();
  const [undo, { isLoading }] = importsApi.useUndoImportMutation();
  const [asking, setAsking] = useState(false);
  const { errors, submit } = useSubmit([]);
  return (
    <Waiting query={query}>
      {(page) => {
        const nothing = page.rowsDone === 0;
        return (
          <>
            <h2 className="mt-6">
              {page.fileName}: {STATE_WORDS[page.state]}
            </h2>
            {page.state === 'running' ? (
              <Progress page={page} />
            ) : (
              <>
                <Figures page={page} />
                {page.problem && <p className="mt-2 text-missed">✕ {page.problem}</p>}
                <p className="mt-3 flex items-center gap-4" role="status">
                  {page.state === 'done' &&
                    (nothing ? 'Nothing new was created.' : `${plural(page.rowsDone, 'row')} loaded.`)}
                  {page.state === 'undone' && 'The register is as it was before.'}
                  {page.state === 'cancelled' && `Stopped after ${plural(page.rowsDone, 'row')}.`}
                  <Link className="link-ink" to="/register">
                    Open the register
                  </Link>
                  {page.state === 'cancelled' && (
                    <button className="act" onClick={() => void submit(start({ params: { id: String(id) } }))}>
                      Go on
                    </button>
                  )}
                  {['done', 'cancelled', 'failed'].includes(page.state) && !nothing && (
                    <button className="act" disabled={isLoading} onClick={() => setAsking(true)}>
                      Undo this import…
                    </button>
                  )}
                  {page.tally.refused > 0 && (
                    <a className="link-ink" href={`/api/imports/${id}/remarks.csv`} download>
                      Rows that did not load (CSV)
                    </a>
                  )}
                </p>
                <GeneralError errors={errors} />
                {asking && (
                  <Dialog title="Undo this import" onClose={() => setAsking(false)}>
                    <h1>Undo {page.fileName}</h1>
                    <p className="mt-2">
                      Everything its {plural(page.rowsDone, 'row')} made is removed, and what they changed is put back.
                      It is refused as a whole when something else depends on it by now.
                    </p>
                    <div className="mt-4 flex gap-2">
                      <button
                        className="act-main"
                        disabled={isLoading}
                        onClick={() => {
                          setAsking(false);
                          void submit(undo({ params: { id: String(id) } }));
                        }}
                      >
                        Undo {plural(page.rowsDone, 'row')}
                      </button>
                      <button className="act" onClick={() => setAsking(false)}>
                        Keep them
                      </button>
                    </div>
                  </Dialog>
                )}
              </>
            )}
          </>
        );
      }}
    </Waiting>
  );
}

/** A file on its way: handed in, mapped, begun to load. Choices made quickly are asked one at a time; the newest answer is shown. */
function useImporting(kind: ImportKind) {
  const [params, setParams] = useSearchParams();
  const [page, setPage] = useState<Page | null>(null);
  const [begin, { isLoading: isReading }] = importsApi.useBeginImportMutation();
  const [set, { isLoading: isLooking }] = importsApi.useSetImportMutation();
  const [start, { isLoading: isStarting }] = importsApi.useStartImportMutation();
  const { errors, submit, clear } = useSubmit(['dateFormat']);
  const shown = Number(params.get('import')) || null;
  const show = (id: number | null): void => setParams(id === null ? {} : { import: String(id) }, { replace: true });
  const hand = async (chosen: File | undefined, as: Encoding): Promise<void> => {
    if (!chosen) return;
    setPage(null);
    show(null);
    clear();
    setPage(await submit(begin({ query: { kind, name: chosen.name, encoding: as }, body: chosen })));
  };
  // Choices made quickly one after the other: one request at a time, and only the newest answer is shown.
  const turn = useRef(0);
  const underWay = useRef<Promise<unknown>>(Promise.resolve());
  const change = async (settings: ImportSettings): Promise<void> => {
    if (!page) return;
    setPage({ ...page, settings: { ...settings, mapping: { ...settings.mapping } } });
    clear();
    turn.current += 1;
    const own = turn.current;
    if (checkMapping(page.kind, settings, page.head.length).length > 0) return;
    const body = { ...settings, mapping: { ...settings.mapping } };
    await underWay.current;
    if (own !== turn.current) return;
    const sent = submit(set({ params: { id: String(page.id) }, body }));
    underWay.current = sent;
    const found = await sent;
    if (found && own === turn.current) setPage(found);
  };
  const load = async (): Promise<void> => {
    if (page && (await submit(start({ params: { id: String(page.id) } })))) {
      show(page.id);
      setPage(null);
    }
  };
  return { page, setPage, shown, show, errors, hand, change, load, isReading, isLooking, isStarting };
}

/** What loading the file would do, and what keeps rows from it. */
function DryRun({
  page,
  what,
  errors,
  isBusy,
  isStarting,
  set,
  load,
}: {
  page: Page;
  /** What one row is. */
  what: string;
  errors: Errors;
  isBusy: boolean;
  isStarting: boolean;
  set: (settings: ImportSettings) => void;
  load: () => void;
}) {
  const wrong = checkMapping(page.kind, page.settings, page.head.length);
  const dateUnclear = page.needsDateFormat || errors.of('dateFormat') !== undefined;
  const ready = wrong.length === 0 && !dateUnclear && errors.problem === null;
  const willLoad = page.tally.updated + (page.tally.created[page.kind === 'locations' ? 'places' : page.kind] ?? 0);
  return (
    <>
      <h2 className="mt-6">
        Dry run of {page.fileName}: {plural(page.rows, 'row')}
      </h2>
      <Settings page={page} dateUnclear={dateUnclear} set={set} />
      {wrong.length > 0 && (
        <p role="alert" className="mt-3 text-missed">
          ✕ {wrong.join(' ')}
        </p>
      )}
      {ready && <Figures page={page} />}
      {!ready ? null : willLoad === 0 ? (
        <p className="mt-3">There is nothing new to load from this file.</p>
      ) : (
        <p className="mt-3 flex items-center gap-3">
          <button className="act-main" disabled={isBusy} onClick={load}>
            {isStarting ? 'Loading…' : `Load ${plural(willLoad, what)}`}
          </button>
          <span className="quiet">
            {willLoad <= 5000 ? 'in one step: all of these rows or none' : 'step by step, with its progress shown'}
          </span>
        </p>
      )}
      <Remarks title="Rows that do not load" remarks={page.bad} total={page.badTotal} />
      {page.notesTotal > 0 && (
        <details className="mt-6">
          <summary>
            <h2 className="inline">Rows that load, but not wholly as written: {page.notesTotal} remarks</h2>
          </summary>
          <Remarks title="" remarks={page.notes} total={page.notesTotal} />
        </details>
      )}
    </>
  );
}

export function ImportPage() {
  const [params] = useSearchParams();
  const input = useRef<HTMLInputElement>(null);
  const [kind, setKind] = useState<ImportKind>(IMPORT_KINDS.find((k) => k === params.get('kind')) ?? 'assets');
  const [encoding, setEncoding] = useState<Encoding>('utf-8');
  const { page, setPage, shown, show, errors, hand, change, load, isReading, isLooking, isStarting } =
    useImporting(kind);
  const what = kind === 'locations' ? 'place' : kind === 'readings' ? 'reading' : kind.slice(0, -1);
  return (
    <div className="max-w-6xl px-7 pt-5 pb-12">
      <p className="quiet">
        <Link className="link-ink" to="/register">
          Register
        </Link>
      </p>
      <h1>Import a file</h1>
      <p className="mt-1 max-w-2xl text-ink2">
        A CSV file whose first line names the columns. Nothing is written before you confirm, and an import can be
        undone as a whole while nothing else depends on it.
      </p>
      <div className="mt-4 grid max-w-4xl grid-cols-3 items-end gap-3">
        <SelectField
          label="The file holds"
          value={kind}
          onChange={(k) => {
            setKind(k as ImportKind);
            setPage(null);
          }}
          options={IMPORT_KINDS.map((k) => [k, KIND_NAMES[k]])}
        />
        <SelectField
          label="Encoding"
          value={encoding}
          onChange={(e) => {
            setEncoding(e as Encoding);
            void hand(input.current?.files?.[0], e as Encoding);
          }}
          options={[
            ['utf-8', 'UTF-8'],
            ['windows-1252', 'Windows-1252 (Western European)'],
          ]}
        />
        <label className="block w-fit">
          <span className="quiet block pb-0.5">File</span>
          <input
            ref={input}
            type="file"
            accept=".csv,.txt,.tsv,text/csv"
            className="file-input file-input-sm border-secondary bg-base-100"
            onChange={(e) => void hand(e.target.files?.[0], encoding)}
          />
        </label>
      </div>
      <div className="mt-2">
        <GeneralError errors={errors} />
      </div>
      {(isReading || isLooking) && (
        <p role="status" className="quiet mt-3">
          Reading the file…
        </p>
      )}
      {shown !== null && <Loaded key={shown} id={shown} />}
      {page && (
        <DryRun
          page={page}
          what={what}
          errors={errors}
          isBusy={isStarting || isLooking}
          isStarting={isStarting}
          set={(settings) => void change(settings)}
          load={() => void load()}
        />
      )}
      <PastImports open={show} />
    </div>
  );
}
