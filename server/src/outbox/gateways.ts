// The gateways that take what leaves: mail by SMTP (RFC 5321), text messages and pushes by HTTP.
import { createTransport, type Transporter } from 'nodemailer';
import { refusal } from '#core/refusal.ts';
import type { Config } from '../platform/config.ts';
import { Refused } from '../platform/refuse.ts';
import type { outbox } from './tables.ts';

type Message = typeof outbox.$inferSelect;
export type Gateways = {
  /** Hands a message over and gives the gateway's word for it. The key travels with it, so that a repeat is known. */
  hand(message: Message): Promise<string>;
  close(): void;
};

const HAND_OVER_MS = 15_000;

const notSet = (what: string, name: string): never => {
  throw new Refused([
    refusal('not-ready', `No ${what} gateway is set (${name}); set it, then have the message sent again.`),
  ]);
};

export function openGateways({ mailUrl, mailFrom, messageUrl, publicAddress }: Config): Gateways {
  let mail: Transporter | null = null;
  const host = new URL(publicAddress).hostname;
  return {
    async hand(message) {
      if (message.way === 'mail') {
        if (mailUrl === null) return notSet('mail', 'STAVOK_MAIL_URL');
        mail ??= createTransport({ url: mailUrl, connectionTimeout: HAND_OVER_MS, socketTimeout: HAND_OVER_MS });
        const taken = (await mail.sendMail({
          from: mailFrom,
          to: { name: message.toName, address: message.address },
          subject: message.subject,
          text: message.body,
          // The same message handed over twice has the same id (RFC 5322, section 3.6.4).
          messageId: `<outbox-${message.id}@${host}>`,
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
          text: [message.subject, message.body].join('\n'),
        }),
      });
      const text = await answer.text();
      if (!answer.ok) throw new Error(`the gateway answered ${answer.status}: ${text.slice(0, 200)}`);
      return (JSON.parse(text) as { id: string }).id;
    },
    close: () => mail?.close(),
  };
}
