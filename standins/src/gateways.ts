// Stand-in gateways: a mail server (SMTP) and a gateway for text messages and pushes (HTTP) on loopback. What they are handed
// goes nowhere; each gives its word for it, and the same message handed over twice is taken once.
import type { AddressInfo } from 'node:net';
import Fastify from 'fastify';
import { SMTPServer } from 'smtp-server';

export type Taken = {
  readonly key: string;
  readonly way: 'mail' | 'message' | 'push';
  readonly to: string;
  readonly text: string;
};

const KEPT = 500;
const MAX_BYTES = 1024 * 1024;

export type StandInGateways = {
  readonly mailUrl: string;
  readonly messageUrl: string;
  /** What was taken, the newest last; the oldest make way. */
  readonly taken: readonly Taken[];
  stop(): Promise<void>;
};

export async function startGateways(): Promise<StandInGateways> {
  const taken: Taken[] = [];
  const take = (one: Taken): string => {
    const at = taken.findIndex((t) => t.key === one.key);
    if (at === -1) taken.push(one);
    if (taken.length > KEPT) taken.shift();
    return at === -1 ? `taken ${one.key}` : `taken before ${one.key}`;
  };

  const mail = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    size: MAX_BYTES,
    onData(stream, session, done) {
      const parts: Buffer[] = [];
      stream.on('data', (part: Buffer) => parts.push(part));
      stream.on('end', () => {
        const text = Buffer.concat(parts).toString('utf8');
        const key = /^message-id:\s*<?([^>\s]+)/im.exec(text)?.[1] ?? session.id;
        const to = session.envelope.rcptTo.map((r) => r.address).join(', ');
        done(null, take({ key, way: 'mail', to, text }));
      });
    },
  });
  await new Promise<void>((ready, failed) => {
    mail.on('error', failed);
    mail.listen(0, '127.0.0.1', ready);
  });
  mail.on('error', () => undefined);

  const messages = Fastify({ logger: false, bodyLimit: MAX_BYTES });
  messages.post<{ Body: { way: 'message' | 'push'; to: string; text: string } }>('/messages', async (request) => {
    const { way, to, text } = request.body;
    return { id: take({ key: String(request.headers['idempotency-key'] ?? request.id), way, to, text }) };
  });
  const messageAddress = await messages.listen({ port: 0, host: '127.0.0.1' });

  return {
    mailUrl: `smtp://127.0.0.1:${(mail.server.address() as AddressInfo).port}`,
    messageUrl: `${messageAddress}/messages`,
    taken,
    async stop() {
      await Promise.all([new Promise<void>((done) => mail.close(done)), messages.close()]);
    },
  };
}
