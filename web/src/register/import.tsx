// Importing a register: choose a file, look through the dry run, confirm. Good rows load, bad rows are named with what would be right.
import { useState } from 'react';
import { Link } from 'react-router';
import type { ImportSummary } from '#api/register.ts';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { plural } from '../parts/words.ts';
import { server } from '../shell/store.ts';

type Chosen = { readonly name: string; readonly text: string };

/** The file's text; null when it is not UTF-8. */
export async function readText(file: Blob): Promise<string | null> {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(await file.arrayBuffer());
  } catch {
    return null;
  }
}

function Remarks({ title, remarks }: { title: string; remarks: ImportSummary['bad'] }) {
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
          {remarks.slice(0, 500).map((r, i) => (
            <tr key={i}>
              <td className="num">{r.line}</td>
              <td className="serial">{r.column}</td>
              <td>{r.message}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {remarks.length > 500 && <p className="quiet">and {remarks.length - 500} more</p>}
    </section>
  );
}

function Figures({ summary, done }: { summary: ImportSummary; done: boolean }) {
  const bad = new Set(summary.bad.map((b) => b.line)).size;
  const figures: [number, string][] = [
    [summary.customers.length, 'customers'],
    [summary.locations, 'places'],
    [summary.assets, 'assets'],
    [summary.alreadyHeld, 'held already, unchanged'],
    [bad, 'rows that do not load'],
  ];
  return (
    <dl className="mt-4 flex gap-10 border-y border-hairline py-3">
      {figures.map(([n, what]) => (
        <div key={what}>
          <dd className={`figure ${what.startsWith('rows') && n > 0 ? 'text-missed' : ''}`}>{n}</dd>
          <dt className="quiet">
            {what}
            {done || what.startsWith('rows') || what.startsWith('held') ? '' : ' to create'}
          </dt>
        </div>
      ))}
    </dl>
  );
}

export function ImportPage() {
  const [file, setFile] = useState<Chosen | null>(null);
  const [unread, setUnread] = useState<string | null>(null);
  const [preview, setPreview] = useState<ImportSummary | null>(null);
  const [result, setResult] = useState<ImportSummary | null>(null);
  const [previewImport, { isLoading: looking }] = server.usePreviewImportMutation();
  const [runImport, { isLoading: loading }] = server.useRunImportMutation();
  const { errors, submit, clear } = useSubmit([]);
  const choose = async (chosen: File | undefined): Promise<void> => {
    if (!chosen) return;
    setPreview(null);
    setResult(null);
    setUnread(null);
    clear();
    const text = await readText(chosen);
    if (text === null)
      return setUnread(`${chosen.name} is not text in UTF-8. Save it as CSV in UTF-8 and choose it again.`);
    setFile({ name: chosen.name, text });
    setPreview(await submit(previewImport({ body: { fileName: chosen.name, text } })));
  };
  const load = async (): Promise<void> => {
    if (!file) return;
    const done = await submit(runImport({ body: { fileName: file.name, text: file.text } }));
    if (done) setResult(done);
  };
  const summary = result ?? preview;
  return (
    <div className="max-w-5xl px-7 pt-5 pb-12">
      <p className="quiet">
        <Link className="link-ink" to="/register">
          Register
        </Link>
      </p>
      <h1>Import a register file</h1>
      <p className="mt-1 max-w-2xl text-ink2">
        A comma-separated file in UTF-8 with the columns customer, location_path, address, latitude, longitude, zone,
        class, maker, model, serial, tag, owner, commissioned, warranty_until, parent_tag. Nothing is written before you
        confirm.
      </p>
      <label className="mt-4 block w-fit">
        <span className="quiet block pb-0.5">Register file</span>
        <input
          type="file"
          accept=".csv,text/csv"
          className="file-input file-input-sm border-secondary bg-base-100"
          onChange={(e) => void choose(e.target.files?.[0])}
        />
      </label>
      {unread && (
        <p role="alert" className="mt-2 text-missed">
          ✕ {unread}
        </p>
      )}
      <div className="mt-2">
        <GeneralError errors={errors} />
      </div>
      {looking && (
        <p role="status" className="quiet mt-3">
          Reading the file…
        </p>
      )}
      {summary && (
        <>
          <h2 className="mt-6">
            {result ? `Loaded from ${file?.name}` : `Dry run of ${file?.name}`}: {plural(summary.rows, 'row')}
          </h2>
          <Figures summary={summary} done={result !== null} />
          {result ? (
            <p className="mt-3" role="status">
              {result.assets === 0 ? 'Nothing new was created.' : `${plural(result.assets, 'asset')} registered.`}{' '}
              <Link className="link-ink" to="/register">
                Open the register
              </Link>
            </p>
          ) : summary.assets === 0 ? (
            <p className="mt-3">There is nothing new to load from this file.</p>
          ) : (
            <p className="mt-3 flex items-center gap-3">
              <button className="act-main" disabled={loading} onClick={() => void load()}>
                {loading ? 'Loading…' : `Load ${plural(summary.assets, 'asset')}`}
              </button>
              <span className="quiet">in one step: all of these rows or none</span>
            </p>
          )}
          <Remarks title="Rows that do not load" remarks={summary.bad} />
          {summary.notes.length > 0 && (
            <details className="mt-6">
              <summary>
                <h2 className="inline">Rows that load, but not wholly as written: {summary.notes.length} remarks</h2>
              </summary>
              <Remarks title="" remarks={summary.notes} />
            </details>
          )}
          {!result && summary.sample.length > 0 && (
            <section className="mt-6">
              <h2>The first that load</h2>
              <table className="dense mt-1">
                <tbody>
                  {summary.sample.map((s) => (
                    <tr key={s.line}>
                      <td className="num w-16">{s.line}</td>
                      <td className="serial w-24">{s.tag}</td>
                      <td>{s.model}</td>
                      <td>{s.customer}</td>
                      <td className="quiet">{s.place ?? 'no place'}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </section>
          )}
        </>
      )}
    </div>
  );
}
