// The gateways that take what leaves: mail by SMTP (RFC 5321), text messages and pushes by HTTP.
import { createTransport, type Transporter } from 'nodemailer';
import { refusal } from '#core/refusal.ts';
import { withAddresses } from '#core/telling.ts';
import type { Config } from '../platform/config.ts';
import { Refused } from '../platform/refuse.ts';
import type { outbox } from './tables.ts';

type Message = typeof outbox.$inferSelect;
export type Gateways = {
  /** Hands a message over and gives the gateway's word for it. The key travels with it, so that a repeat is known. */
  hand(message: Message, paper: Buffer | null): Promise<string>;
  close(): void;
};

/** What identifies a message that left this house, and which it is, given an identifier of its form. */
export const sentId = (id: number, publicAddress: string): string => `outbox-${id}@${new URL(publicAddress).hostname}`;
export function idOfSent(messageId: string, publicAddress: string): number | null {
  const id = Number(/^outbox-(\d{1,10})@/.exec(messageId)?.[1] ?? 0);
  return id > 0 && sentId(id, publicAddress) === messageId ? id : null;
}

const HAND_OVER_MS = 15_000;

const notSet = (what: string, name: string): never => {
  throw new Refused([
    refusal('not-ready', `No ${what} gateway is set (${name}); set it, then have the message sent again.`),
  ]);
};

export function openGateways({ mailUrl, mailFrom, messageUrl, publicAddress }: Config): Gateways {
  let mail: Transporter | null = null;
  return {
    async hand(message, paper) {
      const text = withAddresses(message.body, publicAddress);
      if (message.way === 'mail') {
        if (mailUrl === null) return notSet('mail', 'STAVOK_MAIL_URL');
        mail ??= createTransport({ url: mailUrl, connectionTimeout: HAND_OVER_MS, socketTimeout: HAND_OVER_MS });
        const taken = (await mail.sendMail({
          from: mailFrom,
          to: { name: message.toName, address: message.address },
          subject: message.subject,
          text,
          ...(message.inReplyTo !== null && {
            inReplyTo: `<${message.inReplyTo}>`,
            references: message.threadIds.map((id) => `<${id}>`),
          }),
          attachments: paper === null ? [] : [{ filename: message.paperName ?? 'paper.pdf', content: paper }],
          // The same message handed over twice has the same id (RFC 5322, section 3.6.4).
          messageId: `<${sentId(message.id, publicAddress)}>`,
        })) as { response: string };
        return taken.response;
      }
      if (messageUrl === null) return notSet('message', 'STAVOK_MESSAGE_URL');
      const answer = await fetch(messageUrl, {
        method: 'POST',
        signal: AbortSignal.timeout(HAND_OVER_MS),
        headers: { 'content-type': 'application/json', 'idempotency-key': `outbox-${message.id}` },
        body: JSON.stringify({
          way: message.way,
          to: message.address,
          text: [message.subject, text].join('\n'),
        }),
      });
      const said = await answer.text();
      if (!answer.ok) throw new Error(`the gateway answered ${answer.status}: ${said.slice(0, 200)}`);
      return (JSON.parse(said) as { id: string }).id;
    },
    close: () => mail?.close(),
  };
}
