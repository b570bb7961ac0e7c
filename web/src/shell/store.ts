// The store: server data in the query cache; nothing else lives here.
import { configureStore } from '@reduxjs/toolkit';
import { createApi, type EndpointBuilder } from '@reduxjs/toolkit/query/react';
import { THINGS, type AnyContract, type Answer, type Thing } from '#api/contract.ts';
import * as house from '#api/house.ts';
import * as session from '#api/session.ts';
import { callServer, holdToken, type Args } from './calls.ts';

type Build = EndpointBuilder<typeof callServer, Thing, 'server'>;

/** A read of a contract; what it shows is fetched again when somebody touches it. */
export const read = <C extends AnyContract>(build: Build, contract: C) =>
  build.query<Answer<C>, Args<C>>({
    query: (sent) => ({ contract, sent: sent ?? {} }),
    providesTags: contract.reads ?? [],
  });
/** A write of a contract; what it touches is fetched again. */
export const write = <C extends AnyContract>(build: Build, contract: C) =>
  build.mutation<Answer<C>, Args<C>>({
    query: (sent) => ({ contract, sent: sent ?? {} }),
    invalidatesTags: (_, error) => (error ? [] : (contract.touches ?? [])),
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
      dispatch(server.util.invalidateTags(THINGS.filter((t) => t !== 'session')));
    },
  });

export const server = createApi({
  reducerPath: 'server',
  baseQuery: callServer,
  tagTypes: THINGS,
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
    readCounts: read(build, house.readCounts),
    readTableLooks: read(build, house.readTableLooks),
    keepTableLook: write(build, house.keepTableLook),
  }),
});

export const store = configureStore({
  reducer: { [server.reducerPath]: server.reducer },
  middleware: (defaults) => defaults().concat(server.middleware),
});
