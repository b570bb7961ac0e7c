// The rooms and their addresses; each room's code is loaded when it is entered.
import { createBrowserRouter } from 'react-router';
import { Frame } from './shell/frame.tsx';
import { NotFound } from './shell/not-found.tsx';

type Page = () => React.JSX.Element;
const lazily = (load: () => Promise<Page>) => async () => ({ Component: await load() });

export const router = createBrowserRouter([
  {
    path: '/',
    Component: Frame,
    HydrateFallback: () => null,
    children: [
      { index: true, lazy: lazily(async () => (await import('./today/today.tsx')).TodayRoom) },
      { path: 'register', lazy: lazily(async () => (await import('./register/register.tsx')).RegisterRoom) },
      { path: 'register/import', lazy: lazily(async () => (await import('./register/import.tsx')).ImportPage) },
      { path: 'register/history', lazy: lazily(async () => (await import('./register/history.tsx')).HistoryPage) },
      { path: 'assets/tag/:tag', lazy: lazily(async () => (await import('./register/by-tag.tsx')).AssetByTag) },
      { path: 'assets/:id', lazy: lazily(async () => (await import('./register/asset.tsx')).AssetPage) },
      { path: 'agreements', lazy: lazily(async () => (await import('./agreements/list.tsx')).AgreementsRoom) },
      {
        path: 'agreements/renewals',
        lazy: lazily(async () => (await import('./agreements/renewals.tsx')).RenewalsPage),
      },
      {
        path: 'agreements/cover',
        lazy: lazily(async () => (await import('./agreements/cover-questions.tsx')).CoverQuestionsPage),
      },
      { path: 'agreements/:id', lazy: lazily(async () => (await import('./agreements/agreement.tsx')).AgreementPage) },
      { path: 'upkeep', lazy: lazily(async () => (await import('./upkeep/upkeep.tsx')).UpkeepRoom) },
      { path: 'signals', lazy: lazily(async () => (await import('./signals/signals.tsx')).SignalsRoom) },
      { path: 'orders/:id?', lazy: lazily(async () => (await import('./orders/orders.tsx')).OrdersRoom) },
      { path: 'standing', lazy: lazily(async () => (await import('./standing/standing.tsx')).StandingRoom) },
      { path: 'setup/:part?', lazy: lazily(async () => (await import('./setup/setup.tsx')).SetupRoom) },
      { path: '*', Component: NotFound },
    ],
  },
]);
