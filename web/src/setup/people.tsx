// People: who may sign in, in which role and zone.
import { addPerson, changePerson } from '#api/session.ts';
import type { PersonOut } from '#api/session.ts';
import { ROLES } from '#core/people.ts';
import { WireSelect, WireText, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { EditableList } from './editable-list.tsx';
import { setupApi } from './endpoints.ts';

/** What both forms ask: everything but who it is and the password. */
function PersonFields() {
  const { data: reference } = setupApi.useReadReferenceQuery();
  return (
    <>
      <WireSelect name="role" label="Role" options={ROLES.map((r) => [r, r])} />
      <WireText name="zone" label="Time zone" />
      <WireText name="phone" label="Phone" empty={null} />
      <WireSelect
        name="prefers"
        label="Told by"
        options={[
          ['mail', 'mail'],
          ['message', 'text message'],
          ['push', 'push to the phone'],
        ]}
      />
      <WireSelect
        name="language"
        label="Told in"
        options={[
          ['en', 'English'],
          ['pt', 'Portuguese'],
        ]}
      />
      <WireSelect
        name="craftId"
        label="Craft"
        options={[
          [null, 'none: their time has no price'] as const,
          ...(reference?.crafts ?? []).map((c) => [c.id, c.name] as const),
        ]}
      />
      <WireSelect
        name="calendarId"
        label="Works by"
        options={[[null, 'no calendar'] as const, ...(reference?.calendars ?? []).map((c) => [c.id, c.name] as const)]}
      />
      <WireTick name="showsPrice" label="On site: shows what it comes to, takes cards" />
    </>
  );
}

const TOLD = {
  phone: null,
  prefers: 'mail',
  language: 'en',
  craftId: null,
  calendarId: null,
  showsPrice: false,
} as const;

function AddPerson({ onDone }: { onDone: () => void }) {
  const { zone } = useReader();
  const [add] = setupApi.useAddPersonMutation();
  const form = useWireForm(addPerson, { name: '', email: '', role: 'technician', zone, password: '', ...TOLD });
  return (
    <WireForm
      form={form}
      name="Person"
      save="Add the person"
      send={(body) => add({ body })}
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-3 gap-3">
        <WireText name="name" label="Name" />
        <WireText name="email" label="E-mail" type="email" autoComplete="off" />
        <PersonFields />
        <WireText
          name="password"
          label="First password"
          type="password"
          hint="At least 12 characters."
          autoComplete="new-password"
        />
      </div>
    </WireForm>
  );
}

function ChangePerson({ person, onDone }: { person: PersonOut; onDone: () => void }) {
  const [change] = setupApi.useChangePersonMutation();
  const { id, email, ...rest } = person;
  const form = useWireForm(changePerson, rest);
  return (
    <WireForm
      form={form}
      name="Person"
      save="Save the person"
      send={(body) => change({ params: { id: String(id) }, body })}
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-3 gap-3">
        <WireText name="name" label="Name" />
        <div>
          <p className="quiet pb-0.5">E-mail</p>
          <p>{email}</p>
        </div>
        <PersonFields />
        <WireText
          name="password"
          label="New password"
          type="password"
          empty={undefined}
          hint="Empty: stays as it is. A new one signs the person out everywhere."
          autoComplete="new-password"
        />
        <WireTick name="active" label="May sign in" />
      </div>
    </WireForm>
  );
}

export function People() {
  const query = setupApi.useListPeopleQuery();
  return (
    <Waiting query={query}>
      {({ items }) => (
        <EditableList
          name="people"
          items={items}
          add="Add a person"
          empty="Nobody yet."
          adding={addPerson}
          form={(person, done) =>
            person ? <ChangePerson person={person} onDone={done} /> : <AddPerson onDone={done} />
          }
          columns={[
            {
              id: 'name',
              head: 'Name',
              value: (p) => p.name,
              show: (p) => (
                <>
                  {p.name}
                  {!p.active && <span className="quiet"> may not sign in</span>}
                </>
              ),
            },
            { id: 'role', head: 'Role', value: (p) => p.role },
            { id: 'email', head: 'E-mail', value: (p) => p.email },
            { id: 'zone', head: 'Zone', value: (p) => p.zone },
            { id: 'told', head: 'Told by', value: (p) => (p.prefers === 'message' ? 'text message' : p.prefers) },
          ]}
        />
      )}
    </Waiting>
  );
}
