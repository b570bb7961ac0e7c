// An import under way or done: its progress, what came of it, undoing it; and those of before.
import { useState } from 'react';
import { Link } from 'react-router';
import type { Answer } from '#api/contract.ts';
import type { ImportPage as Page, listImports } from '#api/imports.ts';
import { formatInstant, localDateAt, type Zone } from '#core/time/index.ts';
import { Table, type Column } from '../parts/table/index.ts';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { plural, sayDate } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { importsApi } from './endpoints.ts';
import { Figures, KIND_NAMES } from './figures.tsx';
import { Waiting } from '../shell/waiting.tsx';

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

export function PastImports({ open }: { open: (id: number) => void }) {
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

export function Loaded({ id }: { id: number }) {
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
