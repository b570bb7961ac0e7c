// The routes of the rota: read by everybody, planned by the office.
import fp from 'fastify-plugin';
import * as people from '#api/rota-people.ts';
import { readForecast } from '#api/rota-forecast.ts';
import { readFigures, readFigureTrend } from '#api/rota-figures.ts';
import * as plans from '#api/rota-plans.ts';
import * as contracts from '#api/rota.ts';
import { localDateAt, startOfDay } from '#core/time/index.ts';
import { serve, type House } from '../platform/http.ts';
import { addAbsenceOf, changeAbsenceOf, decideAbsenceOf, listAbsences, removeAbsenceOf } from './absences.ts';
import { saidOf } from './answers.ts';
import { book, move, sayTold, takeOut } from './booking.ts';
import { readCandidates } from './candidates.ts';
import { addCrewOf, changeCrewOf, listCrews } from './crews.ts';
import { keepTechnicianOf, readTechnicians } from './people.ts';
import { readFiguresOf, readTrendOf } from './figures.ts';
import { readForecastOf } from './forecast.ts';
import { acceptItems, propose, readPlanOf } from './plans.ts';
import { readLoose, readRota, readWork } from './read.ts';
import { lookAtReplacement, replaceOf } from './replace.ts';
import { keepTravelOf, readTravelOf } from './roads.ts';
import { sendDayOf } from './send.ts';

const done = { done: true as const };

export const rotaRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.readRota, ({ query, who, now }) => readRota(db, who, query, now));
    serve(app, house, contracts.readSaid, ({ who, now }) =>
      saidOf(db, startOfDay(who.zone, localDateAt(who.zone, now))),
    );
    serve(app, house, contracts.readLoose, ({ query, now, who }) => readLoose(db, query, { now, zone: who.zone }));
    serve(app, house, contracts.readWork, ({ params, query }) => readWork(db, params.id, query.from, query.days));
    serve(app, house, contracts.readCandidates, ({ params, query, now, who }) =>
      readCandidates(db, params.id, query, { now, zone: who.zone }),
    );
    serve(app, house, contracts.bookAppointment, ({ body, write, who, now }) => book(write, who, body, now));
    serve(app, house, contracts.moveAppointment, ({ params, body, write, who, now }) =>
      move(write, who, params.id, body, now),
    );
    serve(app, house, contracts.tellAppointment, ({ params, body, write }) => sayTold(write, params.id, body));
    serve(app, house, contracts.takeOutAppointment, ({ params, body, write, who, now }) =>
      takeOut(write, who, params.id, body, now),
    );
    serve(app, house, contracts.replacePerson, ({ body, write, who, now }) =>
      body.look ? lookAtReplacement(db, body, now) : replaceOf(write, who, body, now),
    );
    serve(app, house, readForecast, ({ query, who, now }) => readForecastOf(db, query, { now, zone: who.zone }));
    serve(app, house, readFigures, ({ query, who }) => readFiguresOf(db, who, query.month));
    serve(app, house, readFigureTrend, ({ query, who }) => readTrendOf(db, who, query));
    serve(app, house, plans.proposePlan, async ({ body, write, who, now }) => {
      const made = await propose(write, who, body, now);
      house.ring();
      return made;
    });
    serve(app, house, plans.readPlan, ({ params }) => readPlanOf(db, params.id));
    serve(app, house, plans.acceptPlan, ({ params, body, write, who, now }) =>
      acceptItems(write, who, params.id, body.keys, now),
    );
    serve(app, house, contracts.sendDay, ({ body, write, who, now }) => sendDayOf(write, who, body, now));
  },
  { name: 'stavok-rota-routes', dependencies: ['stavok-authentication'] },
);

export const rotaPeopleRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, people.readTechnicians, ({ who, now }) => readTechnicians(db, localDateAt(who.zone, now)));
    serve(app, house, people.keepTechnician, async ({ params, body, write }) => {
      await keepTechnicianOf(write, params.id, body);
      return done;
    });
    serve(app, house, people.listAbsences, ({ query, who, now }) =>
      listAbsences(db, who, {
        from: query.from === undefined ? now : startOfDay(who.zone, query.from),
        person: query.person,
      }),
    );
    serve(app, house, people.addAbsence, ({ body, write, who }) => addAbsenceOf(write, who, body));
    serve(app, house, people.changeAbsence, async ({ params, body, write, who }) => {
      await changeAbsenceOf(write, who, params.id, body);
      return done;
    });
    serve(app, house, people.decideAbsence, async ({ params, body, write, who }) => {
      await decideAbsenceOf(write, who, params.id, body);
      return done;
    });
    serve(app, house, people.removeAbsence, async ({ params, body, write, who }) => {
      await removeAbsenceOf(write, who, params.id, body.version);
      return done;
    });
    serve(app, house, people.readTravel, () => readTravelOf(db));
    serve(app, house, people.keepTravel, async ({ body, write }) => {
      await keepTravelOf(write, body);
      return done;
    });
    serve(app, house, people.listCrews, ({ query, who, now }) =>
      listCrews(db, query.from ?? localDateAt(who.zone, now)),
    );
    serve(app, house, people.addCrew, ({ body, write }) => addCrewOf(write, body));
    serve(app, house, people.changeCrew, async ({ params, body, write }) => {
      await changeCrewOf(write, params.id, body);
      return done;
    });
  },
  { name: 'stavok-rota-people-routes', dependencies: ['stavok-authentication'] },
);
