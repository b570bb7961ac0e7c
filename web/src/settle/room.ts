// What plugs in.
import { changeSettleSettings, listLooks } from '#api/billing.ts';
import { addTax } from '#api/settle.ts';
import type { Room } from '../shell/room.ts';

const lookThrough = async () => (await import('./look-through.tsx')).LookThrough;

export const settle: Room = {
  name: 'settle',
  rail: { word: 'Settle', path: '/settle', key: 'b', shown: listLooks },
  found: [
    { kind: 'document', group: 'Invoices and credit notes', open: (hit) => `/settle/documents/${hit.id}` },
    { kind: 'claim', group: 'Claims', open: (hit) => `/settle/claims/${hit.id}` },
  ],
  today: [{ place: 2, decisions: async () => (await import('./today.tsx')).ToSettle }],
  pages: [
    { path: 'settle', load: lookThrough },
    { path: 'settle/orders/:id', load: lookThrough },
    { path: 'settle/bill', load: async () => (await import('./bill.tsx')).BillRoom },
    { path: 'settle/documents', load: async () => (await import('./documents.tsx')).DocumentsRoom },
    { path: 'settle/documents/:id', load: async () => (await import('./document.tsx')).DocumentRoom },
    { path: 'settle/open', load: async () => (await import('./open-items.tsx')).DebtorsRoom },
    { path: 'settle/open/:id', load: async () => (await import('./open-items.tsx')).DebtorRoom },
    { path: 'settle/payments', load: async () => (await import('./payments.tsx')).PaymentsRoom },
    { path: 'settle/claims', load: async () => (await import('./claims.tsx')).ClaimsRoom },
    { path: 'settle/claims/:id', load: async () => (await import('./claim.tsx')).ClaimRoom },
    { path: 'settle/allowances', load: async () => (await import('./allowances.tsx')).AllowancesRoom },
    { path: 'settle/margins', load: async () => (await import('./margins.tsx')).MarginsRoom },
    { path: 'settle/margins/:id', load: async () => (await import('./margin.tsx')).MarginRoom },
    { path: 'settle/journal', load: async () => (await import('./journal.tsx')).JournalRoom },
    { path: 'settle/payments/:id', load: async () => (await import('./payment.tsx')).PaymentRoom },
  ],
  setup: [
    { path: 'taxes', word: 'Taxes', shown: addTax, load: async () => (await import('./taxes.tsx')).Taxes },
    {
      path: 'billing',
      word: 'Billing',
      shown: changeSettleSettings,
      load: async () => (await import('./billing-settings.tsx')).BillingSettings,
    },
  ],
};
