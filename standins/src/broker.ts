// Stand-in broker: an MQTT broker on loopback for the demo and the journeys. Only who knows the password may connect.
import { createServer } from 'node:net';
import { Aedes, type Client } from 'aedes';

/**
 * What is still to be handed to a listener keeps the number it had over its last connection, and the library takes the first message of a
 * number as the acknowledged one: numbers of an earlier connection could be given again in the new one, and another message be let go.
 */
async function forgetIds(broker: Aedes, client: Client): Promise<void> {
  // Its types leave out what it keeps.
  const { persistence } = broker as unknown as {
    persistence: { outgoingStream(of: Client): AsyncIterable<{ messageId?: number }> };
  };
  for await (const packet of persistence.outgoingStream(client)) packet.messageId = 0;
}

export async function startBroker(
  port: number,
  password: string,
): Promise<{ stop(): Promise<void>; listeners(): number }> {
  const broker = await Aedes.createBroker({
    authenticate: (client, username, given, done) => {
      const isKnown = username === 'stavok' && given?.toString() === password;
      void forgetIds(broker, client).then(() => done(null, isKnown));
    },
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
