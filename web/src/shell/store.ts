// The store: server data in the query cache; nothing else lives here.
import { configureStore } from '@reduxjs/toolkit';
import { createApi, type EndpointBuilder } from '@reduxjs/toolkit/query/react';
import type { AnyContract, Answer } from '#api/contract.ts';
import * as agreements from '#api/agreements.ts';
import * as orders from '#api/orders.ts';
import * as register from '#api/register.ts';
import * as session from '#api/session.ts';
import * as setup from '#api/setup.ts';
import * as signals from '#api/signals.ts';
import * as standing from '#api/standing.ts';
import * as today from '#api/today.ts';
import * as upkeep from '#api/upkeep.ts';
import { callServer, holdToken, type Args } from './calls.ts';

export const TAGS = ['session', 'register', 'agreements', 'upkeep', 'orders', 'signals', 'setup'] as const;
export type Tag = (typeof TAGS)[number];
type Build = EndpointBuilder<typeof callServer, Tag, 'server'>;

const read = <C extends AnyContract>(build: Build, contract: C, ...tags: Tag[]) =>
  build.query<Answer<C>, Args<C>>({ query: (sent) => ({ contract, sent: sent ?? {} }), providesTags: tags });
const write = <C extends AnyContract>(build: Build, contract: C, ...tags: Tag[]) =>
  build.mutation<Answer<C>, Args<C>>({
    query: (sent) => ({ contract, sent: sent ?? {} }),
    invalidatesTags: (_, error) => (error ? [] : tags),
  });

const entering = <C extends AnyContract>(build: Build, contract: C) =>
  build.mutation<Answer<C>, Args<C>>({
    query: (sent) => ({ contract, sent: sent ?? {} }),
    async onQueryStarted(_, { dispatch, queryFulfilled }) {
      const result = await queryFulfilled.catch(() => null);
      if (!result) return;
      const entered = result.data as session.Session;
      holdToken(entered.csrf);
      void dispatch(server.util.upsertQueryData('readSession', undefined, entered));
      dispatch(server.util.invalidateTags(TAGS.filter((t) => t !== 'session')));
    },
  });

export const server = createApi({
  reducerPath: 'server',
  baseQuery: callServer,
  tagTypes: TAGS,
  keepUnusedDataFor: 120,
  endpoints: (build) => ({
    readSession: build.query<session.Session, void>({
      query: () => ({ contract: session.readSession, sent: {} }),
      providesTags: ['session'],
      async onQueryStarted(_, { queryFulfilled }) {
        const result = await queryFulfilled.catch(() => null);
        if (result) holdToken(result.data.csrf);
      },
    }),
    signIn: entering(build, session.signIn),
    signInDemo: entering(build, session.signInDemo),
    signOut: write(build, session.signOut),
    listPeople: read(build, session.listPeople, 'setup'),
    addPerson: write(build, session.addPerson, 'setup'),
    changePerson: write(build, session.changePerson, 'setup'),
    readToday: read(build, today.readToday, 'orders', 'upkeep', 'agreements', 'signals'),
    readCounts: read(build, today.readCounts, 'orders', 'upkeep', 'agreements', 'signals'),
    listCustomers: read(build, register.listCustomers, 'register'),
    readTree: read(build, register.readTree, 'register'),
    listAssets: read(build, register.listAssets, 'register', 'agreements', 'orders', 'upkeep'),
    readAsset: read(build, register.readAsset, 'register', 'agreements', 'orders', 'upkeep', 'signals'),
    changeAsset: write(build, register.changeAsset, 'register'),
    changeLocation: write(build, register.changeLocation, 'register'),
    previewImport: write(build, register.previewImport),
    runImport: write(build, register.runImport, 'register', 'setup'),
    find: read(build, register.find, 'register'),
    listAgreements: read(build, agreements.listAgreements, 'agreements'),
    readAgreement: read(build, agreements.readAgreement, 'agreements', 'setup'),
    writeAgreement: write(build, agreements.writeAgreement, 'agreements'),
    changeAgreement: write(build, agreements.changeAgreement, 'agreements'),
    addCoverage: write(build, agreements.addCoverage, 'agreements'),
    removeCoverage: write(build, agreements.removeCoverage, 'agreements'),
    addSchedules: write(build, agreements.addSchedules, 'agreements', 'upkeep'),
    removeSchedule: write(build, agreements.removeSchedule, 'agreements', 'upkeep'),
    putInForce: write(build, agreements.putInForce, 'agreements', 'upkeep'),
    moveStage: write(build, agreements.moveStage, 'agreements', 'upkeep'),
    previewRun: read(build, upkeep.previewRun, 'upkeep', 'agreements', 'setup'),
    holdVisits: write(build, upkeep.holdVisits, 'upkeep'),
    releaseVisits: write(build, upkeep.releaseVisits, 'upkeep'),
    commitRun: write(build, upkeep.commitRun, 'upkeep', 'orders'),
    readSignals: read(build, signals.readSignals, 'signals'),
    readReadings: read(build, signals.readReadings, 'signals'),
    addDevice: write(build, setup.addDevice, 'signals', 'register'),
    listOrders: read(build, orders.listOrders, 'orders'),
    readOrder: read(build, orders.readOrder, 'orders'),
    raiseRepair: write(build, orders.raiseRepair, 'orders'),
    previewRepair: build.query<Answer<typeof orders.previewRepair>, Args<typeof orders.previewRepair>>({
      query: (sent) => ({ contract: orders.previewRepair, sent }),
      keepUnusedDataFor: 5,
    }),
    recordAct: write(build, orders.recordAct, 'orders', 'upkeep'),
    readStanding: read(build, standing.readStanding, 'orders', 'upkeep'),
    standingDetail: read(build, standing.standingDetail, 'orders', 'upkeep'),
    readReference: read(build, setup.readReference, 'setup'),
    addCalendar: write(build, setup.addCalendar, 'setup'),
    changeCalendar: write(build, setup.changeCalendar, 'setup', 'orders', 'upkeep'),
    proposeHolidays: read(build, setup.proposeHolidays),
    addServiceLevel: write(build, setup.addServiceLevel, 'setup'),
    addJobPlan: write(build, setup.addJobPlan, 'setup'),
    changeJobPlan: write(build, setup.changeJobPlan, 'setup', 'upkeep'),
    listAlertRules: read(build, setup.listAlertRules, 'setup'),
    addAlertRule: write(build, setup.addAlertRule, 'setup'),
    changeAlertRule: write(build, setup.changeAlertRule, 'setup'),
    listGateways: read(build, setup.listGateways, 'setup'),
    addGateway: write(build, setup.addGateway, 'setup'),
    revokeGateway: write(build, setup.revokeGateway, 'setup'),
  }),
});

export const store = configureStore({
  reducer: { [server.reducerPath]: server.reducer },
  middleware: (defaults) => defaults().concat(server.middleware),
});
