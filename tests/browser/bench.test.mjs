// The bench, live: worked by keyboard and by touch, on two screens at once, through reloads, crashes and long jobs.
import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { after, before, test } from 'node:test';
import { acted, drainFor, openPage, root, start, startBrowser, startServer } from './workshop.mjs';

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

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');
const demo = (file) => JSON.parse(readFileSync(join(root, 'src/Kelvet.Web/Demo', file), 'utf8'));

/** Imports a job and opens its bench. */
async function open(page, job) {
  await page.goto('/jobs/import');
  await page.locator('input[type=file]').setInputFiles({ name: 'job.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(job)) });
  await page.getByRole('button', { name: /Import/ }).click();
  await page.waitForURL(/\/jobs\/\d+$/);
}

/** By keyboard alone: to the drawn machine, along it to a part, and to what is done to it. */
async function doTo(page, part, act) {
  await page.keyboard.press('m');
  await tab(page, part);
  await acted(page, 'Enter');
  await page.waitForFunction(() => document.activeElement?.matches('#pick a.chip'));
  if (!act.test(await focused(page))) await tab(page, act);
  await acted(page, 'Enter');
}

const focused = (page) => page.evaluate(() => document.activeElement.getAttribute('aria-label') ?? document.activeElement.innerText ?? '');

async function tab(page, wanted) {
  for (let i = 0; i < 60; i++) {
    if (wanted.test(await focused(page))) return;
    await page.keyboard.press('Tab');
  }
  assert.fail(`Tab never came to ${wanted}`);
}

test('the story of the slot that stays black, by keyboard alone', async () => {
  const page = await openPage(browser, server);
  await open(page, { ...demo('one-slot.json'), steps: [] });
  await start(page, '9');
  await acted(page, 'c');
  await start(page, '9');
  await doTo(page, /Brask R60/, /Swap Brask R60 6 GB for Quillon/);
  await start(page, '9');
  await doTo(page, /B2, .*Orrin 8 GB DDR4 second/, /Take out/);
  await start(page, '9');
  await doTo(page, /A2, .*Orrin/, /Move .* slot B2/);
  await start(page, '6');
  await doTo(page, /B2, .*Orrin/, /Swap Orrin 8 GB DDR4 for Orrin 8 GB DDR4 second/);
  await start(page, '6');
  await doTo(page, /B2, .*Orrin/, /Take out/);
  await doTo(page, /Quillon 8 GB/, /memory slot A2/);
  assert.match(await page.locator('.record .overs').innerText(), /2 changes at once/);
  await start(page, '9');
  await doTo(page, /A2, .*Quillon/, /slot B2/);
  await start(page, '6');

  const suspects = await page.locator('#suspects-panel').innerText();
  assert.match(suspects, /The board[\s\S]*suspect[\s\S]*likely/);
  assert.doesNotMatch(suspects, /\d %/, 'figures are behind a key');
  await page.keyboard.press('q');
  assert.match(await page.locator('.sheet-of-why').innerText(), /To tell: .*swap Tarn C5-640 for/);
  await page.keyboard.press('Escape');
  assert.equal(await page.locator('[data-column]').count(), 8);
  assert.match(await page.locator('.put-back').textContent(), /As received: \d places differ/);
  assert.notEqual(await page.evaluate(() => document.activeElement.tagName), 'BODY', 'the focus is somewhere');
  assert.deepEqual(page.problems, []);
});

test('the gate, the state strip and the early call', async () => {
  const page = await openPage(browser, server);
  await open(page, { ...demo('one-slot.json'), steps: [] });
  const strip = page.locator('.safety .state');
  assert.match(await strip.innerText(), /treat as live/i);
  await acted(page, 'c');
  assert.equal(await page.locator('.stages').count(), 0, 'no stage can be recorded before the gate');
  await acted(page, 'g');
  assert.match(await strip.innerText(), /Draining\s+\d+ s\s+hands off/i);
  assert.ok(await page.locator('.gate .button').isDisabled());
  await page.waitForFunction(() => document.querySelector('.safety .state').textContent.includes('safe to touch'));
  assert.match(await strip.innerText(), /^Safe/i);
  await acted(page, 'g');
  assert.match(await strip.innerText(), /Live\s+hands out/i);

  // "No picture" after two seconds is questioned once, and recorded when it is meant.
  await page.keyboard.press('4');
  assert.match(await page.locator('.early').innerText(), /Only \d+ s so far/);
  await page.waitForFunction(() => document.getElementById('announce').textContent.includes('can take minutes'));
  await acted(page, '4');
  assert.match(await page.locator('#record-panel [role=status]').innerText(), /Recorded as start 1/);
  await page.waitForFunction(() => /Recorded as start 1[\s\S]*Next: /.test(document.getElementById('announce').textContent));
  assert.deepEqual(page.problems, []);
});

test('after "4 or 5" the power button is asked for, and its answer corrects the line', async () => {
  const page = await openPage(browser, server);
  await open(page, { ...demo('one-slot.json'), steps: [] });
  await start(page, '9');
  assert.match(await page.locator('.ask').innerText(), /press the power button once/);
  await page.locator('#record [name=note]').fill('for the next start');
  await page.keyboard.press('Escape');
  await acted(page, '1');
  assert.equal(await page.locator('#record [name=note]').inputValue(), 'for the next start', 'the answer is no line of what is being written');
  assert.equal(await page.locator('.ask').count(), 0);
  assert.match(await page.locator('[data-column="1"]').getAttribute('aria-label'), /Start 1, corrected: as received → POST, no picture/i);
  assert.deepEqual(page.problems, []);
});

test('axe finds nothing in the states of the gate and with the menus open', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1009?do=clear-cmos');
  const check = async (state) => {
    await page.evaluate(axe);
    const found = await page.evaluate(() => globalThis.axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'] }));
    assert.deepEqual(found.violations.map((v) => `${state} ${v.id}: ${v.nodes[0].target}`), []);
  };
  await acted(page, 'g');
  await check('draining');
  await page.waitForFunction(() => !document.querySelector('.gate [data-key=g]').disabled);
  await check('drained');
  await acted(page, 'g');
  await page.keyboard.press('i');
  await check('details');
  await page.locator('.safety summary', { hasText: 'Timers' }).click();
  await check('timers');
});

test('what a look found, how a start came about and what it did then are recorded as said', async () => {
  const page = await openPage(browser, server);
  await open(page, { ...demo('one-slot.json'), goal: 'stable', steps: [] });
  const job = new URL(page.url()).pathname;
  await page.goto(`${job}?check=look-plugs&checked=supply`);
  if (await page.locator('.gate [data-key=g]').count()) await acted(page, 'g');
  await page.waitForFunction(() => document.querySelector('#record [data-key="2"]')?.disabled === false);
  assert.match(await page.locator('#record [role=group]').innerText(), /nothing found[\s\S]*main plug is half seated[\s\S]*CPU power plug is out[\s\S]*rear switch is off/);
  await acted(page, '2');
  assert.match(await page.locator('#record-panel [role=status]').innerText(), /Recorded as line 1/);

  await page.goto(`${job}?kind=Wake`);
  assert.match(await page.locator('#record .pending').innerText(), /Wake from sleep/);
  while (await page.locator('.gate [data-key=g]').count()) {
    await page.waitForFunction(() => !document.querySelector('.gate [data-key=g]')?.disabled);
    await acted(page, 'g');
  }
  await page.locator('#details summary').click();
  await page.selectOption('[name="signs.ended"]', 'Off');
  await page.fill('[name="signs.minutes"]', '12');
  await page.fill('[name="signs.watts"]', '61.5');
  await page.selectOption('[name="signs.clockWrong"]', 'true');
  await acted(page, () => page.locator('.stages [data-key="7"]').click());
  const said = await page.locator('#record-panel [role=status]').innerText();
  assert.match(said, /Recorded as start 1/);
  await page.goto(`${job}/log`);
  assert.match(await page.locator('#line-1').innerText(), /the CPU power plug is out/);
  assert.match(await page.locator('#line-2').innerText(), /Wake from sleep: [\s\S]*it went off; after 12 min; date and time wrong; 61.5 W at the wall/);
  assert.deepEqual(page.problems, []);
});

test('what is listed at intake is looked for by itself, and "k of n" must be possible', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/new');
  await page.fill('#title', 'Riser machine');
  await page.locator('#place-small summary').click();
  await page.getByLabel('riser', { exact: true }).check();
  await page.getByLabel('coin cell', { exact: true }).check();
  await page.getByLabel('fans run, no picture').check();
  await page.fill('#failed', '5');
  await page.fill('[name="Form.OfTimes"]', '2');
  await page.locator('#open').click();
  assert.match(await page.locator('[role=alert]').innerText(), /how often it failed of how many starts/);
  await page.fill('[name="Form.OfTimes"]', '8');
  await page.locator('#open').click();
  await page.waitForURL(/\/jobs\/\d+/);
  assert.match(await page.locator('#machine').textContent(), /Coin cell[\s\S]*Riser/);
  assert.deepEqual(page.problems, []);
});

test('what tripped a breaker is not powered with its supply in', async () => {
  const page = await openPage(browser, server);
  await open(page, { ...demo('cuts-out.json'), contexts: ['tripped-breaker'], steps: [] });
  assert.match(await page.locator('.record [role=alert]').innerText(), /tripped a breaker: it is not powered again/);
  assert.equal(await page.locator('.stages, .gate').count(), 0);
  await doTo(page, /^supply/, /Swap Velm 450 W for Brask/);
  await start(page, '6');
  assert.match(await page.locator('#record-panel [role=status]').innerText(), /Recorded as start 1/);
});

test('a timer survives a reload', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1007');
  await page.locator('.safety summary', { hasText: 'Timers' }).click();
  await acted(page, () => page.getByRole('button', { name: /CMOS pins/ }).click());
  const left = async () => Number((await page.locator('.timer[data-name="CMOS pins"] .left').innerText()).match(/\d+/)[0]);
  const first = await left();
  assert.ok(first > 15 && first <= 20, `${first}`);
  await page.waitForTimeout(2500);
  await page.reload();
  const second = await left();
  assert.ok(second <= first - 2 && second > first - 6, `${first}, then ${second}`);
});

