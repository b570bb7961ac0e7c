// Gateways: what may post readings over HTTP, each with a key of its own.
import { useState } from 'react';
import { localDateAt } from '#core/time/index.ts';
import { Listing } from '../parts/listing.tsx';
import { TextField, useSubmit } from '../parts/fields.tsx';
import { Form } from '../parts/form.tsx';
import { sayDate } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { setupApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';

export function Gateways() {
  const reader = useReader();
  const query = setupApi.useListGatewaysQuery();
  const [name, setName] = useState('');
  const [made, setMade] = useState<{ name: string; key: string } | null>(null);
  const [copied, setCopied] = useState(false);
  const [add, { isLoading }] = setupApi.useAddGatewayMutation();
  const [revoke] = setupApi.useRevokeGatewayMutation();
  const { errors, submit } = useSubmit(['name']);
  const send = async (): Promise<void> => {
    const done = await submit(add({ body: { name } }));
    if (!done) return;
    setMade({ name, key: done.key });
    setCopied(false);
    setName('');
  };
  return (
    <>
      <Form name="Gateway" save="Create its key" onSave={send} errors={errors} disabled={isLoading} sheet>
        <TextField
          label="Gateway that will post readings"
          value={name}
          onChange={setName}
          error={errors.of('name')}
          className="max-w-sm"
        />
      </Form>
      {made && (
        <p role="status" className="mt-3">
          The key of {made.name}, shown this once:
          <span className="my-1 flex flex-wrap items-center gap-3">
            <code className="serial border border-base-content px-2 py-1 select-all">{made.key}</code>
            <button
              type="button"
              className="act"
              onClick={() => void navigator.clipboard.writeText(made.key).then(() => setCopied(true))}
            >
              {copied ? 'Copied' : 'Copy the key'}
            </button>
          </span>
          Send it with each POST to /api/readings, as the header <code className="serial">Authorization: Bearer …</code>
        </p>
      )}
      <Waiting query={query}>
        {({ items }) =>
          items.length === 0 ? (
            <p className="quiet mt-3">No gateway yet. Devices that speak MQTT to the broker need none.</p>
          ) : (
            <Listing name="gateways">
              <table className="dense">
                <thead>
                  <tr>
                    <th>Name</th>
                    <th>Created</th>
                    <th>Key</th>
                    <th aria-label="Revoke" />
                  </tr>
                </thead>
                <tbody>
                  {items.map((g) => (
                    <tr key={g.id}>
                      <td>{g.name}</td>
                      <td>{sayDate(localDateAt(reader.zone, g.createdAt))}</td>
                      <td>{g.active ? 'works' : 'revoked'}</td>
                      <td className="text-right">
                        {g.active && (
                          <button
                            className="link-ink"
                            onClick={() => void revoke({ params: { id: String(g.id) } })}
                            aria-label={`Revoke the key of ${g.name}`}
                          >
                            revoke
                          </button>
                        )}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </Listing>
          )
        }
      </Waiting>
    </>
  );
}
