// What settle tells people outside: that an invoice or credit note is there, with its paper.
import type { MessageKind } from '../platform/message-kind.ts';

export const DOCUMENT_SENT: MessageKind = {
  kind: 'document sent',
  says: 'To whom a customer named for its invoices, with the paper',
  places: ['name', 'number', 'customer', 'amount', 'due'],
  words: {
    en: {
      subject: '{number} for {customer}',
      body: 'Dear {name},\n\nplease find {number} attached: {amount}, {due}.\n',
    },
    pt: {
      subject: '{number} para {customer}',
      body: 'Caro(a) {name},\n\njuntamos {number}: {amount}, {due}.\n',
    },
  },
};

export const REMINDED: MessageKind = {
  kind: 'reminder',
  says: 'To whom a customer named for its invoices, of what is overdue',
  places: ['name', 'customer', 'level', 'documents', 'amount'],
  words: {
    en: {
      subject: 'Reminder: {amount} of {customer} is overdue',
      body: 'Dear {name},\n\nthese invoices are past the day by which they were to be paid:\n\n{documents}\n\nTogether {amount}. Where you have paid meanwhile, thank you; this is reminder {level}.\n',
    },
    pt: {
      subject: 'Lembrete: {amount} de {customer} em atraso',
      body: 'Caro(a) {name},\n\nestas faturas passaram a data de pagamento:\n\n{documents}\n\nNo total {amount}. Se entretanto pagou, obrigado; este é o lembrete {level}.\n',
    },
  },
};

export const CLAIMED: MessageKind = {
  kind: 'claim sent',
  says: 'To a maker, of work under the warranty of one of its machines, with the paper',
  places: ['number', 'order', 'amount', 'text'],
  words: {
    en: {
      subject: 'Warranty claim {number}: {amount}',
      body: 'Dear Sir or Madam,\n\nwe did work under the warranty of a machine of yours, our order {order}, and ask you for {amount}. What was found, done and used is attached.\n\n{text}\n',
    },
    pt: {
      subject: 'Reclamação de garantia {number}: {amount}',
      body: 'Exmos. Senhores,\n\nfizemos um trabalho ao abrigo da garantia de uma máquina vossa, a nossa ordem {order}, e pedimos {amount}. Juntamos o que foi encontrado, feito e usado.\n\n{text}\n',
    },
  },
};