test('two benches on one job: the second follows, and a step against an older state is offered for review', async () => {
  const [one, two] = [await openPage(browser, server), await openPage(browser, server)];
  await one.goto('/jobs/1004');
  await two.goto('/jobs/1004');
  const columns = await two.locator('[data-column]').count();
  await acted(two, 'c');
  await two.locator('input[name=note]').fill('half written');
  await acted(one, 'g');
  await acted(one, '6');
  await two.waitForFunction((n) => document.querySelectorAll('[data-column]').length === n, columns + 1);
  assert.equal(await two.locator('input[name=note]').inputValue(), 'half written');
  assert.match(await two.locator('.stale').innerText(), /recorded from another bench/);
  await acted(two, () => two.getByRole('button', { name: 'Not started' }).click());
  assert.match(await two.locator('.record [role=alert]').innerText(), /recorded from another bench. Your changes are kept/);
  assert.match(await two.locator('.pending').textContent(), /Clear CMOS/i);
  assert.equal(await two.locator('input[name=note]').inputValue(), 'half written');

  // It was not off: that is refused as well, and goes through once the machine is off and drained.
  await acted(two, () => two.getByRole('button', { name: 'Not started' }).first().click());
  assert.match(await two.locator('.record [role=alert]').innerText(), /Hands go in first/);
  await two.keyboard.press('Escape');
  await acted(two, 'g');
  await two.waitForFunction(() => document.querySelector('.safety .state').textContent.includes('safe to touch'));
  assert.equal(await two.locator('input[name=note]').inputValue(), 'half written');
  await acted(two, () => two.getByRole('button', { name: 'Not started' }).first().click());
  assert.match(await two.locator('#record-panel [role=status]').innerText(), /Recorded as line/);
  assert.equal(await two.locator('input[name=note]').inputValue(), '');
  assert.deepEqual([...one.problems, ...two.problems], []);
});

