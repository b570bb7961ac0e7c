// Technicians in Setup: where they start from, what they may do and until when, and who goes together.
import { useState } from 'react';
import { addCrew, keepTechnician, type CrewIn, type CrewOut, type TechnicianOut } from '#api/rota-people.ts';
import { localDateAt } from '#core/time/index.ts';
import { DateField } from '../parts/date-field.tsx';
import { Choose } from '../parts/choose.tsx';
import { WireDate, WireNumber, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { sayDate } from '../parts/words.ts';
import { EditableList, setupApi, useTechnicians } from '../setup/index.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { rotaApi } from './endpoints.ts';

type Held = { skillId: number; until: string | null };

/** Each skill of the house: held or not, and the last day on which it holds. */
function SkillFields() {
  const { data } = setupApi.useReadReferenceQuery();
  return (
    <Wire<Held[]> name="skills">
      {({ value, change, error }) => (
        <fieldset>
          <legend className="quiet pb-1">What they may do; a certificate with the last day on which it holds</legend>
          {(data?.skills ?? []).map((skill) => {
            const held = value.find((h) => h.skillId === skill.id);
            const set = (next: Held | null) =>
              change([...value.filter((h) => h.skillId !== skill.id), ...(next ? [next] : [])]);
            return (
              <div key={skill.id} className="grid grid-cols-[16rem_12rem] items-center gap-3 py-0.5">
                <label className="flex items-center gap-2">
                  <input
                    type="checkbox"
                    className="box-tick"
                    checked={held !== undefined}
                    onChange={(e) => set(e.target.checked ? { skillId: skill.id, until: null } : null)}
                  />
                  {skill.name}
                </label>
                {held && (
                  <DateField
                    label={`${skill.name} until`}
                    value={held.until ?? ''}
                    onChange={(d) => set({ ...held, until: d === '' ? null : d })}
                  />
                )}
              </div>
            );
          })}
          {error && <p className="text-missed">✕ {error}</p>}
        </fieldset>
      )}
    </Wire>
  );
}

function TechnicianForm({ of, onDone }: { of: TechnicianOut; onDone: () => void }) {
  const { data } = setupApi.useReadReferenceQuery();
  const [keep] = rotaApi.useKeepTechnicianMutation();
  const form = useWireForm(keepTechnician, {
    ...{ version: of.version, depotId: of.depotId, startsFrom: of.startsFrom, home: of.home, van: of.van },
    ...{ latitude: of.latitude, longitude: of.longitude, speaks: of.speaks },
    skills: of.skills.map(({ skillId, until }) => ({ skillId, until: until as string | null })),
  });
  return (
    <WireForm
      form={form}
      name={of.name}
      save="Keep it"
      send={(body, seen) => keep({ params: { id: String(of.id) }, body: { ...body, version: seen ?? of.version } })}
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-3 gap-3">
        <WireSelect
          name="depotId"
          label="Depot"
          options={[[null, 'none'] as const, ...(data?.depots ?? []).map((d) => [d.id, d.name] as const)]}
        />
        <WireSelect
          name="startsFrom"
          label="Days begin"
          options={[
            ['depot', 'at the depot'],
            ['home', 'at home'],
          ]}
        />
        <WireText name="van" label="Van" />
        <WireText name="home" label="Home" />
        <WireNumber name="latitude" label="Latitude of home" empty={null} step="any" />
        <WireNumber name="longitude" label="Longitude of home" empty={null} step="any" />
        <Wire<string[]> name="speaks">
          {({ value, change, error }) => <Speaks value={value} onChange={change} error={error} />}
        </Wire>
      </div>
      <SkillFields />
    </WireForm>
  );
}

function Speaks({
  value,
  onChange,
  error,
}: {
  value: string[];
  onChange: (v: string[]) => void;
  error: string | undefined;
}) {
  const [typed, setTyped] = useState(value.join(', '));
  return (
    <label className="block">
      <span className="quiet">Speaks, such as pt, es</span>
      <input
        className="box-field"
        value={typed}
        aria-invalid={error ? true : undefined}
        onChange={(e) => {
          setTyped(e.target.value);
          onChange(e.target.value.split(/[\s,;]+/).filter(Boolean));
        }}
      />
      {error && <span className="text-missed">✕ {error}</span>}
    </label>
  );
}

const saySkill = ({ name, until, state }: TechnicianOut['skills'][number]): string =>
  state === 'holds'
    ? name
    : state === 'lapsed'
      ? `${name} (lapsed ${until && sayDate(until)})`
      : `${name} (until ${until && sayDate(until)})`;

function CrewForm({ crew, onDone }: { crew: CrewOut | null; onDone: () => void }) {
  const { zone } = useReader();
  const { data: session } = server.useReadSessionQuery();
  const [add] = rotaApi.useAddCrewMutation();
  const [change] = rotaApi.useChangeCrewMutation();
  const [people, setPeople] = useState(crew?.people ?? []);
  const form = useWireForm<CrewIn>(addCrew, {
    ...{ name: crew?.name ?? '', people: people.map((p) => p.id), toDay: crew?.toDay ?? null },
    fromDay: crew?.fromDay ?? localDateAt(zone, session?.now ?? (0 as never)),
  });
  return (
    <WireForm<CrewIn, unknown>
      form={form}
      name="Crew"
      save="Keep the crew"
      send={(body, seen) =>
        crew
          ? change({ params: { id: String(crew.id) }, body: { ...body, version: seen ?? crew.version } })
          : add({ body })
      }
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-3 gap-3">
        <WireText name="name" label="Name" />
        <WireDate name="fromDay" label="First day" />
        <WireDate name="toDay" label="Last day" empty={null} hint="Empty: lasting." />
      </div>
      <Wire<number[]> name="people">
        {({ change: set, error }) => {
          const put = (next: typeof people): void => {
            setPeople(next);
            set(next.map((p) => p.id));
          };
          return (
            <fieldset>
              <legend className="quiet">Who goes together; the first one leads</legend>
              <ol>
                {people.map((p, i) => (
                  <li key={p.id} className="flex max-w-md justify-between border-t border-hairline py-1">
                    <span>
                      {p.name} {i === 0 && <span className="quiet">leads</span>}
                    </span>
                    <button type="button" className="link-ink" onClick={() => put(people.filter((x) => x.id !== p.id))}>
                      does not go
                    </button>
                  </li>
                ))}
              </ol>
              <div className="max-w-md">
                <Choose
                  label="Add somebody"
                  chosen={null}
                  onChoose={(c) =>
                    c && people.every((p) => p.id !== c.id) && put([...people, { id: c.id, name: c.name }])
                  }
                  useFind={useTechnicians}
                  error={error}
                />
              </div>
            </fieldset>
          );
        }}
      </Wire>
    </WireForm>
  );
}

function Crews() {
  const query = rotaApi.useListCrewsQuery({ query: {} });
  return (
    <Waiting query={query}>
      {({ items }) => (
        <EditableList
          name="crews"
          items={items}
          adding={addCrew}
          add="Add a crew"
          empty="No crew: everybody goes by themselves unless somebody is added to an appointment."
          form={(crew, done) => <CrewForm crew={crew} onDone={done} />}
          columns={[
            { id: 'name', head: 'Name', value: (c) => c.name },
            { id: 'people', head: 'Who', value: (c) => c.people.map((p) => p.name).join(', ') },
            {
              id: 'days',
              head: 'When',
              value: (c) => `${sayDate(c.fromDay)} ${c.toDay ? `to ${sayDate(c.toDay)}` : 'and lasting'}`,
              className: 'quiet',
            },
          ]}
        />
      )}
    </Waiting>
  );
}

export function Technicians() {
  const query = rotaApi.useReadTechniciansQuery();
  return (
    <Waiting query={query}>
      {({ items }) => (
        <>
          <h2>Technicians</h2>
          <EditableList
            name="technicians"
            items={items}
            adding={keepTechnician}
            empty="No technician yet: add people of that role in People."
            form={(of, done) => of && <TechnicianForm of={of} onDone={done} />}
            columns={[
              { id: 'name', head: 'Name', value: (t) => t.name },
              {
                id: 'starts',
                head: 'Starts',
                value: (t) => (t.startsFrom === 'home' ? `at home, ${t.home}` : (t.depot ?? 'nowhere yet')),
              },
              { id: 'skills', head: 'May do', value: (t) => t.skills.map(saySkill).join(', ') || 'nothing said' },
              { id: 'van', head: 'Van', value: (t) => t.van, className: 'whitespace-nowrap' },
              { id: 'speaks', head: 'Speaks', value: (t) => t.speaks.join(', '), className: 'quiet' },
              { id: 'lacks', head: 'Lacks', value: (t) => t.lacks.join('; '), className: 'text-short' },
            ]}
          />
          <h2 className="mt-6">Crews</h2>
          <Crews />
        </>
      )}
    </Waiting>
  );
}
