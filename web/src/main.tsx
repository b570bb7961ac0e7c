// The web application's entry.
import '@fontsource-variable/source-code-pro/wght.css';
import '@fontsource-variable/source-sans-3/wght.css';
import '@fontsource-variable/source-serif-4/wght.css';
import './desk.css';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { Provider } from 'react-redux';
import { RouterProvider } from 'react-router';
import { routerOver } from './shell/router.tsx';
import { applyTheme } from './shell/theme.ts';
import { store } from './shell/store.ts';
import { ROOMS } from './rooms.tsx';

applyTheme();
const root = document.getElementById('root');
if (!root) throw new Error('the page has no root');
createRoot(root).render(
  <StrictMode>
    <Provider store={store}>
      <RouterProvider router={routerOver(ROOMS)} />
    </Provider>
  </StrictMode>,
);