test('by touch: two taps move a stick, and a drag swaps a card', async () => {
  const page = await openPage(browser, server, { hasTouch: true });
  await open(page, { ...demo('one-slot.json'), steps: [] });
  await acted(page, () => page.locator('#machine [data-place="memory.A2"]').tap());
  await acted(page, () => page.locator('#machine .target[data-place="memory.A1"]').tap());
  assert.match(await page.locator('.pending').textContent(), /Move Orrin 8 GB DDR4 to memory slot A1/i);

  const drag = async (from, to) => {
    const [a, b] = [await page.locator(from).first().boundingBox(), await page.locator(to).first().boundingBox()];
    await page.mouse.move(a.x + a.width / 2, a.y + a.height / 2);
    await page.mouse.down();
    await page.mouse.move(b.x + b.width / 2, b.y + b.height / 2, { steps: 6 });
    await acted(page, () => page.mouse.up());
  };
  await drag('[data-unit="shelf-card"]', '#machine [data-place="card.1"]');
  assert.match(await page.locator('.pending').textContent(), /Swap Brask R60 6 GB for Quillon G2/i);

  // Impossible drops are refused with the reason.
  await drag('#machine [data-place="memory.B2"]', '#machine [data-place="cpu"]');
  assert.match(await page.locator('.record [role=alert]').innerText(), /Not possible: .*does not go into/);
  assert.deepEqual(page.problems, []);
});

