// The words of messages: each in each language, with what may be put into them.
import { useState } from 'react';
import { changeTemplate, type listTemplates } from '#api/outbox.ts';
import type { Answer } from '#api/contract.ts';
import type { Language } from '#core/telling.ts';
import { WireLongText, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { outboxApi } from './endpoints.ts';

type Template = Answer<typeof listTemplates>['items'][number];
const NAMES: Record<Language, string> = { en: 'English', pt: 'Portuguese' };

function Words({ template, onDone }: { template: Template; onDone: () => void }) {
  const { kind, language, subject, body, version } = template;
  const [change] = outboxApi.useChangeTemplateMutation();
  const form = useWireForm(changeTemplate, { subject, body, version });
  return (
    <WireForm
      form={form}
      name="Words of a message"
      save="Save the words"
      send={(words) => change({ params: { kind, language }, body: words })}
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <WireText name="subject" label="Subject" />
      <WireLongText
        name="body"
        rows={8}
        label="Text"
        hint={`You may put in ${template.places.map((p) => `{${p}}`).join(', ')}. Both left empty: the words it comes with.`}
      />
    </WireForm>
  );
}

export function Templates({ mayWrite }: { mayWrite: boolean }) {
  const query = outboxApi.useListTemplatesQuery();
  const [editing, setEditing] = useState<string | null>(null);
  return (
    <Waiting query={query}>
      {({ items }) => (
        <ul className="mt-3 max-w-3xl border-t border-hairline">
          {items.map((t) => {
            const key = `${t.kind} ${t.language}`;
            return (
              <li key={key} className="border-b border-hairline py-2">
                <p className="flex gap-3">
                  <span className="font-semibold first-letter:uppercase">{t.kind}</span>
                  <span>{NAMES[t.language]}</span>
                  <span className="quiet flex-1">{t.version === 0 ? 'as it comes' : 'own words'}</span>
                  {mayWrite && editing !== key && (
                    <button className="link-ink" onClick={() => setEditing(key)}>
                      change
                    </button>
                  )}
                </p>
                <p className="quiet">{t.says}.</p>
                {editing === key ? (
                  <Words key={t.version} template={t} onDone={() => setEditing(null)} />
                ) : (
                  <p className="mt-1">{t.subject}</p>
                )}
              </li>
            );
          })}
        </ul>
      )}
    </Waiting>
  );
}
