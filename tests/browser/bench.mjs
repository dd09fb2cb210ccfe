// Measures the bench page on a job of 40 trials: server time, first paint, bytes on the wire; the list with 5,000 jobs; an
// import of 20,000 parts; twenty benches at once, and the memory held after them. Run by ./kelvet bench.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { measureCrowd } from './bench.crowd.mjs';
import { measureShop } from './bench.shop.mjs';
import { acted, openPage, root, startBrowser, startServer } from './workshop.mjs';

const server = await startServer();
const p = (times, share) => times.sort((a, b) => a - b)[Math.min(times.length - 1, Math.floor(times.length * share))];
const say = (what, value, unit, most) => console.log(`${what.padEnd(52)}${value.toFixed(0).padStart(8)} ${unit.padEnd(4)} at most ${most}`);

try {
  const job = JSON.parse(readFileSync(join(root, 'src/Kelvet.Web/Demo/one-slot.json'), 'utf8'));
  const steps = [];
  for (let i = 0; i < 40; i++) steps.push({ kind: 'trial', changes: [i % 2 ? 'move stick-1 memory.A2' : 'move stick-1 memory.B1'], seen: i % 3 ? '4-5' : '6-8' });

  const importPage = await (await fetch(`${server.url}/jobs/import`)).text();
  const cookies = (await fetch(`${server.url}/jobs/import`)).headers.getSetCookie().map((c) => c.split(';')[0]).join('; ');
  const token = (html) => /__RequestVerificationToken" type="hidden" value="([^"]+)"/.exec(html)[1];
  const fresh = await (await fetch(`${server.url}/jobs/import`, { headers: { cookie: cookies } })).text();
  const file = /type="file"[^>]*name="([^"]+)"/.exec(importPage)?.[1] ?? /name="([^"]+)"[^>]*type="file"/.exec(importPage)[1];
  const bringIn = async (with_) => {
    const form = new FormData();
    form.set('__RequestVerificationToken', token(fresh));
    form.set(file, new Blob([JSON.stringify({ ...job, steps: with_ })], { type: 'application/json' }), 'job.json');
    return (await fetch(`${server.url}/jobs/import`, { method: 'POST', body: form, headers: { cookie: cookies }, redirect: 'manual' })).headers.get('location');
  };
  const path = await bringIn(steps);

  const get = async (at = path) => {
    const clock = performance.now();
    const html = await (await fetch(server.url + at, { headers: { cookie: cookies } })).text();
    return [performance.now() - clock, html];
  };
  for (let i = 0; i < 20; i++) await get();
  const pages = [];
  for (let i = 0; i < 100; i++) pages.push((await get())[0]);
  say('bench page, 40 trials, p95 of 100', p(pages, 0.95), 'ms', 200);
  say('bench page, 40 trials, median', p(pages, 0.5), 'ms', 200);

  const looked = [];
  for (const q of ['55', '5+short', '1-2-2-3', 'memory', 'cpu+memory']) {
    for (let i = 0; i < 25; i++) {
      const clock = performance.now();
      await (await fetch(`${server.url}/codes?q=${q}`)).text();
      if (i >= 5) looked.push(performance.now() - clock);
    }
  }
  say('search of the reference, page, p95 of 100', p(looked, 0.95), 'ms', 50);

  /** Records as many starts of a job, each told before how far it got; how long each answer took, and the page after it. */
  const record = async (at, starts) => {
    const [posts, shown] = [[], []];
    const press = async (handler, html) => {
      const body = new FormData();
      body.set('__RequestVerificationToken', token(html));
      await fetch(`${server.url}${at}?handler=${handler}`, { method: 'POST', body, headers: { cookie: cookies }, redirect: 'manual' });
    };
    for (let i = 0; i < starts; i++) {
      const [took, before] = await get(at);
      if (i > 0) shown.push(took);
      await press(i === 0 ? 'On' : 'Again', before);
      const html = (await get(at))[1];
      const body = new FormData();
      body.set('__RequestVerificationToken', token(html));
      body.set('stepId', crypto.randomUUID());
      body.set('lines', /name="lines" value="(\d+)"/.exec(html)[1]);
      body.set('seen', '4-5');
      const clock = performance.now();
      const answer = await fetch(server.url + at, { method: 'POST', body, headers: { cookie: cookies }, redirect: 'manual' });
      if (!answer.headers.get('location')?.includes('said=')) throw new Error(`The step was not taken: ${answer.status}`);
      posts.push(performance.now() - clock);
    }
    return [posts, shown];
  };
  const [first] = await record(await bringIn([]), 30);
  say('acknowledging a step, 1 to 30 trials, p95 of 30', p(first, 0.95), 'ms', 60);
  const [posts, shown] = await record(path, 50);
  say('acknowledging a step, 40 to 90 trials, p95 of 50', p(posts, 0.95), 'ms', 100);
  say('bench page right after a step, p95', p(shown, 0.95), 'ms', 200);

  const browser = await startBrowser();
  const page = await openPage(browser, server);
  await page.goto(path);
  const paints = [];
  let bytes = 0;
  for (let i = 0; i < 7; i++) {
    const fresh = await openPage(browser, server);
    const wire = await fresh.context().newCDPSession(fresh);
    await wire.send('Network.enable');
    bytes = 0;
    wire.on('Network.loadingFinished', (e) => { bytes += e.encodedDataLength; });
    await fresh.goto(path);
    await fresh.waitForTimeout(500);
    paints.push(await fresh.evaluate(() => performance.getEntriesByName('first-contentful-paint')[0].startTime));
    await fresh.context().close();
  }
  say('first contentful paint, nothing cached, median of 7', p(paints, 0.5), 'ms', 1000);
  say('transferred on the first load', bytes / 1000, 'kB', 300);

  // Two benches on the job: from the key at one until the other has the line.
  const other = await openPage(browser, server);
  await other.goto(path);
  const followed = [];
  for (let i = 0; i < 20; i++) {
    const lines = Number(await other.locator('.bench').getAttribute('data-lines'));
    while (!(await page.locator('.stage[data-key="6"]:not([disabled])').count())) await acted(page, 'g');
    const clock = performance.now();
    await page.keyboard.press('6');
    await other.waitForFunction((n) => Number(document.querySelector('.bench').dataset.lines) > n, lines);
    followed.push(performance.now() - clock);
    await page.waitForFunction((n) => Number(document.querySelector('.bench').dataset.lines) > n, lines);
  }
  say('a second bench follows a step, p95 of 20', p(followed, 0.95), 'ms', 1000);
  await browser.close();
} finally {
  await server.stop();
}
await measureCrowd(say, p);
await measureShop(say, p);