test('two columns are compared, and back goes back', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1008');
  await acted(page, () => page.locator('[data-column="7"]').click());
  await acted(page, () => page.locator('[data-column="8"]').click());
  assert.match(await page.locator('#compare').innerText(), /memory slot A2: Quillon 8 GB DDR4 \(shelf\) → empty/);
  await acted(page, () => page.goBack());
  assert.match(await page.locator('#compare').innerText(), /choose a second column/i);
});

test('a photo is kept with its line, without what the camera wrote, and what is no photo is refused', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1006');
  const shot = await page.screenshot({ type: 'jpeg' });
  // An Exif block as cameras write it, with words in it that must not be kept.
  const exif = Buffer.from('Exif\0\0II*\0\x08\0\0\0\0\0SECRET-PLACE', 'latin1');
  const tagged = Buffer.concat([shot.subarray(0, 2), Buffer.from([0xff, 0xe1, (exif.length + 2) >> 8, (exif.length + 2) & 255]), exif, shot.subarray(2)]);
  await acted(page, 'g');
  const record = async (name, buffer) => {
    await page.keyboard.press('i');
    await page.locator('#record [name=photo]').setInputFiles({ name, mimeType: 'image/jpeg', buffer });
    await page.getByLabel('CPU, °C').fill('55.5');
    await page.locator('.seen-where [data-say="tap-code"]').click();
    await page.getByLabel('Code', { exact: true }).fill('4F');
    await page.keyboard.press('Escape');
    await acted(page, () => page.locator('.stage[data-key="3"]').click());
  };
  await record('broken.jpg', Buffer.from('not a picture'));
  assert.match(await page.locator('.record [role=alert]').innerText(), /not a PNG, JPEG or WebP picture/);
  assert.deepEqual(await page.evaluate(() => ['signs.code', 'signs.temperature', 'photo'].map((name) => document.getElementById('record').elements[name].value)), ['4F', '55.5', ''], 'what was typed stays, what cannot be used does not');
  await record('board.jpg', tagged);
  assert.match(await page.locator('#record-panel [role=status]').innerText(), /Recorded/);
  await page.goto('/jobs/1006/log');
  const line = page.locator('tr, li').filter({ has: page.locator('img') }).last();
  assert.match(await line.innerText(), /code 4F; CPU 55.5 °C/);
  const source = await line.locator('img').getAttribute('src');
  const kept = Buffer.from(await (await fetch(server.url + source)).arrayBuffer());
  assert.equal(kept.subarray(0, 2).toString('hex'), 'ffd8');
  assert.ok(!kept.toString('latin1').includes('SECRET-PLACE') && !kept.toString('latin1').includes('Exif'));
});

test('the server dies between two steps and nothing is lost', async () => {
  const mine = await startServer();
  let back;
  try {
    const page = await openPage(browser, mine);
    await page.goto('/jobs/1005');
    await start(page, '2');
    await acted(page, 'g');
    const trials = async () => Number((await page.locator('#h-climb').innerText()).match(/\d+/)[0]);
    const before = await trials();
    await mine.kill();
    await page.locator('input[name=note]').fill('written while it was away');
    await page.locator('.stage[data-key="3"]').click();
    await page.locator('#away').waitFor();
    assert.match(await page.locator('#away').innerText(), /Nothing is lost/);
    back = await startServer({ folder: mine.folder, port: mine.port, demo: false });
    await acted(page, () => page.locator('.stage[data-key="3"]').click());
    assert.equal(await trials(), before + 1);
    await page.goto('/jobs/1005/log');
    assert.match(await page.locator('main').innerText(), /written while it was away/);
  } finally {
    await (back ?? mine).stop();
  }
});

