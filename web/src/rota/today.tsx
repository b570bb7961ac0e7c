// What Today shows of the rota: promises that break as it stands, and absences that somebody must decide on.
import { readForecast } from '#api/rota-forecast.ts';
import { readTechnicians } from '#api/rota-people.ts';
import { readSaid } from '#api/rota.ts';
import { localDateAt, type Zone } from '#core/time/index.ts';
import { sayMoment } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { COUNTED, DecisionOfFew } from '../shell/today-card.tsx';
import { rotaApi } from './endpoints.ts';

export function PromisesAtRisk() {
  const reader = useReader();
  const { data } = rotaApi.useReadForecastQuery(
    { query: { only: 'risks' } },
    { skip: !reader.may(readForecast), pollingInterval: 300_000 },
  );
  return (
    <DecisionOfFew
      what="Promises the rota breaks"
      thing="order"
      items={(data?.atRisk ?? []).slice(0, COUNTED).map((r) => ({
        ...{ id: r.orderId, to: `/rota?order=${r.orderId}`, name: r.title },
        beside: `by ${sayMoment(r.dueAt, data?.now ?? r.dueAt, reader.zone)}: ${r.cause}`,
      }))}
      more={(data?.atRisk.length ?? 0) > COUNTED}
      all="/rota/forecast"
    />
  );
}

export function AbsencesAsked() {
  const reader = useReader();
  const { data } = rotaApi.useListAbsencesQuery({ query: {} }, { skip: !reader.may(readTechnicians) });
  const asked = (data?.items ?? []).filter((a) => a.mayDecide);
  return (
    <DecisionOfFew
      what="Absences asked for"
      thing="absence"
      items={asked.slice(0, COUNTED).map((a) => ({
        ...{ id: a.id, to: '/rota/absences', name: a.person.name },
        beside: `from ${sayMoment(a.from, a.from, a.zone as Zone)}`,
      }))}
      more={asked.length > COUNTED}
      all="/rota/absences"
    />
  );
}

/** What whoever goes said by phone that the dispatcher has to answer to: not taken, or later than planned. */
export function SaidByPhone() {
  const reader = useReader();
  const { data } = rotaApi.useReadSaidQuery(undefined, { skip: !reader.may(readSaid) });
  return (
    <DecisionOfFew
      what="Said to appointments"
      thing="appointment"
      items={(data?.items ?? []).slice(0, COUNTED).map((s) => ({
        ...{ id: s.id, to: `/rota?from=${localDateAt(s.zone as Zone, s.from)}&appointment=${s.id}`, name: s.title },
        beside: `${s.who} ${s.late === null ? 'does not take it' : `${s.late} min later`}${s.text && `: ${s.text}`}`,
      }))}
      more={(data?.items.length ?? 0) > COUNTED || (data?.more ?? false)}
      all="/rota"
    />
  );
}
