// People: who may sign in, in which role and zone.
import { useState } from 'react';
import { addPerson } from '#api/session.ts';
import type { PersonOut } from '#api/session.ts';
import { ROLES } from '#core/people.ts';
import { SelectField, TextField, useSubmit } from '../parts/fields.tsx';
import { Form } from '../parts/form.tsx';
import { useReader } from '../shell/reader.tsx';
import { setupApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import { EditableList } from './editable-list.tsx';

function PersonForm({ person, onDone }: { person: PersonOut | null; onDone: () => void }) {
  const reader = useReader();
  const [draft, setDraft] = useState({
    name: person?.name ?? '',
    email: person?.email ?? '',
    role: person?.role ?? 'technician',
    zone: person?.zone ?? (reader.zone as string),
    password: '',
  });
  const [active, setActive] = useState(person?.active ?? true);
  const [add, adding] = setupApi.useAddPersonMutation();
  const [change, changing] = setupApi.useChangePersonMutation();
  const { errors, submit } = useSubmit(['name', 'email', 'role', 'zone', 'password']);
  const set = (key: keyof typeof draft) => (value: string) => setDraft({ ...draft, [key]: value });
  const send = async (): Promise<void> => {
    const { email: _, password, ...rest } = draft;
    const done = await (person
      ? submit(
          change({
            params: { id: String(person.id) },
            body: { ...rest, active, version: person.version, ...(password && { password }) },
          }),
        )
      : submit(add({ body: draft })));
    if (done) onDone();
  };
  return (
    <Form
      name="Person"
      save={person ? 'Save the person' : 'Add the person'}
      onSave={send}
      onCancel={onDone}
      errors={errors}
      disabled={adding.isLoading || changing.isLoading}
      sheet
    >
      <div className="grid grid-cols-3 gap-3">
        <TextField label="Name" value={draft.name} onChange={set('name')} error={errors.of('name')} />
        {person ? (
          <div>
            <p className="quiet pb-0.5">E-mail</p>
            <p>{person.email}</p>
          </div>
        ) : (
          <TextField
            label="E-mail"
            type="email"
            value={draft.email}
            onChange={set('email')}
            error={errors.of('email')}
            autoComplete="off"
          />
        )}
        <SelectField
          label="Role"
          value={draft.role}
          onChange={set('role')}
          options={ROLES.map((r) => [r, r])}
          error={errors.of('role')}
        />
        <TextField label="Time zone" value={draft.zone} onChange={set('zone')} error={errors.of('zone')} />
        <TextField
          label={person ? 'New password' : 'First password'}
          type="password"
          value={draft.password}
          onChange={set('password')}
          error={errors.of('password')}
          hint={
            person ? 'Empty: stays as it is. A new one signs the person out everywhere.' : 'At least 12 characters.'
          }
          autoComplete="new-password"
        />
        {person && (
          <label className="flex items-center gap-2 pt-4">
            <input
              type="checkbox"
              className="box-tick"
              checked={active}
              onChange={(e) => setActive(e.target.checked)}
            />
            May sign in
          </label>
        )}
      </div>
    </Form>
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
          form={(person, done) => <PersonForm person={person} onDone={done} />}
          heads={
            <>
              <th>Name</th>
              <th>Role</th>
              <th>E-mail</th>
              <th>Zone</th>
            </>
          }
          cells={(p) => (
            <>
              <td>
                {p.name}
                {!p.active && <span className="quiet"> may not sign in</span>}
              </td>
              <td>{p.role}</td>
              <td>{p.email}</td>
              <td>{p.zone}</td>
            </>
          )}
        />
      )}
    </Waiting>
  );
}
