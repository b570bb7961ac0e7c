// Applying a pattern: agreements by their type, with how many machines would get a schedule.
import { useState } from 'react';
import type { Candidate, PatternOut } from '#api/patterns.ts';
import type { Problem } from '#api/shapes.ts';
import { SelectField } from '../../parts/fields.tsx';
import { Table, useTicks, type Column } from '../../parts/table/index.ts';
import { plural } from '../../parts/words.ts';
import { agreementsApi } from '../../agreements/index.ts';
import { upkeepApi } from '../endpoints.ts';

const COLUMNS: readonly Column<Candidate>[] = [
  { id: 'number', head: 'Agreement', value: (c) => c.number, className: 'serial' },
  { id: 'customer', head: 'Customer', value: (c) => c.customer },
  { id: 'stage', head: 'Stage', value: (c) => c.stage, className: 'quiet' },
  { id: 'machines', head: 'Machines without it', isNumber: true, value: (c) => c.machines },
];

export function ApplyPattern({ pattern, onDone }: { pattern: PatternOut; onDone: (said: string | null) => void }) {
  const [type, setType] = useState('');
  const { data: types } = agreementsApi.useListAgreementTypesQuery();
  const { data, error } = upkeepApi.useReadCandidatesQuery({
    params: { id: String(pattern.id) },
    query: type === '' ? {} : { type },
  });
  const ticks = useTicks();
  const [apply, { isLoading, error: refused }] = upkeepApi.useApplyPatternMutation();
  const chosen = (data?.items ?? []).filter((c) => ticks.ticked.has(c.agreementId));
  const machines = chosen.reduce((sum, c) => sum + c.machines, 0);
  const problem = (refused ?? error) as Problem | undefined;
  const send = async (): Promise<void> => {
    const { data: done } = await apply({
      params: { id: String(pattern.id) },
      body: { agreementIds: chosen.map((c) => c.agreementId) },
    });
    if (done) onDone(`${plural(done.added, 'schedule')} made from ${pattern.pattern.name}.`);
  };
  return (
    <section className="sheet mt-3 p-4">
      <h2>Apply {pattern.pattern.name}</h2>
      <SelectField
        className="mt-2 w-72"
        label="Agreements of type"
        value={type}
        onChange={setType}
        options={[['', 'any type'], ...(types?.items ?? []).map((t) => [String(t.id), t.name] as const)]}
      />
      {data &&
        (data.items.length === 0 ? (
          <p className="quiet mt-3 border-y border-hairline py-2">
            Every machine that these agreements cover and the pattern is for has a schedule of it.
          </p>
        ) : (
          <Table
            name="pattern-candidates"
            caption="Agreements"
            columns={COLUMNS}
            rows={data.items}
            idOf={(c) => c.agreementId}
            ticks={{ of: ticks, idsOf: (c) => [c.agreementId], nameOf: (c) => c.number }}
          />
        ))}
      {problem && (
        <p role="alert" className="mt-2 text-missed">
          ✕ {problem.detail}
        </p>
      )}
      <div className="mt-3 flex gap-2">
        <button className="act-main" disabled={isLoading || chosen.length === 0} onClick={() => void send()}>
          Make {plural(machines, 'schedule')}
        </button>
        <button className="act" onClick={() => onDone(null)}>
          Cancel
        </button>
      </div>
    </section>
  );
}
