// Photos and papers of a customer, place, asset or agreement.
import { useRef } from 'react';
import { addFile } from '#api/files.ts';
import type { FileSubject } from '#api/files.ts';
import { localDateAt } from '#core/time/index.ts';
import { useSubmit } from '../parts/fields.tsx';
import { sayBytes, sayDate } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { filesApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';

/** `quiet`: only shown, and nothing is said where there are none. */
export function Files({ subject, id, quiet = false }: { subject: FileSubject; id: number; quiet?: boolean }) {
  const reader = useReader();
  const query = filesApi.useListFilesQuery({ query: { subject, subjectId: String(id) } });
  const input = useRef<HTMLInputElement>(null);
  const [add, { isLoading }] = filesApi.useAddFileMutation();
  const [remove] = filesApi.useRemoveFileMutation();
  const { errors, submit } = useSubmit(['file']);
  const may = reader.may(addFile) && subject !== 'mail';
  const attach = async (files: FileList | null): Promise<void> => {
    if (subject === 'mail') return;
    for (const file of files ?? [])
      if (!(await submit(add({ query: { subject, subjectId: String(id), name: file.name }, body: file })))) break;
    if (input.current) input.current.value = '';
  };
  return (
    <div className="mt-1">
      <Waiting query={query}>
        {({ items }) => (
          <>
            {items.length === 0 && !quiet && <p className="quiet">No photo or paper yet.</p>}
            <ul className="flex flex-wrap gap-3">
              {items.map((f) => (
                <li key={f.id} className="w-40">
                  <a href={`/api/files/${f.id}/content`} target="_blank" rel="noreferrer" className="block">
                    {f.mediaType.startsWith('image/') ? (
                      <img
                        src={`/api/files/${f.id}/content`}
                        alt={f.name}
                        loading="lazy"
                        className="h-24 w-40 border border-hairline object-cover"
                      />
                    ) : (
                      <span className="flex h-24 w-40 items-center justify-center border border-hairline text-ink2">
                        PDF
                      </span>
                    )}
                    <span className="block truncate link-ink text-[0.9rem]">{f.name}</span>
                  </a>
                  <span className="quiet flex justify-between">
                    {sayBytes(f.bytes)}, {sayDate(localDateAt(reader.zone, f.at))}
                    {may && (
                      <button
                        className="link-ink"
                        aria-label={`Remove ${f.name}`}
                        onClick={() => void submit(remove({ params: { id: String(f.id) } }))}
                      >
                        remove
                      </button>
                    )}
                  </span>
                </li>
              ))}
            </ul>
          </>
        )}
      </Waiting>
      {may && (
        <label className="act mt-2">
          {isLoading ? 'Attaching…' : 'Attach a photo or PDF…'}
          <input
            ref={input}
            type="file"
            multiple
            accept="image/jpeg,image/png,image/webp,application/pdf"
            className="sr-only"
            aria-label="Attach a photo or PDF"
            onChange={(e) => void attach(e.target.files)}
          />
        </label>
      )}
      {errors.problem && (
        <p role="alert" className="mt-1 text-missed">
          ✕ {errors.of('file') ?? errors.problem.detail}
        </p>
      )}
    </div>
  );
}
