// Stand-in broker: an MQTT broker on loopback for the demo and the journeys. Only who knows the password may connect.
import { createServer } from 'node:net';
import { Aedes } from 'aedes';

export async function startBroker(
  port: number,
  password: string,
): Promise<{ stop(): Promise<void>; listeners(): number }> {
  const broker = await Aedes.createBroker({
    authenticate: (_client, username, given, done) =>
      done(null, username === 'stavok' && given?.toString() === password),
  });
  let subscriptions = 0;
  broker.on('subscribe', () => (subscriptions += 1));
  const server = createServer(broker.handle);
  await new Promise<void>((ready, failed) => server.once('error', failed).listen(port, '127.0.0.1', ready));
  return {
    /** How many subscribe to something. */
    listeners: () => subscriptions,
    stop: () => new Promise((done) => broker.close(() => server.close(() => done()))),
  };
}
