// The entry of Field: opens what the phone keeps, shows it, and lets the service worker keep the application itself.
import '@fontsource-variable/source-code-pro/wght.css';
import '@fontsource-variable/source-sans-3/wght.css';
import '@fontsource-variable/source-serif-4/wght.css';

import './field.css';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { Field } from './field.tsx';
import { openKeep } from './phone/keep.ts';
import { Phone } from './phone/phone.ts';
import { keepApplication } from './phone/application.ts';

const root = document.getElementById('root');
if (!root) throw new Error('the page has no root');
const phone = new Phone(await openKeep());
createRoot(root).render(
  <StrictMode>
    <Field phone={phone} />
  </StrictMode>,
);
void phone.start();
if (import.meta.env.PROD) keepApplication();
