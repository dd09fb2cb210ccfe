// The grid of sticks and slots: by keyboard alone, and without scrolling for eight slots.
import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { after, before, test } from 'node:test';
import { openPage, root, startBrowser, startServer } from './workshop.mjs';

let server, browser;
before(async () => {
  server = await startServer();
  browser = await startBrowser();
});
after(async () => {
  await browser?.close();
  await server?.stop();
});

async function open(page, job) {
  await page.goto('/jobs/import');
  await page.setInputFiles('input[type=file]', { name: 'job.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(job)) });
  await page.locator('form[enctype] button').click();
  await page.waitForURL(/\/jobs\/\d+$/);
  return new URL(page.url()).pathname;
}

test('a cell is walked to and taken by keys, and becomes the next step on the bench', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1008/memory');
  assert.match(await page.locator('.is-best').innerText(), /failed 1 alone/);
  await page.waitForFunction(() => document.activeElement?.closest('.is-best'));
  await page.keyboard.press('ArrowUp');
  await page.waitForFunction(() => /Orrin 8 GB DDR4 second alone in A2: untried/.test(document.activeElement?.getAttribute('aria-label') ?? ''));
  await page.keyboard.press('Enter');
  await page.waitForURL(/do=/);
  assert.match(await page.locator('#h-next').innerText(), /A2|Take the power off|Power off/i);
  await page.goto('/jobs/1008/memory');
  await page.keyboard.press('n');
  await page.waitForURL(/do=/);
  assert.deepEqual(page.problems, []);
});

test('eight slots and eight sticks stand in the window at 1280 by 800', async () => {
  const page = await openPage(browser, server);
  const job = JSON.parse(readFileSync(join(root, 'src/Kelvet.Web/Demo/one-slot.json'), 'utf8'));
  const names = [...'ABCD'].flatMap((c) => [`${c}1`, `${c}2`]);
  const board = job.units.find((u) => u.kind === 'motherboard');
  board.slots = names.map((name) => ({ name, channel: name[0] }));
  job.units = job.units.filter((u) => u.kind !== 'memory-stick');
  for (const place of Object.keys(job.fitted)) if (place.startsWith('memory.')) delete job.fitted[place];
  for (const name of names.slice(0, 6)) {
    job.units.push({ id: `stick-${name.toLowerCase()}`, kind: 'memory-stick', name: `Orrin 8 GB DDR4 ${name}`, memory: 'DDR4', gb: 8 });
    job.fitted[`memory.${name}`] = `stick-${name.toLowerCase()}`;
  }
  job.steps = [];
  const path = await open(page, job);
  await page.goto(`${path}/memory`);
  assert.equal(await page.locator('#grid tbody td').count(), 48);
  const fits = await page.evaluate(() => {
    const r = document.getElementById('grid').getBoundingClientRect();
    return r.right <= innerWidth && r.bottom <= innerHeight;
  });
  assert.ok(fits);
  assert.deepEqual(page.problems, []);
});

test('the grid goes out as a file', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1008/memory');
  const text = await page.evaluate(async () => (await fetch('/jobs/1008/memory?handler=Export')).text());
  assert.match(text, /^stick,mark,slot,channel,passed alone,failed alone/);
  assert.equal(text.trim().split('\n').length, 13);
});

test('a step opens its procedure, and what is not ticked is kept in the put-back list', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1008?do=clear-cmos');
  await page.getByRole('link', { name: 'How' }).click();
  await page.waitForURL(/how\/clear-settings/);
  assert.match(await page.locator('.how-steps').innerText(), /swallowed, it is an emergency/);
  await page.getByRole('button', { name: '20 s' }).click();
  await page.waitForFunction(() => /^1\d s$/.test(document.querySelector('[data-seconds="20"]').textContent.trim()));
  await page.getByRole('button', { name: 'Carried out as ticked' }).click();
  assert.match(await page.locator('[role=alert]').innerText(), /Tick what was done/);
  for (const n of [1, 2, 3, 4, 6]) await page.locator(`input[name=done][value="${n}"]`).check();
  await page.getByRole('button', { name: 'Carried out as ticked' }).click();
  await page.waitForURL(/\/jobs\/1008\?do=clear-cmos/);
  await page.locator('.put-back summary').click();
  assert.match(await page.locator('.put-back').innerText(), /Put the clear jumper back[\s\S]*Set date, boot order and memory profile/);
  await page.goto('/jobs/1008/log');
  assert.match(await page.locator('main').innerText(), /Procedure: clear the settings[\s\S]*Not done: Jumper back where it was/);
  assert.deepEqual(page.problems, []);
});
