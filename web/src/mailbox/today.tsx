// What Today shows of mail: what nobody has looked at yet.
import { listMail } from '#api/mailbox.ts';
import { COUNTED, DecisionOfFew } from '../shell/today-card.tsx';
import { useReader } from '../shell/reader.tsx';
import { mailboxApi } from './endpoints.ts';

export function MailToLookAt() {
  const may = useReader().may(listMail);
  const query = { state: 'to look at', limit: String(COUNTED) } as const;
  const { data } = mailboxApi.useListMailQuery({ query }, { skip: !may });
  return (
    <DecisionOfFew
      what="Mail to look at"
      thing="message"
      items={(data?.items ?? []).map((m) => ({
        ...{ id: m.id, to: `/mail/${m.id}`, name: m.subject || 'without a subject' },
        beside: m.customer?.name ?? m.fromName,
      }))}
      more={(data?.next ?? null) !== null}
      all="/mail"
    />
  );
}
