// What still keeps a draft from being in force, and what else a contract says, under the headings maintenance contracts are read by.
import { putInForce, type AgreementPage as Page } from '#api/agreements/index.ts';
import { CONTRACT_HEADINGS } from '#core/agreements/index.ts';
import { useSubmit } from '../parts/fields.tsx';
import { plural } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { agreementsApi } from './endpoints.ts';

const SATISFIED_SHOWN = 12;

function Heading({ heading, items }: { heading: string; items: Page['checklist'] }) {
  const open = items.filter((i) => !i.satisfied);
  const met = items.filter((i) => i.satisfied);
  return (
    <section className="border-t border-hairline py-1.5">
      <h3 className="font-semibold">
        {open.some((i) => i.blocks) ? '✕' : open.length > 0 ? '○' : '✓'} {heading}
      </h3>
      <ul className="text-[0.92rem]">
        {[...new Map(open.map((i) => [i.text, i])).values()].map((i) => (
          <li key={i.text} className={i.blocks ? '' : 'quiet'}>
            {i.blocks ? '✕' : '○'} {i.text}
            {!i.blocks && ' It can hold without.'}
          </li>
        ))}
      </ul>
      {met.length > 0 && (
        <details className="quiet">
          <summary className="w-fit link-ink">{met.length} satisfied</summary>
          <ul>
            {met.slice(0, SATISFIED_SHOWN).map((i, n) => (
              <li key={n}>✓ {i.text}</li>
            ))}
            {met.length > SATISFIED_SHOWN && <li>and {met.length - SATISFIED_SHOWN} more</li>}
          </ul>
        </details>
      )}
    </section>
  );
}

export function Checklist({ agreement }: { agreement: Page }) {
  const reader = useReader();
  const [put, { isLoading }] = agreementsApi.usePutInForceMutation();
  const { errors, submit } = useSubmit([]);
  const open = agreement.checklist.filter((i) => i.blocks && !i.satisfied);
  return (
    <section className="sheet mt-4 p-4" aria-label="Checklist">
      <div className="flex items-center gap-4">
        <h2>
          {open.length === 0
            ? 'Ready to be put in force'
            : `${plural(open.length, 'point')} keep${open.length === 1 ? 's' : ''} it from being in force`}
        </h2>
        {reader.may(putInForce) && (
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
      {errors.problem && (
        <p role="alert" className="mt-2 text-missed">
          ✕ Not put in force: {errors.problem.detail}
        </p>
      )}
      <div className="mt-2 grid grid-cols-2 gap-x-8">
        {CONTRACT_HEADINGS.map((heading) => (
          <Heading key={heading} heading={heading} items={agreement.checklist.filter((i) => i.heading === heading)} />
        ))}
      </div>
    </section>
  );
}
