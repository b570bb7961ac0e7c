// Setup: the reference data every other room names, one part at a time.
import { Suspense, useMemo, type ComponentType } from 'react';
import { NavLink, useParams } from 'react-router';
import { listGateways } from '#api/setup.ts';
import { listPeople } from '#api/session.ts';
import { later } from '../shell/later.ts';
import { useReader } from '../shell/reader.tsx';
import { useRooms, type Room } from '../shell/room.ts';
import { AgreementTypes } from './agreement-types.tsx';
import { Numbering } from './numbering.tsx';
import { AlertRules } from './alert-rules.tsx';
import { Calendars } from './calendars.tsx';
import { Catalogue } from './catalogue.tsx';
import { ClassForms } from './class-forms.tsx';
import { Depots } from './depots.tsx';
import { Gateways } from './gateways.tsx';
import { JobPlans } from './job-plans.tsx';
import { People } from './people.tsx';
import { ServiceLevels } from './service-levels.tsx';

function AgreementSetup() {
  return (
    <>
      <Numbering />
      <AgreementTypes />
    </>
  );
}

/** The parts of Setup that other rooms bring, each loaded when it is opened. */
const broughtBy = (rooms: readonly Room[]) =>
  rooms.flatMap(({ setup = [] }) => setup.map(({ load, ...rest }) => ({ ...rest, Part: later(load).Part })));

export function SetupRoom() {
  const reader = useReader();
  const rooms = useRooms();
  const brought = useMemo(() => broughtBy(rooms), [rooms]);
  const { part = 'calendars' } = useParams();
  const parts: [string, string, ComponentType][] = [
    ['calendars', 'Calendars', Calendars],
    ['service-levels', 'Service levels', ServiceLevels],
    ['agreement-types', 'Agreement types', AgreementSetup],
    ['job-plans', 'Job plans', JobPlans],
    ['depots', 'Depots', Depots],
    ['catalogue', 'Catalogue', Catalogue],
    ['forms', 'Forms', ClassForms],
    ['alert-rules', 'Alert rules', AlertRules],
  ];
  if (reader.may(listPeople)) parts.push(['people', 'People', People]);
  if (reader.may(listGateways)) parts.push(['gateways', 'Gateways', Gateways]);
  for (const { path, word, shown, Part } of brought) if (reader.may(shown)) parts.push([path, word, Part]);
  const Chosen = parts.find(([key]) => key === part)?.[2];
  return (
    <div className="max-w-6xl px-7 pt-5 pb-12">
      <h1>Setup</h1>
      <nav
        aria-label="Parts of Setup"
        className="mt-2 flex flex-wrap gap-x-5 border-b border-hairline whitespace-nowrap"
      >
        {parts.map(([key, name]) => (
          <NavLink
            key={key}
            to={`/setup/${key}`}
            className={`-mb-px border-b-2 py-1.5 ${key === part ? 'border-base-content font-semibold' : 'border-transparent hover:border-hairline'}`}
          >
            {name}
          </NavLink>
        ))}
      </nav>
      <div className="mt-4">
        <Suspense fallback={null}>{Chosen ? <Chosen /> : <p>There is no such part.</p>}</Suspense>
      </div>
    </div>
  );
}
