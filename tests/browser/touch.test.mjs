// Whole jobs by fingers alone, on a phone and on a tablet: how often the glass is touched, and that nothing needs a keyboard.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { acted, drainFor, openPage, startBrowser, startServer } from './workshop.mjs';

let server, browser;
before(async () => {
  server = await startServer();
  browser = await startBrowser();
  const page = await openPage(browser, server);
  await drainFor(page, 5);
  await page.close();
});
after(async () => {
  await browser?.close();
  await server?.stop();
});

/** A finger: every tap is counted, and what it taps has to be in sight or to be scrolled to. */
function finger(page) {
  const counted = { taps: 0 };
  const tap = async (what) => {
    counted.taps++;
    await what.tap();
  };
  /** A tap on the bench, and what came of it. */
  const act = async (what) => {
    const before = await page.evaluate(() => [document.querySelector('.bench')?.dataset.answers ?? '0', performance.timeOrigin]);
    await tap(what);
    await page.waitForFunction(([answers, origin]) => performance.timeOrigin !== origin || (document.querySelector('.bench')?.dataset.answers ?? '0') !== answers, before);
    await page.waitForLoadState('domcontentloaded');
  };
  return Object.assign(counted, { tap, act });
}

/** The proposed step, through the gate, with what came of it. */
async function step(page, by, stage) {
  const start = by.taps;
  const look = () => page.locator('#record input[name=check]').count();
  if (await page.locator('#next-panel [data-key=n]').count()) await by.act(page.locator('#next-panel [data-key=n]'));
  for (let i = 0; i < 4; i++) {
    const gate = page.locator('.gate [data-key=g]');
    if (!(await gate.count())) break;
    await page.waitForFunction(() => !document.querySelector('.gate [data-key=g]')?.disabled);
    if (await gate.count()) await by.act(gate);
  }
  const key = (await look()) ? '0' : await stage();
  const button = page.locator(`#record [data-key="${key}"]`);
  await page.waitForFunction((k) => document.querySelector(`#record [data-key="${k}"]`)?.disabled === false, key);
  await by.act(button);
  return by.taps - start;
}

for (const [width, height] of [[390, 844], [1024, 768]]) test(`a job is taken in, worked and closed by fingers alone, at ${width}`, async (t) => {
  // A shop of its own: a spare that is lent to another job is not at hand.
  const shop = await startServer();
  t.after(() => shop.stop());
  const page = await openPage(browser, shop, { viewport: { width, height }, hasTouch: true, isMobile: width < 500 });
  await drainFor(page, 5);
  const by = finger(page);
  await page.goto('/who');
  await by.tap(page.getByRole('button', { name: 'Ada Fenn' }));
  await page.waitForURL((url) => url.pathname !== '/who');
  await page.goto('/jobs/new');
  await by.tap(page.locator('label.chip', { hasText: 'starts and cuts out' }));
  await by.tap(page.locator('#picture a[data-place="memory.B2"]'));
  await page.locator('#place-memory[open]').waitFor();
  assert.equal(await page.locator('[name="Form.Filled"][value="B2"]').isChecked(), false, 'a slot that is touched is emptied');
  await page.waitForFunction(() => document.querySelector('#place-memory .is').textContent.startsWith('1 ×'));
  await by.tap(page.locator('#open'));
  await page.waitForURL(/\/jobs\/\d+$/);
  const intake = by.taps;
  assert.match(await page.locator('#machine [data-place="memory.B2"]').getAttribute('aria-label'), /empty/);

  // The fault is the supply: whatever else is done it cuts out, and with another supply it runs.
  const supplyIn = async () => (await page.locator('#machine a[aria-label*="Supply: Power supply ("]').count()) > 0;
  const stage = async () => ((await supplyIn()) ? '2' : '6');
  const steps = [];
  while (!(await page.locator('.suspects .mark-condemned').count()) && steps.length < 25) steps.push(await step(page, by, stage));
  assert.match(await page.locator('.suspects .suspect').first().innerText(), /supply[\s\S]*condemned/i);
  const sorted = steps.toSorted((a, b) => a - b);
  assert.ok(sorted[Math.floor(sorted.length / 2)] <= 3, `median of ${steps} taps a step`);
  assert.ok(Math.max(...steps) <= 5, `${steps}`);

  const worked = by.taps;
  await by.tap(page.locator('.places').getByRole('link', { name: /Close/ }));
  await page.waitForURL(/close$/);
  assert.ok(await page.locator('input[name=found][value=supply]').isChecked());
  assert.match(await page.locator('#words').inputValue(), /The power supply was replaced by /, 'what the log says was done stands there already');
  await by.tap(page.getByRole('button', { name: 'Close the job' }));
  await page.waitForURL(/report$/);
  t.diagnostic(`${width}: taken in ${intake} taps, ${steps.length} steps ${worked - intake} (${steps}), closed ${by.taps - worked}`);
  assert.deepEqual(page.problems, []);
});

test('that it restarted after seven minutes is two taps, on the line of its time and on what it did', async () => {
  const page = await openPage(browser, server, { viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true });
  const by = finger(page);
  await page.goto('/jobs/1010');
  const gate = page.locator('.gate [data-key=g]');
  while (await gate.count()) {
    await page.waitForFunction(() => !document.querySelector('.gate [data-key=g]')?.disabled);
    if (await gate.count()) await by.act(gate);
  }
  await page.locator('#details > summary').tap();
  const before = by.taps;
  await by.tap(page.locator('.time-line [data-minute="7"]'));
  await by.act(page.locator('#details button[name=ended][value=Restarted]'));
  assert.equal(by.taps - before, 2);
  await page.goto('/jobs/1010/log');
  assert.match(await page.locator('.lying').innerText(), /it restarted by itself; after 7 min/i);
  assert.deepEqual(page.problems, []);
});

test('a start under load is begun at the bench: its time runs, and it says when it is broken off', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1008?kind=Load');
  const gate = page.locator('.gate [data-key=g]');
  while (await gate.count()) {
    await page.waitForFunction(() => !document.querySelector('.gate [data-key=g]')?.disabled);
    if (await gate.count()) await acted(page, 'g');
  }
  assert.match(await page.locator('#safety').innerText(), /Run\s+\d+:\d\d/);
  assert.match(await page.locator('#record-panel .overs').innerText(), /Stay with it, \d+ min\. Break it off at/);
  await page.goto('/jobs/1008/heat');
  assert.match(await page.locator('.run-strip').innerText(), /under way until[\s\S]*It held to the end/);
  assert.deepEqual(page.problems, []);
});

test('all starts stand in one band by their kind, on each of the three pages about them', async () => {
  const page = await openPage(browser, server);
  const bands = [];
  for (const place of ['proof', 'reproduce', 'heat']) {
    await page.goto(`/jobs/1003/${place}`);
    bands.push(await page.locator('.start-band').innerText());
    const { failed, passed } = await page.evaluate(() => ({ failed: document.querySelectorAll('.start-band .fail').length, passed: document.querySelectorAll('.start-band .pass').length }));
    assert.match(bands.at(-1), new RegExp(`${failed} of ${failed + passed} failed`));
    assert.ok(failed > 0 && passed > 0);
  }
  assert.equal(new Set(bands).size, 1);
  assert.doesNotMatch(await page.locator('main').innerText(), /works here/i, 'what failed here does not work here');
  assert.deepEqual(page.problems, []);
});
