// The store: server data in the query cache; nothing else lives here.
import { configureStore } from '@reduxjs/toolkit';
import { createApi, type EndpointBuilder } from '@reduxjs/toolkit/query/react';
import type { AnyContract, Answer } from '#api/contract.ts';
import * as agreements from '#api/agreements.ts';
import * as assets from '#api/assets.ts';
import * as care from '#api/care.ts';
import * as customers from '#api/customers.ts';
import * as files from '#api/files.ts';
import * as forms from '#api/forms.ts';
import * as imports from '#api/imports.ts';
import * as orders from '#api/orders.ts';
import * as places from '#api/places.ts';
import * as register from '#api/register.ts';
import * as session from '#api/session.ts';
import * as setup from '#api/setup.ts';
import * as signals from '#api/signals.ts';
import * as standing from '#api/standing.ts';
import * as terms from '#api/terms.ts';
import * as today from '#api/today.ts';
import * as upkeep from '#api/upkeep.ts';
import { callServer, holdToken, type Args } from './calls.ts';

export const TAGS = ['session', 'imports', 'register', 'agreements', 'upkeep', 'orders', 'signals', 'setup'] as const;
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
    listCustomers: read(build, customers.listCustomers, 'register'),
    readCustomer: read(build, customers.readCustomer, 'register', 'agreements', 'orders'),
    addCustomer: write(build, customers.addCustomer, 'register'),
    changeCustomer: write(build, customers.changeCustomer, 'register'),
    addContact: write(build, customers.addContact, 'register'),
    changeContact: write(build, customers.changeContact, 'register'),
    removeContact: write(build, customers.removeContact, 'register'),
    addNote: write(build, customers.addNote, 'register'),
    removeNote: write(build, customers.removeNote, 'register'),
    setWish: write(build, customers.setWish, 'register'),
    readTree: read(build, places.readTree, 'register'),
    readPlace: read(build, places.readPlace, 'register'),
    addLocation: write(build, places.addLocation, 'register'),
    changeLocation: write(build, places.changeLocation, 'register', 'upkeep'),
    previewMove: write(build, places.previewMove),
    moveLocation: write(build, places.moveLocation, 'register', 'agreements', 'upkeep'),
    previewMerge: write(build, places.previewMerge),
    mergeLocation: write(build, places.mergeLocation, 'register', 'agreements', 'upkeep'),
    retireLocation: write(build, places.retireLocation, 'register'),
    shareLocation: write(build, places.shareLocation, 'register'),
    listSites: read(build, places.listSites, 'register'),
    listAssets: read(build, register.listAssets, 'register', 'agreements', 'orders', 'upkeep'),
    readAsset: read(build, register.readAsset, 'register', 'agreements', 'orders', 'upkeep', 'signals'),
    changeAsset: write(build, assets.changeAsset, 'register', 'upkeep'),
    addAsset: write(build, assets.addAsset, 'register', 'agreements'),
    recordLife: write(build, assets.recordLife, 'register', 'agreements', 'upkeep'),
    previewSwap: write(build, assets.previewSwap),
    swapAsset: write(build, assets.swapAsset, 'register', 'agreements', 'upkeep'),
    addMeter: write(build, assets.addMeter, 'register'),
    addReading: write(build, assets.addReading, 'register'),
    previewBulk: write(build, assets.previewBulk),
    changeMany: write(build, assets.changeMany, 'register', 'agreements', 'upkeep'),
    listTwins: read(build, assets.listTwins, 'register'),
    mergeAssets: write(build, assets.mergeAssets, 'register', 'agreements', 'upkeep', 'orders', 'signals'),
    searchHistory: read(build, assets.searchHistory, 'orders'),
    readScan: read(build, assets.readScan),
    readCatalogue: read(build, assets.readCatalogue, 'setup', 'register'),
    addClass: write(build, assets.addClass, 'setup', 'register'),
    changeClass: write(build, assets.changeClass, 'setup', 'register'),
    addModel: write(build, assets.addModel, 'setup', 'register'),
    changeModel: write(build, assets.changeModel, 'setup', 'register'),
    listForms: read(build, forms.listForms, 'setup', 'register'),
    addForm: write(build, forms.addForm, 'setup'),
    changeForm: write(build, forms.changeForm, 'setup'),
    removeForm: write(build, forms.removeForm, 'setup'),
    listFiles: read(build, files.listFiles, 'register'),
    addFile: write(build, files.addFile, 'register'),
    removeFile: write(build, files.removeFile, 'register'),
    beginImport: write(build, imports.beginImport, 'imports'),
    setImport: write(build, imports.setImport, 'imports'),
    readImport: read(build, imports.readImport, 'imports'),
    startImport: write(build, imports.startImport, 'imports'),
    cancelImport: write(build, imports.cancelImport, 'imports', 'register'),
    undoImport: write(build, imports.undoImport, 'imports', 'register', 'agreements', 'setup'),
    listImports: read(build, imports.listImports, 'imports'),
    find: read(build, register.find, 'register'),
    listAgreements: read(build, agreements.listAgreements, 'agreements'),
    readAgreement: read(build, agreements.readAgreement, 'agreements', 'setup'),
    writeAgreement: write(build, agreements.writeAgreement, 'agreements'),
    changeAgreement: write(build, agreements.changeAgreement, 'agreements'),
    changeCare: write(build, care.changeCare, 'agreements'),
    seeNotice: write(build, care.seeNotice, 'agreements'),
    readNumbering: read(build, care.readNumbering, 'setup', 'agreements'),
    changeNumbering: write(build, care.changeNumbering, 'setup'),
    announceIndex: write(build, care.announceIndex, 'agreements'),
    changeLines: write(build, terms.changeLines, 'agreements', 'upkeep', 'register'),
    setAllowances: write(build, terms.setAllowances, 'agreements'),
    readMatrix: read(build, terms.readMatrix, 'agreements', 'register'),
    previewAmendment: build.query<Answer<typeof terms.previewAmendment>, Args<typeof terms.previewAmendment>>({
      query: (sent) => ({ contract: terms.previewAmendment, sent }),
      providesTags: ['agreements', 'register'],
    }),
    amend: write(build, terms.amend, 'agreements', 'upkeep', 'register'),
    compareVersions: read(build, terms.compareVersions, 'agreements'),
    readPrice: read(build, terms.readPrice, 'agreements'),
    listRenewals: read(build, terms.listRenewals, 'agreements'),
    decideRenewal: write(build, terms.decideRenewal, 'agreements', 'upkeep'),
    openWork: read(build, terms.openWork, 'agreements', 'orders'),
    askCover: read(build, terms.askCover, 'agreements', 'register'),
    askMany: read(build, terms.askMany, 'agreements', 'register'),
    askAll: read(build, terms.askAll, 'agreements', 'register'),
    listAgreementTypes: read(build, terms.listAgreementTypes, 'setup'),
    addAgreementType: write(build, terms.addAgreementType, 'setup'),
    changeAgreementType: write(build, terms.changeAgreementType, 'setup'),
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
    changeServiceLevel: write(build, setup.changeServiceLevel, 'setup', 'agreements', 'register'),
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
