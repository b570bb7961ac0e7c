// Depots with the hours of upkeep their people have in a week, by skill; and the skills.
import { addDepot, addSkill, type DepotIn, type DepotOut, type SkillOut } from '#api/depots.ts';
import { PLAN_RULE_NAMES } from '#core/rota/index.ts';
import { NumberField } from '../parts/fields.tsx';
import { WireNumber, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { EditableList } from './editable-list.tsx';
import { NameForm } from './name-form.tsx';
import { setupApi } from './endpoints.ts';

type Capacity = { skillId: number; weeklyMinutes: number }[];

/** Hours by skill; an empty one is none. */
function CapacityFields({ skills }: { skills: readonly SkillOut[] }) {
  return (
    <Wire<Capacity> name="capacity">
      {({ value, change, error }) => (
        <fieldset>
          <legend className="quiet pb-1">Hours of upkeep in a week, by skill; empty: nobody here can</legend>
          <div className="grid grid-cols-4 gap-3">
            {skills.map((skill) => (
              <NumberField
                key={skill.id}
                label={skill.name}
                value={(value.find((c) => c.skillId === skill.id)?.weeklyMinutes ?? NaN) / 60}
                min={0}
                step="any"
                onChange={(hours) => {
                  const others = value.filter((c) => c.skillId !== skill.id);
                  change(
                    Number.isNaN(hours)
                      ? others
                      : [...others, { skillId: skill.id, weeklyMinutes: Math.round(hours * 60) }],
                  );
                }}
              />
            ))}
          </div>
          {error && <p className="text-missed">✕ {error}</p>}
        </fieldset>
      )}
    </Wire>
  );
}

function DepotForm({
  depot,
  skills,
  onDone,
}: {
  depot: DepotOut | null;
  skills: readonly SkillOut[];
  onDone: () => void;
}) {
  const [add] = setupApi.useAddDepotMutation();
  const [change] = setupApi.useChangeDepotMutation();
  const form = useWireForm<DepotIn>(addDepot, {
    name: depot?.name ?? '',
    latitude: depot?.latitude ?? null,
    longitude: depot?.longitude ?? null,
    capacity: depot?.capacity ?? [],
    planRules: depot?.planRules ?? 'promises first',
  });
  return (
    <WireForm<DepotIn, unknown>
      form={form}
      name="Depot"
      save="Save the depot"
      send={(body, seen) =>
        depot
          ? change({ params: { id: String(depot.id) }, body: { ...body, version: seen ?? depot.version } })
          : add({ body })
      }
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-[2fr_1fr_1fr_1fr] gap-3">
        <WireText name="name" label="Name" />
        <WireNumber name="latitude" label="Latitude" empty={null} step="any" hint="Trips begin and end here." />
        <WireNumber name="longitude" label="Longitude" empty={null} step="any" />
        <WireSelect name="planRules" label="Its rota is planned by" options={PLAN_RULE_NAMES.map((r) => [r, r])} />
      </div>
      {skills.length > 0 && <CapacityFields skills={skills} />}
    </WireForm>
  );
}

function SkillForm({ skill, onDone }: { skill: SkillOut | null; onDone: () => void }) {
  const [add] = setupApi.useAddSkillMutation();
  const [change] = setupApi.useChangeSkillMutation();
  return (
    <NameForm
      what="skill"
      item={skill}
      contract={addSkill}
      add={(body) => add({ body })}
      change={(id, body) => change({ params: { id }, body })}
      onDone={onDone}
    />
  );
}

const sayCapacity = ({ capacity }: DepotOut, skills: readonly SkillOut[]): string =>
  skills
    .flatMap((s) => {
      const held = capacity.find((c) => c.skillId === s.id);
      return held ? [`${s.name} ${(held.weeklyMinutes / 60).toLocaleString('en-GB')} h`] : [];
    })
    .join(', ');

export function Depots() {
  const query = setupApi.useReadDepotsQuery();
  return (
    <Waiting query={query}>
      {({ depots, skills }) => (
        <>
          <h2>Depots</h2>
          <EditableList
            name="depots"
            items={depots}
            adding={addDepot}
            add="Add a depot"
            empty="No depot yet. The load of upkeep is shown by depot; a place says which one comes."
            form={(depot, done) => <DepotForm depot={depot} skills={skills} onDone={done} />}
            columns={[
              { id: 'name', head: 'Name', value: (d) => d.name },
              { id: 'capacity', head: 'Upkeep in a week', value: (d) => sayCapacity(d, skills) || 'no hours given' },
            ]}
          />
          <h2 className="mt-6">Skills</h2>
          <EditableList
            name="skills"
            items={skills}
            adding={addSkill}
            add="Add a skill"
            empty="No skill yet. A job plan names the one it needs; a depot says how many hours of it there are."
            form={(skill, done) => <SkillForm skill={skill} onDone={done} />}
            columns={[
              { id: 'name', head: 'Name', value: (s) => s.name },
              {
                id: 'plans',
                head: 'Needed by',
                value: (s) => s.jobPlans.join(', ') || 'no job plan',
                className: 'quiet',
              },
            ]}
          />
        </>
      )}
    </Waiting>
  );
}
