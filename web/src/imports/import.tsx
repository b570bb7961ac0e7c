// Importing a file: choose it, say how its columns are read, look through the dry run, load, and undo as a whole.
import { useRef, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import type { ImportPage as Page } from '#api/imports.ts';
import {
  checkMapping,
  IMPORT_KINDS,
  type Encoding,
  type ImportKind,
  type ImportSettings,
} from '#core/imports/index.ts';
import { GeneralError, SelectField, type Errors } from '../parts/fields.tsx';
import { plural } from '../parts/words.ts';
import { Figures, KIND_NAMES, Remarks } from './figures.tsx';
import { useImporting } from './importing.ts';
import { Loaded, PastImports } from './loaded.tsx';
import { Settings } from './settings.tsx';

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
