// Gateways: what may post readings over HTTP, each with a key of its own.
import { useState } from 'react';
import type { Answer } from '#api/contract.ts';
import { addGateway, type listGateways } from '#api/setup.ts';
import { localDateAt, type Zone } from '#core/time/index.ts';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { Table, type Column } from '../parts/table/index.ts';
import { WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { sayDate } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { setupApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';

type GatewayOut = Answer<typeof listGateways>['items'][number];

const gatewayColumns = (
  zone: Zone,
  acts: Record<'rotate' | 'revoke', (g: GatewayOut) => void>,
): Column<GatewayOut>[] => [
  { id: 'name', head: 'Name', value: (g) => g.name },
  {
    id: 'created',
    head: 'Created',
    value: (g) => localDateAt(zone, g.createdAt),
    show: (g) => sayDate(localDateAt(zone, g.createdAt)),
  },
  {
    id: 'key',
    head: 'Key',
    value: (g) =>
      g.formerUntil === null
        ? g.active
          ? 'works'
          : 'revoked'
        : `works; the one before too, until ${sayDate(localDateAt(zone, g.formerUntil))}`,
  },
  {
    id: 'revoke',
    head: '',
    drawnHead: <span className="sr-only">Revoke</span>,
    className: 'text-right',
    show: (g) =>
      g.active && (
        <span className="flex justify-end gap-3">
          <button className="link-ink" onClick={() => acts.rotate(g)} aria-label={`New key for ${g.name}`}>
            new key
          </button>
          <button className="link-ink" onClick={() => acts.revoke(g)} aria-label={`Revoke the key of ${g.name}`}>
            revoke
          </button>
        </span>
      ),
  },
];

export function Gateways() {
  const reader = useReader();
  const query = setupApi.useListGatewaysQuery();
  const [made, setMade] = useState<{ name: string; key: string } | null>(null);
  const [copied, setCopied] = useState(false);
  const [add] = setupApi.useAddGatewayMutation();
  const [rotate] = setupApi.useRotateGatewayMutation();
  const { errors, submit } = useSubmit([]);
  const [revoke] = setupApi.useRevokeGatewayMutation();
  const form = useWireForm(addGateway, { name: '' });
  const acts = {
    rotate: async (g: GatewayOut): Promise<void> => {
      const answer = await submit(rotate({ params: { id: String(g.id) } }));
      if (answer) setMade({ name: g.name, key: answer.key });
      setCopied(false);
    },
    revoke: (g: GatewayOut): void => void revoke({ params: { id: String(g.id) } }),
  };
  return (
    <>
      <WireForm
        form={form}
        name="Gateway"
        save="Create its key"
        send={(body) => add({ body })}
        onDone={({ key }) => {
          setMade({ name: form.getValues('name'), key });
          setCopied(false);
          form.reset({ name: '' });
        }}
        sheet
      >
        <WireText name="name" label="Gateway that will post readings" className="max-w-sm" />
      </WireForm>
      <GeneralError errors={errors} />
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
            <Table
              name="gateways"
              caption="Gateways"
              columns={gatewayColumns(reader.zone, { ...acts, rotate: (g) => void acts.rotate(g) })}
              rows={items}
              idOf={(g) => g.id}
            />
          )
        }
      </Waiting>
    </>
  );
}
