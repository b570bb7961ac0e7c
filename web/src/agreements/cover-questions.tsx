// Questions over the whole register: machines without cover on a day, covered twice, or whose warranty ends with nothing to follow.
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import type { Answer } from '#api/contract.ts';
import type { askAll, COVER_QUESTIONS } from '#api/entitlement.ts';
import { localDateAt, parseLocalDate, type LocalDate } from '#core/time/index.ts';
import { NumberField, SelectField } from '../parts/fields.tsx';
import { DateField } from '../parts/date-field.tsx';
import { Table, type Column } from '../parts/table/index.ts';
import { plural, sayDate } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { agreementsApi } from './endpoints.ts';
import { ChooseCustomer, useCustomerChoice } from '../customers/index.ts';
import { Waiting } from '../shell/waiting.tsx';

type Question = (typeof COVER_QUESTIONS)[number];
const SAID: Record<Question, string> = {
  'no cover': 'have no cover',
  'covered twice': 'are covered twice',
  'warranty ends': 'lose their warranty with no agreement to follow',
};
const PAGE = 200;

type Found = Answer<typeof askAll>['items'][number];

const COLUMNS: readonly Column<Found>[] = [
  {
    id: 'machine',
    head: 'Machine',
    value: (m) => m.tag,
    show: (m) => (
      <>
        <Link className="serial link-ink font-semibold" to={`/assets/${m.id}`}>
          {m.tag}
        </Link>{' '}
        {m.className} <span className="quiet">{m.model}</span>
      </>
    ),
  },
  {
    id: 'customer',
    head: 'Customer',
    value: (m) => m.customer.name,
    show: (m) => (
      <Link className="link-ink" to={`/register?customer=${m.customer.id}`}>
        {m.customer.name}
      </Link>
    ),
  },
  { id: 'place', head: 'Place', value: (m) => m.place, className: 'quiet' },
  { id: 'answer', head: 'Answer', value: (m) => m.answer },
];

/** The machines that answer, a page of them. */
function Answers({
  asked,
  offset,
  turn,
  on,
  isSkipped,
}: {
  asked: { readonly question: Question; readonly on: LocalDate; readonly days: string; readonly customer?: string };
  offset: number;
  turn: (offset: number) => void;
  on: LocalDate | null;
  isSkipped: boolean;
}) {
  const { question } = asked;
  const query = agreementsApi.useAskAllQuery(
    {
      query: { ...asked, offset: String(offset) },
    },
    { skip: isSkipped },
  );
  return (
    <Waiting query={query}>
      {({ items, total, asked: among }) =>
        total === 0 ? (
          <p className="mt-4 border-y border-hairline py-4">
            None of {plural(among, 'machine')}{' '}
            {question === 'warranty ends' ? 'whose warranty ends then' : 'in service'}.
          </p>
        ) : (
          <>
            <Table
              name="cover-questions"
              caption="Machines that answer to the question"
              title={
                <p className="mt-4">
                  <span className="figure">{total}</span>{' '}
                  <span className="quiet">
                    of {plural(among, 'machine')} {SAID[question]}
                    {on ? ` on ${sayDate(on)}` : ''}
                    {total > items.length ? `; ${offset + 1} to ${offset + items.length} are listed` : ''}
                  </span>
                </p>
              }
              columns={COLUMNS}
              rows={items}
              idOf={(m) => m.id}
              csv={`/api/cover/all.csv?${new URLSearchParams(asked).toString()}`}
            />
            <p className="mt-2 flex gap-3">
              {offset > 0 && (
                <button className="act" onClick={() => turn(offset - PAGE)}>
                  Earlier machines
                </button>
              )}
              {offset + items.length < total && (
                <button className="act" onClick={() => turn(offset + PAGE)}>
                  Further machines
                </button>
              )}
            </p>
          </>
        )
      }
    </Waiting>
  );
}

export function CoverQuestionsPage() {
  const reader = useReader();
  const [params, setParams] = useSearchParams();
  const { data: session } = server.useReadSessionQuery();
  const today = localDateAt(reader.zone, session?.now ?? (0 as never));
  const question = (params.get('question') ?? 'no cover') as Question;
  const [typed, setTyped] = useState<string>(params.get('on') ?? today);
  const [days, setDays] = useState(60);
  const [offset, setOffset] = useState(0);
  const on = parseLocalDate(typed);
  const customer = params.get('customer') ?? '';
  const chosen = useCustomerChoice(customer);
  const set = (key: string, value: string): void => {
    setOffset(0);
    setParams(
      (old) => {
        if (value) old.set(key, value);
        else old.delete(key);
        return old;
      },
      { replace: true },
    );
  };
  const asked = { question, on: on ?? today, days: String(days), ...(customer && { customer }) };
  return (
    <article className="px-7 pt-5 pb-12">
      <p className="quiet">
        <Link className="link-ink" to="/agreements">
          Agreements
        </Link>
      </p>
      <h1>Questions about cover</h1>
      <div className="mt-2 flex flex-wrap items-end gap-3">
        <SelectField
          label="Which machines"
          value={question}
          onChange={(q) => set('question', q)}
          options={Object.entries(SAID).map(([q, said]) => [q, `${said}`] as const)}
          className="w-96"
        />
        <DateField
          label={question === 'warranty ends' ? 'From' : 'On'}
          value={typed}
          onChange={(value) => {
            setTyped(value);
            if (parseLocalDate(value)) set('on', value);
          }}
          className="w-48"
        />
        {question === 'warranty ends' && (
          <NumberField label="Within, days" value={days} min={1} max={999} onChange={setDays} className="w-32" />
        )}
        <ChooseCustomer
          chosen={chosen}
          onChoose={(c) => set('customer', c ? String(c.id) : '')}
          none="every customer"
          className="w-72"
        />
      </div>
      <Answers asked={asked} offset={offset} turn={setOffset} on={on} isSkipped={on === null || Number.isNaN(days)} />
    </article>
  );
}
