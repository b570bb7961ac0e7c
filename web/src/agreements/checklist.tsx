// What still keeps a draft from being in force, point by point.
import type { AgreementPage as Page } from '#api/agreements.ts';
import { useSubmit } from '../parts/fields.tsx';
import { plural } from '../parts/words.ts';
import { useReader, WRITERS } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';

export function Checklist({ agreement }: { agreement: Page }) {
  const reader = useReader();
  const [put, { isLoading }] = server.usePutInForceMutation();
  const { errors, submit } = useSubmit([]);
  const open = agreement.checklist.filter((i) => !i.satisfied);
  const satisfied = agreement.checklist.length - open.length;
  return (
    <section className="sheet mt-4 p-4" aria-label="Checklist">
      <div className="flex items-center gap-4">
        <h2>
          {open.length === 0
            ? 'Ready to be put in force'
            : `${plural(open.length, 'point')} keep${open.length === 1 ? 's' : ''} it from being in force`}
        </h2>
        {reader.may(...WRITERS) && (
          <button
            className="act-main ml-auto"
            disabled={isLoading}
            onClick={() =>
              void submit(put({ params: { id: String(agreement.id) }, body: { version: agreement.version } }))
            }
          >
            Put in force
          </button>
        )}
      </div>
      <ul className="mt-1">
        {[...new Map(open.map((i) => [i.subject + i.text, i])).values()].map((i) => (
          <li key={i.text}>
            ✕ <strong className="font-semibold">{i.subject}</strong>: {i.text}
          </li>
        ))}
      </ul>
      {satisfied > 0 && (
        <details className="quiet mt-1">
          <summary className="w-fit link-ink">{satisfied} satisfied</summary>
          <ul>
            {agreement.checklist
              .filter((i) => i.satisfied)
              .slice(0, 60)
              .map((i, n) => (
                <li key={n}>
                  ✓ {i.subject}: {i.text}
                </li>
              ))}
          </ul>
        </details>
      )}
      {errors.problem && (
        <p role="alert" className="mt-2 text-missed">
          ✕ Not put in force: {errors.problem.detail}
        </p>
      )}
    </section>
  );
}
