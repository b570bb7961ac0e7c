// A stand-in card terminal (HTTP on loopback): takes every card but one; asked for the same payment again it says the same again.
import Fastify from 'fastify';

type Answer = { readonly state: 'approved' | 'declined'; readonly receipt: string };

/** Amounts that end in so many cents are declined, so that it can be tried. */
export const DECLINED_CENTS = 13;

export type StandInTerminal = {
  readonly url: string;
  /** What was approved, in minor units, by the key of its payment. */
  readonly taken: ReadonlyMap<string, number>;
  stop(): Promise<void>;
};

export async function startTerminal(): Promise<StandInTerminal> {
  const answers = new Map<string, Answer>();
  const taken = new Map<string, number>();
  const app = Fastify({ logger: false, bodyLimit: 4096 });
  app.post<{ Body: { amount: number; currency: string; reference: string } }>('/payments', async (request) => {
    const key = String(request.headers['idempotency-key'] ?? request.id);
    const held = answers.get(key);
    if (held) return held;
    const { amount } = request.body;
    const isTaken = amount % 100 !== DECLINED_CENTS;
    const receipt = isTaken ? `receipt ${String(answers.size + 1).padStart(6, '0')}` : 'card declined';
    const answer: Answer = { state: isTaken ? 'approved' : 'declined', receipt };
    answers.set(key, answer);
    if (isTaken) taken.set(key, amount);
    return answer;
  });
  const address = await app.listen({ port: 0, host: '127.0.0.1' });
  return { url: `${address}/payments`, taken, stop: () => app.close() };
}
