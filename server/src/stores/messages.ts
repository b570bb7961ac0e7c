// What suppliers are told.
import type { MessageKind } from '../platform/message-kind.ts';

export const PURCHASE_SENT = {
  kind: 'purchase order sent',
  says: 'To the supplier, with the purchase order as PDF',
  places: ['name', 'number', 'store', 'who'],
  words: {
    en: {
      subject: 'Purchase order {number}',
      body: 'Dear {name},\n\nour purchase order {number} is attached, to be delivered to {store}. Please confirm days and prices.\n\n{who}\n',
    },
    pt: {
      subject: 'Encomenda {number}',
      body: 'Caro(a) {name},\n\njuntamos a nossa encomenda {number}, a entregar em {store}. Agradecemos a confirmação de datas e preços.\n\n{who}\n',
    },
  },
} as const satisfies MessageKind;
