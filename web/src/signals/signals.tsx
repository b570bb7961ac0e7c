// The journal of alerts: what is to be answered, what goes on, what is held back; each with its line of time and the curve that led to it.
import { useState } from 'react';
import { Link } from 'react-router';
import type { Answer } from '#api/contract.ts';
import {
  acknowledgeAlerts,
  raiseForAlert,
  shelveAlert,
  type AlertList,
  type AlertOut,
  type listAlerts,
} from '#api/signals.ts';
import type { Instant } from '#core/time/index.ts';
import { GeneralError, TextField, useSubmit } from '../parts/fields.tsx';
import { Pager, usePages } from '../parts/pager.tsx';
import { Table } from '../parts/table/index.ts';
import { WireLongText, WireNumber } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { plural } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { alertColumns, type Acts } from './alert-columns.tsx';
import { signalsApi } from './endpoints.ts';
import { OneOf, SignalsPage } from './parts.tsx';
import { PulseLine } from './pulse.tsx';

const SHOWN: readonly (readonly [AlertList, string])[] = [
  ['to answer', 'To answer'],
  ['active', 'Active'],
  ['held back', 'Held back'],
  ['no order', 'Without an order'],
  ['all', 'All'],
];

/** Why, and for how long, nobody is to hear of it. */
function ShelveAlert({ of, onClose }: { of: AlertOut; onClose: () => void }) {
  const [shelve] = signalsApi.useShelveAlertMutation();
  const form = useWireForm(shelveAlert, { hours: 8, reason: '' });
  return (
    <Dialog title="Shelve the alert" onClose={onClose}>
      <h1>Shelve “{of.rule}”</h1>
      <p className="quiet">
        Of {of.model} {of.tag}: until the end nobody is told, and no order is raised. What still goes on then is told,
        and its clocks start from there.
      </p>
      <WireForm
        form={form}
        name="Shelve the alert"
        save="Shelve"
        send={(body) => shelve({ params: { id: String(of.id) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <WireNumber name="hours" label="For hours" min={1} />
        <WireLongText name="reason" label="Why" />
      </WireForm>
    </Dialog>
  );
}

function Chosen({ of, now }: { of: AlertOut; now: Instant }) {
  return (
    <section className="sheet mt-3 px-4 py-3" aria-label="Chosen alert">
      <p>
        <strong className="font-semibold">{of.rule}</strong> · {of.model}{' '}
        <Link className="serial link-ink" to={`/assets/${of.assetId}`}>
          {of.tag}
        </Link>{' '}
        · {of.customer}, {of.place}
      </p>
      <PulseLine assetId={of.assetId} channel={of.channel} now={now} tall />
    </section>
  );
}

/** Which of them are listed: by how they stand, and by words. */
function Choosing({
  counts,
  list,
  search,
  onChoose,
}: {
  counts: Answer<typeof listAlerts>['counts'];
  list: AlertList;
  search: string;
  onChoose: (list: AlertList, search: string) => void;
}) {
  const howMany: Partial<Record<AlertList, number>> = {
    ...{ 'to answer': counts.toAnswer, active: counts.active },
    ...{ 'held back': counts.heldBack, 'no order': counts.noOrder },
  };
  return (
    <div className="mt-3 flex flex-wrap items-end gap-x-5 gap-y-2">
      <OneOf
        label="Which alerts"
        options={SHOWN.map(
          ([key, name]) => [key, howMany[key] === undefined ? name : `${name} ${howMany[key]}`] as const,
        )}
        chosen={list}
        onChoose={(key) => onChoose(key, search)}
      />
      <div className="ml-auto w-64">
        <TextField
          label="Rule, machine or customer"
          value={search}
          onChange={(text) => onChoose(list, text.slice(0, 80))}
        />
      </div>
    </div>
  );
}

export function SignalsRoom() {
  const reader = useReader();
  const { zone } = reader;
  const [list, setList] = useState<AlertList>('to answer');
  const [search, setSearch] = useState('');
  const pages = usePages();
  const query = signalsApi.useListAlertsQuery(
    { query: { list, ...(search && { search }), ...(pages.after !== undefined && { after: pages.after }) } },
    { pollingInterval: 30_000 },
  );
  const [chosen, setChosen] = useState<number | null>(null);
  const [shelving, setShelving] = useState<AlertOut | null>(null);
  const [acknowledge] = signalsApi.useAcknowledgeAlertsMutation();
  const [unshelve] = signalsApi.useEndShelfMutation();
  const [raise] = signalsApi.useRaiseForAlertMutation();
  const { errors, submit } = useSubmit([]);
  const answers = reader.may(acknowledgeAlerts);
  const acts: Acts = {
    choose: setChosen,
    acknowledge: answers ? (a) => void submit(acknowledge({ body: { alertIds: [a.id] } })) : null,
    shelve: answers ? setShelving : null,
    unshelve: (a) => void submit(unshelve({ params: { id: String(a.shelf?.id) } })),
    raise: reader.may(raiseForAlert) ? (a) => void submit(raise({ params: { id: String(a.id) } })) : null,
  };
  return (
    <Waiting query={query}>
      {({ items, next, now, counts }) => {
        const shown = items.find((a) => a.id === chosen) ?? items[0];
        const open = items.filter((a) => a.toldAt !== null && !a.acknowledged && !a.withdrawn);
        return (
          <SignalsPage about={`${plural(counts.active, 'active alert')}, ${counts.toAnswer} to answer`}>
            <Choosing
              counts={counts}
              list={list}
              search={search}
              onChoose={(chosenList, words) => {
                setList(chosenList);
                setSearch(words);
                pages.begin();
              }}
            />
            <GeneralError errors={errors} />
            {items.length === 0 ? (
              <p className="mt-3 border-y border-hairline py-4">
                {list === 'to answer' && !search
                  ? 'Nothing to answer: every alert that was told has been acknowledged.'
                  : 'No such alert.'}
              </p>
            ) : (
              <>
                {shown && <Chosen of={shown} now={now} />}
                <section className="mt-4">
                  <Table
                    name="alerts"
                    caption="Alerts"
                    title={<h2>{SHOWN.find(([key]) => key === list)?.[1]}, the newest first</h2>}
                    columns={alertColumns(now, zone, acts)}
                    rows={items}
                    idOf={(a) => a.id}
                    rowClass={(a) => (a.id === shown?.id ? 'bg-base-300' : '')}
                  />
                </section>
                {acts.acknowledge && open.length > 1 && (
                  <button
                    className="act mt-3"
                    onClick={() => void submit(acknowledge({ body: { alertIds: open.map((a) => a.id) } }))}
                  >
                    Acknowledge the {open.length} shown
                  </button>
                )}
              </>
            )}
            <Pager pages={pages} next={next} words={['Newer', 'Older']} />
            {shelving && <ShelveAlert of={shelving} onClose={() => setShelving(null)} />}
          </SignalsPage>
        );
      }}
    </Waiting>
  );
}
