// A day's work is sent: how much of it nobody has heard of yet, and one press for all of it.
import { localDateAt, type LocalDate, type Zone } from '#core/time/index.ts';
import { plural, sayDate } from '../parts/words.ts';
import type { Rota } from './days.ts';
import type { Acting } from './acting.ts';
import { rotaApi } from './endpoints.ts';

export function SendDay({ rota, date, acting }: { rota: Rota; date: LocalDate; acting: Acting }) {
  const [send, { isLoading }] = rotaApi.useSendDayMutation();
  const zoneOf = new Map(rota.people.map((p) => [p.id, p.zone as Zone]));
  const unsent = rota.appointments.filter(
    (a) =>
      !a.sent &&
      a.to > rota.now &&
      a.personIds.some((id) => zoneOf.has(id) && localDateAt(zoneOf.get(id) as Zone, a.from) === date),
  );
  if (unsent.length === 0) return null;
  const people = [...new Set(unsent.flatMap((a) => a.personIds))].filter((id) => zoneOf.has(id));
  const sendAll = async (): Promise<void> => {
    const answer = await send({ body: { date, people } });
    if ('error' in answer) acting.setProblem(answer.error as never);
    else
      acting.say(`${plural(answer.data.sent, 'appointment')} sent, ${plural(answer.data.told, 'customer')} told`, null);
  };
  return (
    <section className="mb-4 border-b border-hairline pb-3">
      <p>
        {plural(unsent.length, 'appointment')} of {sayDate(date).slice(0, -5)} {unsent.length === 1 ? 'is' : 'are'} not
        sent to {plural(people.length, 'person', 'people')} yet.
      </p>
      <button className="act mt-1" disabled={isLoading} onClick={() => void sendAll()}>
        Send {plural(unsent.length, 'appointment')}
      </button>
    </section>
  );
}