test('what is too large, refused or lost on the way is told beside the form, and what was typed stays', async () => {
  const page = await openPage(browser, server);
  await open(page, { ...demo('now-and-then.json'), steps: [] });
  const bench = page.url();
  await acted(page, 'g');
  const note = page.locator('#record [name=note]');
  const stage = page.locator('.stage[data-key="2"]');
  const told = async (words) => {
    await page.locator('#away', { hasText: words }).waitFor();
    assert.equal(await note.inputValue(), 'a burr on the slot');
    assert.equal(page.url(), bench, 'nothing was loaded anew');
    assert.equal(await page.locator('[data-column]').count(), 0);
  };
  await note.fill('a burr on the slot');

  // 13 MB: told before anything is sent, with the limit in force.
  let sent = 0;
  page.on('request', (r) => (sent += r.method() === 'POST' ? 1 : 0));
  await page.keyboard.press('Escape');
  await page.locator('#details > summary').click();
  await page.locator('#record [name=photo]').setInputFiles({ name: 'large.jpg', mimeType: 'image/jpeg', buffer: Buffer.alloc(13_000_000) });
  await stage.click();
  await told(/large\.jpg has 13\.0 MB; [\d.]+ MB is the most/);
  assert.equal(sent, 0);
  await page.locator('#record [name=photo]').setInputFiles([]);

  // An answer that is not ok, and none at all.
  for (const [answer, words] of [
    [(route) => route.fulfill({ status: 413, contentType: 'text/html', body: '<main id="main"><h1>Too large</h1><p>12 MB is the most.</p></main>' }), /Too large: 12 MB is the most/],
    [(route) => route.fulfill({ status: 500, contentType: 'text/html', body: '<main id="main"><h1>Something failed</h1><p>Its id is 7.</p></main>' }), /Something failed: Its id is 7/],
    [(route) => route.abort('connectionreset'), /does not answer.*Nothing is lost/],
  ]) {
    await page.route('**/jobs/*', answer);
    await stage.click();
    await told(words);
    await page.unroute('**/jobs/*');
  }

  // Sent again under the same id, it is recorded once.
  await acted(page, () => stage.click());
  assert.equal(await page.locator('[data-column]').count(), 1);
  assert.equal(await page.locator('#away').count(), 0);
  await page.goto(`${bench}/log`);
  assert.match(await page.locator('main').innerText(), /a burr on the slot/);
});

test('an answer that is lost on its way back is not recorded twice', async () => {
  const page = await openPage(browser, server);
  await open(page, { ...demo('now-and-then.json'), steps: [] });
  await acted(page, 'g');
  // Only what is sent: a refresh by the clock may come in between.
  let lost = false;
  await page.route('**/jobs/*', async (route) => {
    if (lost || route.request().method() !== 'POST') return route.fallback();
    lost = true;
    await route.fetch();
    await route.abort('connectionreset');
  });
  await page.keyboard.press('2');
  await page.locator('#away').waitFor();
  await acted(page, '2');
  await page.reload();
  assert.equal(await page.locator('[data-column]').count(), 1);
});

/** A promise that the test keeps when it wants to. */
function promised() {
  let resolve;
  // What never comes fails the test instead of holding it up.
  const promise = new Promise((keep, give) => {
    const late = setTimeout(() => give(new Error('It never came.')), 60_000);
    resolve = (value) => { clearTimeout(late); keep(value); };
  });
  promise.catch(() => {});
  return { promise, resolve };
}

