// The grid of sticks and slots: by keyboard alone, and without scrolling for eight slots.
import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { after, before, test } from 'node:test';
import { acted, openPage, root, startBrowser, startServer } from './workshop.mjs';

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
  assert.match(await page.locator('#grid .is-best').innerText(), /failed 1 alone/);
  await page.waitForFunction(() => document.activeElement?.closest('.is-best'));
  await page.keyboard.press('ArrowUp');
  await page.waitForFunction(() => /Orrin 8 GB DDR4 second alone in A2: untried/.test(document.activeElement?.getAttribute('aria-label') ?? ''));
  await page.keyboard.press('Enter');
  await page.waitForURL(/do=/);
  assert.match(await page.locator('#h-next').innerText(), /A2|Take the power off|Power off/i);
  await page.goto('/jobs/1008');
  await page.keyboard.press(',');
  await page.waitForURL(/memory$/);
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

test('pairs, ladder and figures of the sticks: kept as a line of the log, filled in from what a tool prints', async () => {
  const page = await openPage(browser, server);
  const job = JSON.parse(readFileSync(join(root, 'src/Kelvet.Web/Demo/one-slot.json'), 'utf8'));
  job.steps = [{ kind: 'trial', seen: '4-5' }];
  const path = await open(page, job);
  await page.goto(`${path}/memory`);
  assert.equal(await page.locator('#pairs tbody td').count(), 9);
  // Nothing held yet: the profile off comes first.
  assert.match(await page.locator('.ladder .button.main').innerText(), /Clear\s*: Profile off, 2400 MT\/s/);
  assert.match(await page.locator('.ladder').innerText(), /200 MT\/s below, 3000 MT\/s/);
  assert.match(await page.locator('#h-runs + p').innerText(), /16 GB on channels A and B, at 3200 MT\/s/);
  await page.locator('.memory-facts > summary').click();
  await page.locator('input[name="sticks[0].Profile"]').fill('3600');
  await page.locator('input[name="board.Revision"]').fill('1.2');
  await page.getByRole('button', { name: 'Keep' }).click();
  await page.waitForLoadState();
  assert.deepEqual(await page.locator('[role=alert]').allInnerTexts(), []);
  assert.match(await page.locator('main').innerText(), /Sticks of different speeds: all run as the slowest/);
  await page.locator('.memory-facts > summary').click();
  await page.locator('.memory-facts details summary').click();
  await page.locator('#listing').fill('Handle 0x0011, DMI type 17, 40 bytes\nMemory Device\n\tSize: 16 GB\n\tLocator: DIMM_A2\n\tType: DDR4\n\tSpeed: 2666 MT/s\n\tPart Number: XX-16\n\tConfigured Memory Speed: 3400 MT/s\n');
  await page.getByRole('button', { name: 'Fill in' }).click();
  assert.match(await page.locator('.memory-facts .note').innerText(), /1 of 1 sticks filled in from dmidecode/);
  assert.equal(await page.locator('input[name="sticks[0].Speed"]').inputValue(), '2666');
  assert.equal(await page.locator('input[name="sticks[0].Profile"]').inputValue(), '3400');
  await page.goto(`${path}/log`);
  assert.match(await page.locator('main').innerText(), /What is known of memory and firmware/);
  assert.deepEqual(page.problems, []);
});

test('a procedure opens beside the machine and is ticked off there', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1007?do=clear-cmos');
  await page.getByRole('link', { name: 'How' }).click();
  await page.locator('#how[open] input[type=checkbox]').first().waitFor();
  assert.ok(await page.locator('#machine').isVisible());
  await page.keyboard.press('Escape');
  assert.equal(await page.locator('#how[open]').count(), 0);
  await page.getByRole('link', { name: 'How' }).click();
  for (const n of [1, 2, 3, 4, 5, 6]) await page.locator(`#how input[name=done][value="${n}"]`).check();
  await page.locator('#how').getByRole('button', { name: 'Carried out as ticked' }).click();
  await page.waitForURL(/\/jobs\/1007\?do=clear-cmos/);
  await page.goto('/jobs/1007/log');
  assert.match(await page.locator('main').innerText(), /Procedure: clear the settings/);
  await page.goto('/shop#minutes');
  assert.match(await page.locator('#minutes').innerText(), /Clear the settings[\s\S]*from 3 on/);
  assert.deepEqual(page.problems, []);
});

test('what a test program ran and counted stands in the log with what it means', async () => {
  const page = await openPage(browser, server);
  const job = JSON.parse(readFileSync(join(root, 'src/Kelvet.Web/Demo/one-slot.json'), 'utf8'));
  job.steps = [{ kind: 'trial', changes: ['remove stick-2'], seen: '7' }];
  const path = await open(page, job);
  await page.goto(`${path}?check=test-memory&checked=stick-1`);
  await page.locator('#test-run summary').click();
  await page.locator('input[name=passes]').fill('4');
  await page.locator('input[name=errors]').fill('3');
  await page.locator('input[name=addresses]').fill('0x1A2B3C000');
  await page.locator('#record [data-key="0"]').click();
  assert.match(await page.locator('[role=alert]').innerText(), /It counted 3 errors: that is a finding/);
  // What was typed is still there.
  if (!(await page.locator('input[name=errors]').isVisible())) await page.locator('#test-run summary').click();
  assert.equal(await page.locator('input[name=passes]').inputValue(), '4');
  await page.locator('input[name=errors]').fill('0');
  await page.locator('input[name=addresses]').fill('');
  await acted(page, () => page.locator('#record [data-key="0"]').click());
  await page.goto(`${path}/log`);
  assert.match(await page.locator('main').innerText(), /nothing found \(4 passes, 0 errors\)\. No errors in 4 passes: a fault that shows in every other pass is missed so in 6% of cases, one in 5 passes in 41%/);
});

test('a support list takes the place of the old one, whole or not at all', async () => {
  const page = await openPage(browser, server);
  await page.goto('/catalogue/support');
  assert.match(await page.locator('main').innerText(), /Ondel B40-M/);
  const bring = async (text) => {
    await page.setInputFiles('input[type=file]', { name: 'list.csv', mimeType: 'text/csv', buffer: Buffer.from(text) });
    await page.getByRole('button', { name: 'Bring it in' }).click();
  };
  await bring('board,revision,cpu,firmware\nX,,Y,1\n,,Y,2\n');
  assert.match(await page.locator('main').innerText(), /Line 3: board: it is empty/);
  assert.match(await page.locator('main').innerText(), /Ondel B40-M/);
  await bring('board,revision,cpu,firmware\nNew board,1.0,New CPU,7\n');
  await page.waitForFunction(() => /New board/.test(document.querySelector('main').innerText));
  assert.doesNotMatch(await page.locator('main').innerText(), /Ondel B40-M/);
});

test('a step opens its procedure, and what is not ticked is kept in the put-back list', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1008?do=clear-cmos');
  await page.goto(await page.getByRole('link', { name: 'How' }).getAttribute('href'));
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
