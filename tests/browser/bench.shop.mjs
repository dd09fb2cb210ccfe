// A shop of 5,000 jobs: how soon a search answers, how soon the first page after a start; and an import of 20,000 parts beside it.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { root, startServer } from './workshop.mjs';

const JOBS = Number(process.env.KELVET_BENCH_JOBS ?? 5000);
const PARTS = 20_000;

const demo = (file) => JSON.parse(readFileSync(join(root, 'src/Kelvet.Web/Demo', file), 'utf8'));

/** A client that keeps its cookies and the token of its forms. */
async function client(server) {
  const first = await fetch(`${server.url}/jobs/import`);
  const cookie = first.headers.getSetCookie().map((c) => c.split(';')[0]).join('; ');
  const html = await (await fetch(`${server.url}/jobs/import`, { headers: { cookie } })).text();
  const token = /__RequestVerificationToken" type="hidden" value="([^"]+)"/.exec(html)[1];
  return {
    get: async (path) => (await fetch(server.url + path, { headers: { cookie } })).text(),
    made: async (path) => Number(/made;desc="(\d+)"/.exec((await fetch(server.url + path, { headers: { cookie } })).headers.get('server-timing'))[1]),
    send: (path, fields) => {
      const body = new FormData();
      body.set('__RequestVerificationToken', token);
      for (const [name, value, file] of fields) body.append(name, value, ...(file ? [file] : []));
      return fetch(server.url + path, { method: 'POST', body, headers: { cookie }, redirect: 'manual' });
    },
  };
}

export async function measureShop(say, p) {
  let server = await startServer({ demo: false });
  try {
    let shop = await client(server);
    const models = ['one-slot.json', 'cuts-out.json', 'new-build.json', 'upgrade.json', 'no-digital.json', 'now-and-then.json'].map(demo);
    for (let i = 0; i < JOBS; i++) {
      const job = structuredClone(models[i % models.length]);
      job.title = `${job.title} no. ${i}`.slice(0, 110);
      job.customer = `Customer ${i % 1700} of lane ${i % 37}`;
      job.units[0].serial = `SER-${100_000 + i}`;
      const answer = await shop.send('/jobs/import', [['file', new Blob([JSON.stringify(job)]), 'job.json']]);
      if (answer.status !== 302) throw new Error(`Job ${i} was not taken: ${answer.status}`);
    }

    // What the list shows of each job is made beside the bench: a shop's jobs come in one by one, these all at once. Whether it is
    // done is asked of the list itself, page by page from the last one.
    for (let page = Math.ceil(JOBS / 12); page > 0;) {
      const made = await shop.made(`/?show=all&p=${page}`);
      if (made === 0) page--;
      else await new Promise((next) => setTimeout(next, 2000));
    }

    const words = (i) => [`SER-${100_000 + ((i * 397) % JOBS)}`, `customer ${(i * 53) % 1700}`, `lane ${i % 37}`, 'velm', 'halden drive', 'black', `no. ${(i * 71) % JOBS}`][i % 7];
    const times = [];
    for (let i = 0; i < 210; i++) {
      const clock = performance.now();
      await shop.get(`/?show=all&q=${encodeURIComponent(words(i))}`);
      if (i >= 10) times.push(performance.now() - clock);
    }
    say(`search of ${JOBS} jobs, page, p95 of 200`, p(times, 0.95), 'ms', 100);
    say(`search of ${JOBS} jobs, page, median`, p(times, 0.5), 'ms', 100);

    const { folder, port } = server;
    await server.kill();
    const launched = performance.now();
    server = await startServer({ demo: false, folder, port });
    const clock = performance.now();
    await (await fetch(`${server.url}/`)).text();
    say(`first page after a start, ${JOBS} jobs`, performance.now() - clock, 'ms', 1500);
    say('the same from the launch of the program', performance.now() - launched, 'ms', 5000);

    shop = await client(server);
    for (let i = 0; i < 5; i++) await shop.get('/jobs/1001');
    let csv = 'kind,name,watts,plugs,price\n';
    for (let i = 0; i < PARTS; i++) csv += `supply,Import supply ${i},${i % 1000},${i % 5},${i % 300}.50\n`;
    const begun = performance.now();
    const import_ = (await shop.send('/catalogue', [['file', new Blob([csv]), 'parts.csv']])).headers.get('location');
    await shop.send(import_, ['kind', 'name', 'watts', 'plugs', 'price'].map((column) => ['map', column]));
    const beside = [];
    while ((await shop.get(`${import_}?handler=Progress`)).includes('data-state="running"')) {
      const started = performance.now();
      await shop.get('/jobs/1001');
      beside.push(performance.now() - started);
    }
    say(`import of ${PARTS} parts, from file to kept`, performance.now() - begun, 'ms', 10_000);
    if (beside.length > 0) say('bench page while they come in, slowest', Math.max(...beside), 'ms', 200);
  } finally {
    await server.stop();
  }
}
