// A page of the simulated devices, on loopback: what each is doing, and a trouble to be started by hand.
import Fastify from 'fastify';
import { SCENARIOS, type DeviceScenario, type Simulation } from './devices.ts';

const SPEEDS = [1, 5, 20, 60];
const escaped = (text: string): string => text.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);
const isScenario = (text: unknown): text is DeviceScenario => (SCENARIOS as readonly unknown[]).includes(text);

function page({ devices, started }: Simulation, said: string): string {
  const rows = devices.map((d) => {
    const own = started.get(d.key);
    const doing = own ? `${own.scenario}${own.speed > 1 ? `, ${own.speed} times as fast` : ''}` : d.scenario;
    return `<tr><td><label><input type="checkbox" name="keys" value="${escaped(d.key)}"> ${escaped(d.key)}</label></td><td>${d.kind}</td><td>${doing}</td></tr>`;
  });
  const options = (values: readonly (string | number)[]): string => values.map((v) => `<option>${v}</option>`).join('');
  return `<!doctype html><html lang="en"><meta charset="utf-8"><title>Simulated devices</title>
<style>body{font:16px/1.5 system-ui;max-width:60rem;margin:2rem auto;padding:0 1rem}table{border-collapse:collapse;width:100%}td,th{border-top:1px solid #bbb;padding:.3rem;text-align:left}.acts{position:sticky;top:0;background:Canvas;padding:.6rem 0}</style>
<h1>Simulated devices</h1>
<p>They report over the broker every ten seconds. Tick some, choose what goes wrong, and start it: alerts follow once the delays of their rules are over, some minutes. It goes on until “healthy” is started there.</p>
${said ? `<p role="status"><strong>${escaped(said)}</strong></p>` : ''}
<form method="post" action="/start"><div class="acts">
<label>What: <select name="scenario">${options(SCENARIOS)}</select></label>
<label>Times as fast: <select name="speed">${options(SPEEDS)}</select></label>
<button>Start it at those ticked</button></div>
<table><thead><tr><th>Device</th><th>Kind</th><th>Does</th></tr></thead><tbody>${rows.join('')}</tbody></table></form></html>`;
}

export async function startDevicePage(
  simulation: Simulation,
): Promise<{ readonly url: string; stop(): Promise<void> }> {
  const app = Fastify({ logger: false, bodyLimit: 65_536 });
  app.addContentTypeParser('application/x-www-form-urlencoded', { parseAs: 'string' }, (_request, body, done) =>
    done(null, new URLSearchParams(String(body))),
  );
  let said = '';
  app.get('/', async (_request, reply) => {
    const html = page(simulation, said);
    said = '';
    return reply.type('text/html; charset=utf-8').send(html);
  });
  app.post<{ Body: URLSearchParams }>('/start', async ({ body, headers }, reply) => {
    const [scenario, speed, keys] = [body.get('scenario'), Number(body.get('speed')), body.getAll('keys')];
    // Only by the form of this page itself.
    if (headers.origin !== undefined && new URL(headers.origin).host !== headers.host) return reply.code(403).send();
    if (keys.length === 0) said = 'Tick the devices it is to happen at.';
    else if (!isScenario(scenario) || !SPEEDS.includes(speed)) said = 'Choose what goes wrong, and how fast.';
    else {
      simulation.start(keys, scenario, speed);
      said = `Started at ${keys.length}: ${scenario}.`;
    }
    return reply.redirect('/', 303);
  });
  const url = await app.listen({ port: 0, host: '127.0.0.1' });
  return { url, stop: () => app.close() };
}
