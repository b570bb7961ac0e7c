// Agreements: all of them with their terms on one axis, and writing a new draft.
import { useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { beginImport } from '#api/imports.ts';
import {
  listRenewals,
  AGREEMENT_SORTS,
  agreementsCsv,
  writeAgreement,
  type AgreementRow,
} from '#api/agreements/index.ts';
import type { AgreementStage } from '#core/entitlement/index.ts';
import { addMonths, localDateAt, toDayNumber, type Instant, type LocalDate } from '#core/time/index.ts';
import { RibbonAxis, RibbonLine } from '../parts/ribbon.tsx';
import { plural, sayDate } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { agreementsApi } from './endpoints.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { readSort, sortAsked, sortText, Table, type Column, type Sort } from '../parts/table/index.ts';
import { Waiting } from '../shell/waiting.tsx';
import { WriteAgreement } from './write.tsx';

const STAGES = ['draft', 'in force', 'suspended', 'ended'] as const;

function TermLine({ row, span }: { row: AgreementRow; span: { from: LocalDate; to: LocalDate; now: Instant } }) {
  const kind = row.stage === 'draft' ? 'draft' : row.stage === 'suspended' ? 'suspended' : 'agreement';
  return (
    <RibbonLine
      size="thread"
      span={span}
      ribbon={{
        cover: [{ label: row.name, kind, from: row.from, to: row.to, agreementId: row.id, noticeBy: row.noticeBy }],
        care: [],
        trouble: [],
      }}
    />
  );
}

type Span = { from: LocalDate; to: LocalDate; now: Instant };

const columnsOn = (day: LocalDate, span: Span): Column<AgreementRow>[] => [
  {
    id: 'number',
    head: 'Number',
    width: 84,
    value: (row) => row.number,
    show: (row) => (
      <Link className="serial link-ink" to={`/agreements/${row.id}`}>
        {row.number}
      </Link>
    ),
  },
  {
    id: 'name',
    head: 'Name',
    value: (row) => row.name,
    show: (row) => (
      <>
        {row.name}
        {row.lines === 0 && <span className="quiet"> · covers nothing yet</span>}
      </>
    ),
  },
  { id: 'customer', head: 'Customer', value: (row) => row.customer.name },
  {
    id: 'stage',
    head: 'Stage',
    value: (row) => row.stage,
    className: (row) => (row.stage === 'in force' ? '' : 'font-semibold'),
  },
  { id: 'from', head: 'Begins', isExtra: true, value: (row) => row.from, show: (row) => sayDate(row.from).slice(4) },
  {
    id: 'ends',
    head: 'Ends',
    value: (row) => row.to,
    show: (row) => (row.to ? sayDate(row.to).slice(4) : 'open-ended'),
    className: 'whitespace-nowrap',
  },
  {
    id: 'notice',
    head: 'Notice by',
    value: (row) => row.noticeBy,
    show: ({ noticeBy, stage }) =>
      noticeBy && stage === 'in force' ? `${noticeBy < day ? 'passed ' : ''}${sayDate(noticeBy).slice(4)}` : '',
    className: ({ noticeBy }) =>
      `whitespace-nowrap ${noticeBy && noticeBy >= day && toDayNumber(noticeBy) - toDayNumber(day) < 30 ? 'font-semibold' : ''}`,
  },
  {
    id: 'term',
    head: 'Term',
    drawnHead: <RibbonAxis span={span} every={3} />,
    width: 300,
    show: (row) => <TermLine row={row} span={span} />,
    className: 'p-0! align-middle!',
  },
];

function Head({
  stage,
  setStage,
  total,
  write,
}: {
  stage: AgreementStage | '';
  setStage: (stage: string) => void;
  total: number | null;
  write: () => void;
}) {
  const reader = useReader();
  return (
    <header className="flex items-end gap-4 pb-3">
      <h1>Agreements</h1>
      <select
        aria-label="Stage"
        className="box-select max-w-40"
        value={stage}
        onChange={(e) => setStage(e.target.value)}
      >
        <option value="">Every stage</option>
        {STAGES.map((s) => (
          <option key={s} value={s}>
            {s}
          </option>
        ))}
      </select>
      {/* Its room is kept, so that the links beside it do not move when it comes. */}
      <p className="quiet w-28 pb-1">{total === null ? '' : plural(total, 'agreement')}</p>
      {reader.may(beginImport) && (
        <Link className="link-ink pb-1" to="/register/import?kind=agreements">
          Import
        </Link>
      )}
      {reader.may(listRenewals) && (
        <Link className="link-ink pb-1" to="/agreements/renewals">
          Renewals
        </Link>
      )}
      <Link className="link-ink pb-1" to="/agreements/cover">
        Questions about cover
      </Link>
      {reader.may(writeAgreement) && (
        <button className="act-main ml-auto" onClick={write}>
          Write an agreement…
        </button>
      )}
    </header>
  );
}

export function AgreementsRoom() {
  const reader = useReader();
  const navigate = useNavigate();
  const [params, setParams] = useSearchParams();
  const stage = (params.get('stage') ?? '') as AgreementStage | '';
  const pages = usePages();
  const [writing, setWriting] = useState(false);
  const { after } = pages;
  const sort = readSort(params.get('sort'), AGREEMENT_SORTS);
  const asked = {
    ...(stage && { stage }),
    ...sortAsked(sort, AGREEMENT_SORTS),
  };
  const query = agreementsApi.useListAgreementsQuery({ query: { ...asked, ...(after && { after }) } });
  const sortBy = (chosen: Sort | null): void => {
    pages.begin();
    setParams((old) => {
      const text = sortText(chosen);
      if (text) old.set('sort', text);
      else old.delete('sort');
      return old;
    });
  };
  const today = query.data ? localDateAt(reader.zone, query.data.now) : null;
  return (
    <div className="px-7 pt-5 pb-10">
      <Head
        stage={stage}
        setStage={(to) => {
          pages.begin();
          setParams((old) => {
            if (to) old.set('stage', to);
            else old.delete('stage');
            return old;
          });
        }}
        total={query.data?.total ?? null}
        write={() => setWriting(true)}
      />
      <Waiting query={query}>
        {(page) => {
          const day = localDateAt(reader.zone, page.now);
          const span = { from: addMonths(day, -14), to: addMonths(day, 14), now: page.now };
          return page.items.length === 0 ? (
            <p className="border-y border-hairline py-6">
              {stage ? (
                <>
                  No agreement is {stage}.{' '}
                  <button className="link-ink" onClick={() => setParams({})}>
                    Lift the filter
                  </button>
                </>
              ) : (
                'No agreement yet. Write the first: it stays a draft until its checklist is satisfied.'
              )}
            </p>
          ) : (
            <Table
              name="agreements"
              caption="Agreements"
              columns={columnsOn(day, span)}
              rows={page.items}
              idOf={(row) => row.id}
              sorting={{ can: AGREEMENT_SORTS, sort, onSort: sortBy }}
              csv={reader.may(agreementsCsv) ? `/api/agreements.csv?${new URLSearchParams(asked).toString()}` : null}
              onOpen={(row) => void navigate(`/agreements/${row.id}`)}
            />
          );
        }}
      </Waiting>
      <Pager pages={pages} next={query.data?.next} />
      {writing && today && <WriteAgreement today={today} onClose={() => setWriting(false)} />}
    </div>
  );
}