test('what comes late does not take the place of what is newer, and a refresh overtakes nothing that is being sent', async () => {
  const page = await openPage(browser, server);
  await open(page, { ...demo('now-and-then.json'), steps: [] });
  const refresh = (quiet) => page.evaluate((q) => import('/js/bench/live.js').then((live) => live.load(live.here(), { push: false, quiet: q })), quiet);
  const id = () => page.locator('#record input[name=stepId]').inputValue();
  await acted(page, 'g');
  const before = await id();
  await refresh(false);
  assert.equal(await id(), before, 'a line that may have been sent keeps its id');
  // The request is on its way when a refresh by the clock is due.
  const sent = promised();
  const letGo = promised();
  await page.route('**/jobs/*', async (route) => {
    if (route.request().method() !== 'POST') return route.fallback();
    sent.resolve();
    await letGo.promise;
    await route.continue();
  });
  await page.keyboard.press('2');
  await sent.promise;
  await refresh(true);
  letGo.resolve();
  await page.locator('[data-column]').waitFor();
  // Two picks in a row, of which the first is answered last.
  const path = new URL(page.url()).pathname;
  const answer = promised();
  await page.route('**/*pick=board*', async (route) => {
    const response = await route.fetch();
    await answer.promise;
    await route.fulfill({ response });
  });
  await page.evaluate((at) => import('/js/bench/live.js').then((live) => { live.load(`${at}?pick=board`); live.load(`${at}?pick=supply`); }), path);
  await page.waitForURL(/pick=supply/);
  answer.resolve();
  await page.waitForTimeout(300);
  assert.match(page.url(), /pick=supply/);
  assert.deepEqual(page.problems, []);
});

test('after a stage the keys rest until a start is told; undo takes it back; after a note the keys are the bench\'s again', async () => {
  const page = await openPage(browser, server);
  await open(page, { ...demo('now-and-then.json'), steps: [] });
  await acted(page, 'g');
  await acted(page, '8');
  for (let i = 0; i < 6; i++) await page.keyboard.press('8');
  await page.waitForTimeout(300);
  await page.reload();
  assert.equal(await page.locator('[data-column]').count(), 1, 'six more keys are no starts');
  await acted(page, 'u');
  assert.equal(await page.locator('[data-column]').count(), 0);
  assert.equal(await page.locator('.stage[data-key="8"]').isEnabled(), true, 'the start waits to be told anew');
  await acted(page, '7');
  await acted(page, 'g');
  await page.keyboard.press('w');
  await page.keyboard.type('hot to the touch');
  await acted(page, () => page.locator('#record').getByRole('button', { name: 'Not started' }).click());
  assert.equal(await page.evaluate(() => document.activeElement.matches('input, textarea, select')), false);
  await acted(page, '8');
  assert.equal(await page.locator('[data-column]').count(), 2);
  assert.deepEqual(page.problems, []);
});

test('sixty trials: the newest is in view and the page holds', async () => {
  const page = await openPage(browser, server);
  const job = demo('one-slot.json');
  const steps = [];
  for (let i = 0; i < 60; i++) steps.push({ kind: 'trial', changes: i % 2 ? ['move stick-1 memory.A2'] : ['move stick-1 memory.B1'], seen: i % 3 ? '4-5' : '6-8' });
  await open(page, { ...job, steps });
  assert.equal(await page.locator('[data-column]').count(), 60);
  const inView = await page.evaluate(() => {
    const box = document.querySelector('[data-column="60"]').getBoundingClientRect();
    const frame = document.getElementById('climb').getBoundingClientRect();
    return box.right <= frame.right + 1 && box.left >= frame.left;
  });
  assert.ok(inView, 'the newest column is in view');
  assert.ok(await page.evaluate(() => document.documentElement.scrollHeight <= innerHeight));
});

test('nothing shifts when live parts refresh', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1003');
  await page.evaluate(async () => {
    // The faces arrive with the page; only what moves afterwards is the refresh's doing.
    await Promise.all([...document.fonts].map((face) => face.load()));
    await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
    window.shifts = [];
    new PerformanceObserver((list) => list.getEntries().forEach((e) => {
      window.shifts.push([e.value, ...e.sources.map((s) => [s.node?.outerHTML?.slice(0, 90) ?? s.node?.textContent, JSON.stringify(s.previousRect), JSON.stringify(s.currentRect)].join(' '))]);
    })).observe({ type: 'layout-shift', buffered: false });
  });
  const other = await openPage(browser, server);
  await other.goto('/jobs/1003');
  await acted(other, 'g');
  await acted(other, '7');
  await page.waitForFunction(() => Number(document.querySelector('.bench').dataset.updates ?? 0) >= 2);
  await page.waitForTimeout(300);
  const shifts = await page.evaluate(() => window.shifts);
  assert.ok(shifts.reduce((sum, [value]) => sum + value, 0) < 0.001, shifts.flat().join('\n'));
});
