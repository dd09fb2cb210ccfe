// The bench read from an arm's length: one state, one imperative, the drawn machine, looks as one visit, the climb as a story.
import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { after, before, test } from 'node:test';
import { acted, drainFor, find, openPage, root, start, startBrowser, startServer } from './workshop.mjs';

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

const demo = (file) => JSON.parse(readFileSync(join(root, 'src/Kelvet.Web/Demo', file), 'utf8'));
const size = (page, selector) => page.evaluate((s) => parseFloat(getComputedStyle(document.querySelector(s)).fontSize), selector);

async function open(page, job) {
  await page.goto('/jobs/import');
  await page.locator('input[type=file]').setInputFiles({ name: 'job.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(job)) });
  await page.getByRole('button', { name: /Import/ }).click();
  await page.waitForURL(/\/jobs\/\d+$/);
  return new URL(page.url()).pathname;
}

test('the state runs across the whole width, draining counts at 60 px, and the instruction is 40 px of places', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1009?do=swap%20supply%20shelf-supply');
  const words = () => page.locator('#h-next').innerText();
  assert.equal(await words(), 'Power off. Lead out.');
  const bar = await page.locator('.safety').boundingBox();
  assert.ok(bar.width >= 1260, `${bar.width}`);
  assert.ok((await size(page, '.safety .state b')) >= 40 && (await size(page, '#h-next')) >= 40);
  await acted(page, 'g');
  assert.ok((await size(page, '.safety .count .left')) >= 60);
  assert.equal(await words(), 'Hold start. Hands off.');
  await page.waitForFunction(() => document.querySelector('.safety .state b').textContent === 'Safe');
  assert.equal(await words(), 'Swap the supply for the spare.');
  assert.match(await page.locator('.reason').innerText(), /Swap Ondel 350 W, small for Brask 550 W/, 'names come after');
  await acted(page, 'g');
  assert.equal(await words(), 'Watch it. How far does it get?');
  await page.goto('/jobs/1008');
  assert.doesNotMatch(await words() + await page.locator('.reason').innerText(), /\d %|bits/);
  assert.match(await page.locator('.reason').innerText(), /If it starts, suspect .*If not, /);
  assert.deepEqual(page.problems, []);
});

test('why is behind one key: the reason, what each outcome would mean, numbers last, at most seven others', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1008');
  await page.keyboard.press('q');
  const why = page.locator('.sheet-of-why');
  assert.ok(await why.isVisible());
  assert.match(await why.locator('.outcomes').innerText(), /picture[\s\S]*Chance \d+/);
  const others = await why.locator('.part-acts .chip').allInnerTexts();
  assert.ok(others.length > 0 && others.length <= 7, `${others.length}`);
  assert.equal(new Set(others).size, others.length, 'no two are called the same');
  await page.locator('.safety .state').click();
  assert.ok(!(await why.isVisible()), 'it closes when something else is touched');
  await page.goto('/jobs/1008/steps');
  // Three to four that differ stand side by side, the proposed one first; the rest is a key away.
  const apart = page.locator('.apart > li');
  assert.ok((await apart.count()) >= 3 && (await apart.count()) <= 4);
  assert.equal(await apart.first().locator('h3').innerText(), await page.locator('#job-line .to-do').innerText());
  for (const words of await apart.allInnerTexts()) assert.match(words, /\d min/);
  assert.ok(!(await page.locator('#rest .step-list').first().isVisible()));
  await page.keyboard.press('k');
  assert.ok(await page.locator('#rest .step-list').first().isVisible());
  assert.deepEqual(page.problems, []);
});

test('two parts of one name are told apart wherever they are named', async () => {
  const page = await openPage(browser, server);
  const job = demo('one-slot.json');
  for (const unit of job.units) if (unit.kind === 'memory-stick') unit.name = 'Orrin 8 GB DDR4';
  await open(page, { ...job, steps: [{ kind: 'trial', seen: '4-5' }] });
  await page.locator('.suspects summary').click();
  const named = (await page.locator('.numbers li').allInnerTexts()).filter((t) => t.includes('Orrin'));
  assert.ok(named.length >= 2);
  assert.equal(new Set(named.map((t) => t.replace(/\d+ %.*/s, '').trim())).size, named.length, named.join(' | '));
  await page.keyboard.press('Escape');
  await page.goto(`${new URL(page.url()).pathname}/steps`);
  await page.keyboard.press('k');
  const steps = await page.locator('.apart h3, #rest .step-list strong').allInnerTexts();
  assert.equal(new Set(steps).size, steps.length, steps.join(' | '));
});

test('the machine is walked from the wall to the picture, and a screen reader has it as a list', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1009');
  await page.keyboard.press('m');
  const seen = [];
  const here = () => page.evaluate(() => (document.activeElement.closest('#machine') ? document.activeElement.getAttribute('aria-label').split(',')[0] : null));
  for (let name = await here(); name !== null && seen.length < 60; name = await here()) {
    seen.push(name);
    await page.keyboard.press('Tab');
  }
  const at = (name) => seen.indexOf(name);
  for (const [one, other] of [['lead', 'supply'], ['supply', 'board'], ['board', 'CPU'], ['CPU', 'cooler'], ['cooler', 'A2'], ['A2', 'B2'], ['B2', 'cable'], ['cable', 'monitor']]) {
    assert.ok(at(one) >= 0 && at(one) < at(other), `${one} before ${other} in ${seen.join(' ')}`);
  }
  // Arrows follow the picture: what they lead to lies that way, and the way back leads back or nearby.
  const lies = () => page.evaluate(() => { const r = document.activeElement.getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2]; });
  await page.locator('#machine [data-place=supply]').focus();
  const [x] = await lies();
  await page.keyboard.press('ArrowLeft');
  assert.ok((await lies())[0] < x, 'left of the supply');
  await page.locator('#machine [data-place="memory.A2"]').focus();
  const [, slot] = await lies();
  await page.keyboard.press('ArrowDown');
  assert.ok((await lies())[1] > slot, 'below the slot');
  await page.keyboard.press('ArrowUp');
  assert.ok((await lies())[1] <= slot + 1, 'and back up');
  const list = page.getByRole('list', { name: /The machine/ });
  assert.ok((await list.getByRole('listitem').count()) >= seen.length);
});

test('where hands go next is lit, a spare waits as a ghost, and a part that is suspected is tinted alone', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1009?do=swap%20supply%20shelf-supply');
  assert.equal(await page.locator('#machine .lit').count(), 1);
  assert.equal(await page.locator('#machine .ghost-part').count(), 1);
  assert.equal(await page.locator('#machine .way').count(), 1);
  const inside = await page.evaluate(() => {
    const [lit, supply] = ['#machine .lit', '#machine [data-place=supply] .body'].map((s) => document.querySelector(s).getBoundingClientRect());
    return lit.left <= supply.left && lit.right >= supply.right && lit.top <= supply.top && lit.bottom >= supply.bottom;
  });
  assert.ok(inside, 'what is lit is the supply');
  await page.goto('/jobs/1008');
  const fills = await page.evaluate(() => ['.the-board .body', '[data-place="memory.B2"] .body', '[data-place="cpu"] .body'].map((s) => getComputedStyle(document.querySelector(`#machine ${s}`)).fill));
  assert.notEqual(fills[0], fills[1]);
  assert.match(await page.locator('#machine .the-board').getAttribute('class'), /is-suspect/);
  assert.notEqual(fills[0], fills[2], 'the board keeps its ground under its parts');
});

test('what is seen is tapped where it is, by keyboard and by touch, and goes with the start', async () => {
  const page = await openPage(browser, server, { hasTouch: true });
  const path = await open(page, { ...demo('one-slot.json'), steps: [] });
  await acted(page, 'g');
  await page.keyboard.press('m');
  for (let i = 0; i < 60 && !/^Indicators/.test(await page.evaluate(() => document.activeElement.getAttribute('aria-label'))); i++) await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  assert.ok(await page.locator('#tap-lights').isVisible());
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  const lit = await page.locator('#tap-lights input:checked').getAttribute('value');
  await page.keyboard.press('Enter');
  assert.ok(!(await page.locator('#tap-lights').isVisible()), 'Enter says it and records nothing');
  assert.equal(await page.locator('[data-column]').count(), 0);
  await page.locator('#machine [data-say="tap-code"]').tap();
  await page.locator('[name="signs.code"]').fill('55');
  await page.locator('#tap-code [data-close-tap]').tap();
  assert.match(await page.locator('#machine [data-say="tap-code"]').getAttribute('class'), /told/);
  for (const [spot, choice] of [['tap-screen', 1], ['tap-fan', 1], ['tap-card', 3]]) {
    await page.locator(`#machine [data-say="${spot}"]`).tap();
    await page.locator(`#${spot} .choice`).nth(choice).tap();
    await page.keyboard.press('Escape');
  }
  // A refresh by another bench leaves all of it.
  const other = await openPage(browser, server);
  await other.goto(path);
  await acted(other, 't');
  await page.waitForFunction(() => Number(document.querySelector('.bench').dataset.updates ?? 0) >= 2);
  assert.equal(await page.locator('[name="signs.code"]').inputValue(), '55');
  assert.equal(await page.locator('#tap-lights input:checked').getAttribute('value'), lit);
  await page.keyboard.press('6');
  await page.waitForURL(/said=/);
  await page.goto(`${path}/log`);
  assert.match(await page.locator('#line-1').innerText(), new RegExp(`${lit}[\\s\\S]*code 55`, 'i'));
  assert.match(await page.locator('#line-1').innerText(), /fans[\s\S]*card's fans/i);
  // What was said of that start is not said of the next.
  await page.goto(path);
  await acted(page, 'g');
  assert.equal(await page.locator('[name="signs.code"]').inputValue(), '');
  assert.equal(await page.locator('#tap-lights input:checked').getAttribute('value'), '');
  assert.deepEqual(page.problems, []);
});

test('a look-over is one visit in walking order, one key per point', async () => {
  const page = await openPage(browser, server);
  const path = await open(page, { ...demo('one-slot.json'), steps: [] });
  await acted(page, 'v');
  // Two points at one place share its mark, so the marks are at most as many as what is asked.
  const marks = await page.locator('#machine .point').count();
  assert.ok(marks >= 4);
  const asked = [await page.locator('#h-next').innerText()];
  await find(page, '0');
  while (await page.locator('#record input[name=check]').count()) {
    asked.push(await page.locator('#h-next').innerText());
    await acted(page, '0');
    assert.ok(asked.length <= 30, `the visit ends: ${asked}`);
  }
  assert.equal(new Set(asked).size, asked.length);
  assert.ok(asked.length >= marks);
  await page.goto(`${path}/log`);
  assert.equal(await page.locator('main tbody tr[id]').count(), asked.length);
  assert.deepEqual(page.problems, []);
});

for (const [width, height] of [[1280, 800], [1024, 768]]) test(`recording moves nothing at ${width}`, async () => {
  const page = await openPage(browser, server, { viewport: { width, height } });
  await open(page, { ...demo('one-slot.json'), steps: demo('one-slot.json').steps.slice(0, 4) });
  const boxes = () => page.evaluate(() => Object.fromEntries(['.safety', '.next', '.machine', '.climb', '.suspects', '.record', '.keys-row'].map((s) => {
    const r = document.querySelector(s).getBoundingClientRect();
    return [s, [r.x, r.y, r.width, r.height].map(Math.round).join(' ')];
  })));
  const before = await boxes();
  await acted(page, 'g');
  assert.deepEqual(await boxes(), before, 'started');
  assert.ok((await page.locator('.stage').first().boundingBox()).height >= 72);
  await page.keyboard.press('9');
  assert.deepEqual(await boxes(), before, 'asked whether it is meant');
  await acted(page, '9');
  assert.deepEqual(await boxes(), before, 'recorded, and POST or not is asked');
  await acted(page, 'c');
  assert.deepEqual(await boxes(), before, 'a change is pending');
  await acted(page, 'x');
  await acted(page, 'u');
  await acted(page, '6');
  assert.deepEqual(await boxes(), before, 'a picture, with three keys beside it');
  await acted(page, 'u');
  assert.deepEqual(await boxes(), before, 'taken back');
});

test('where the step is the start itself, its key starts it', async () => {
  const page = await openPage(browser, server);
  await open(page, { ...demo('now-and-then.json'), steps: [] });
  await acted(page, 'g');
  await acted(page, '8');
  assert.match(await page.locator('#h-next').innerText(), /Start it again/);
  await acted(page, 'n');
  assert.ok(await page.locator('.stage[data-key="8"]').isEnabled(), 'it waits for how far it gets');
  await acted(page, '8');
  assert.equal(await page.locator('.bench').getAttribute('data-lines'), '2');
});

test('a picture has two readings: not followed further, and stopped there', async () => {
  const page = await openPage(browser, server);
  const path = await open(page, { ...demo('one-slot.json'), steps: [] });
  await acted(page, 'g');
  await acted(page, '6');
  assert.match(await page.locator('.gate').innerText(), /Picture or better/);
  await acted(page, 's');
  assert.match(await page.locator('[data-column="1"]').getAttribute('aria-label'), /→ picture$/);
  assert.equal(await page.locator('.stopped').count(), 0);
  await page.goto(`${path}/log`);
  assert.match(await page.locator('#line-1 del').innerText(), /picture or better/);
});

test('a column is stood on again: machine, suspects and advice as they were, and nothing can be recorded there', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1008');
  const now = await page.locator('#suspects-panel').innerText();
  await acted(page, () => page.locator('[data-column="4"]').click());
  await acted(page, 'v');
  assert.match(page.url(), /at=4/);
  assert.notEqual(await page.locator('#suspects-panel').innerText(), now);
  assert.match(await page.locator('#machine [data-place="memory.A2"]').getAttribute('aria-label'), /Orrin 8 GB DDR4/, 'the stick is back in A2');
  assert.equal(await page.locator('.stages, .gate').count(), 0);
  assert.match(await page.getByRole('link', { name: /^Edit start/ }).getAttribute('href'), /log\/4$/);
  assert.match(await page.getByRole('link', { name: 'Insert before it' }).getAttribute('href'), /log\/4#insert$/);
  await acted(page, 'x');
  assert.equal(await page.locator('#suspects-panel').innerText(), now);
  assert.deepEqual(page.problems, []);
});

test('starts of the same machine are folded, a long climb fits at a key, and a proof both ways is a bracket', async () => {
  const page = await openPage(browser, server);
  const steps = [{ kind: 'trial', seen: '4' }, ...['6-8', '4', '6-8', '6-8', '4', '6-8', '4'].map((seen, i) => ({ kind: 'trial', changes: i ? [] : ['clear-cmos'], seen }))];
  await open(page, { ...demo('one-slot.json'), steps });
  assert.equal(await page.locator('[data-column]').count(), 2);
  assert.match(await page.locator('[data-column]').last().getAttribute('aria-label'), /^Start 2–8: Clear CMOS → 7 starts: 4 passed/i);
  await page.goto('/jobs/1003');
  await acted(page, 'k');
  assert.ok(await page.evaluate(() => document.getElementById('climb').scrollWidth <= document.getElementById('climb').clientWidth), 'it fits');
  await page.goto('/jobs/1002');
  assert.match(await page.locator('.proof').first().getAttribute('aria-label'), /proved: .*supply/);
});

test('the start strip tells how long it has run, what usually comes next, and why it may take longer', async () => {
  const page = await openPage(browser, server);
  await open(page, { ...demo('one-slot.json'), steps: [] });
  await acted(page, 'g');
  assert.match(await page.locator('.course').innerText(), /\d s[\s\S]*by \d+ s/);
  assert.equal(await page.locator('.timer[data-name=wait]').getAttribute('data-seconds'), '60');
  await acted(page, 'z');
  await page.waitForFunction(() => document.querySelector('.safety .state b').textContent !== 'Draining');
  await page.goto(`${new URL(page.url()).pathname}?do=clear-cmos`);
  await acted(page, 'g');
  assert.equal(await page.locator('.timer[data-name=wait]').getAttribute('data-seconds'), '180');
  assert.match(await page.locator('.reason').innerText(), /trained anew/);
});

test('big shows state, instruction and keys alone; sounds go by one switch; both are kept', async () => {
  const page = await openPage(browser, server);
  await open(page, { ...demo('now-and-then.json'), steps: [] });
  await acted(page, 'g');
  const sent = page.waitForResponse((r) => r.url().includes('handler=View'));
  await page.keyboard.press('f');
  await sent;
  assert.ok(!(await page.locator('.machine').isVisible()) && !(await page.locator('.climb').isVisible()));
  assert.ok((await size(page, '#h-next')) >= 80);
  await page.reload();
  assert.ok(!(await page.locator('.machine').isVisible()), 'it is kept');
  await acted(page, '8');
  assert.equal(await page.evaluate(() => document.documentElement.dataset.heard), 'tick');
  await page.locator('.view summary').click();
  await page.getByRole('button', { name: 'No sounds' }).click();
  await acted(page, 'g');
  await acted(page, '8');
  assert.equal(await page.evaluate(() => document.documentElement.dataset.heard), '');
  await page.evaluate(() => { window.said = []; window.speechSynthesis.speak = (u) => window.said.push(u.text); });
  await page.locator('.view summary').click();
  await page.getByRole('button', { name: 'Speak what to do' }).click();
  await acted(page, 'g');
  assert.match((await page.evaluate(() => window.said)).join(' '), /How far does it get/);
  assert.deepEqual(page.problems, []);
});

test('a photo is dropped, pasted, made smaller before it is sent, or comes from the phone', async () => {
  const page = await openPage(browser, server);
  const path = await open(page, { ...demo('now-and-then.json'), steps: [] });
  await acted(page, 'g');
  const give = (event) => page.evaluate(async (type) => {
    const canvas = document.createElement('canvas');
    [canvas.width, canvas.height] = [4000, 1000];
    const pen = canvas.getContext('2d');
    for (let i = 0; i < 4000; i++) { pen.fillStyle = `hsl(${(i * 97) % 360} 80% 50%)`; pen.fillRect(i, 0, 1, 1000); }
    const blob = await new Promise((done) => canvas.toBlob(done, 'image/png'));
    const files = new DataTransfer();
    files.items.add(new File([blob], 'bench.png', { type: 'image/png' }));
    const target = document.querySelector('#machine-panel');
    target.dispatchEvent(type === 'drop' ? new DragEvent('drop', { bubbles: true, cancelable: true, dataTransfer: files }) : new ClipboardEvent('paste', { bubbles: true, cancelable: true, clipboardData: files }));
  }, event);
  const width = () => page.evaluate(async () => {
    const file = document.querySelector('#record [name=photo]').files[0];
    return file ? (await createImageBitmap(file)).width : 0;
  });
  for (const event of ['drop', 'paste']) {
    await page.evaluate(() => { document.querySelector('#record [name=photo]').value = ''; });
    await give(event);
    await page.waitForFunction(() => document.querySelector('#record [name=photo]').files.length === 1);
    assert.equal(await width(), 2000, event);
  }
  await acted(page, '8');
  const phone = await openPage(browser, server, { viewport: { width: 390, height: 844 }, hasTouch: true });
  await phone.goto(`${path}/capture`);
  assert.ok(await phone.evaluate(() => document.documentElement.scrollWidth <= innerWidth));
  await phone.locator('[name=photo]').setInputFiles({ name: 'p.jpg', mimeType: 'image/jpeg', buffer: await phone.screenshot({ type: 'jpeg' }) });
  await phone.getByLabel('What it shows').fill('a bulging capacitor');
  await phone.getByRole('button', { name: 'Keep it' }).click();
  await phone.waitForURL(/kept=2/);
  await page.goto(`${path}/log`);
  assert.equal(await page.locator('.photo img').count(), 2);
  assert.match(await page.locator('#line-2').innerText(), /bulging capacitor/);
  assert.deepEqual([...page.problems, ...phone.problems], []);
});

test('a wrong slot is mended in four acts, with what it does to the suspects shown before it is kept', async () => {
  const page = await openPage(browser, server);
  const path = await open(page, { ...demo('one-slot.json'), steps: demo('one-slot.json').steps.slice(0, 6) });
  const moved = await page.locator('[data-column]').evaluateAll((columns) => columns.find((c) => /moved|move/i.test(c.getAttribute('aria-label'))).dataset.column);
  const said = await page.locator(`[data-column="${moved}"]`).getAttribute('aria-label');
  await acted(page, () => page.locator(`[data-column="${moved}"]`).click());
  await page.keyboard.press('y');
  await page.locator('#was a.chip').first().click();
  await page.waitForURL(/\/as\?/);
  assert.match(await page.locator('#effects').innerText(), /What that does to the suspects/);
  await page.keyboard.press('n');
  await page.waitForURL(new RegExp(`${path}\\?said=`));
  const says = await page.locator(`[data-column="${moved}"]`).getAttribute('aria-label');
  assert.match(says, /corrected/);
  assert.notEqual(says.replace('* corrected', ''), said);
  assert.deepEqual(page.problems, []);
});

test('a swap takes three keys, a restart two, and a key pressed while the server answers is held', async () => {
  const page = await openPage(browser, server);
  await open(page, demo('one-slot.json'));
  // It may be live: the proposed step takes the power off with it.
  const lines = Number(await page.locator('.bench').getAttribute('data-lines'));
  await acted(page, 'n');
  await page.locator('.safety-drain').waitFor();
  await page.waitForFunction(() => document.querySelector('.gate [data-key=g]')?.disabled === false, null, { timeout: 30_000 });
  await acted(page, 'g');
  await acted(page, '6');
  assert.equal(Number(await page.locator('.bench').getAttribute('data-lines')), lines + 1);
  // Started again and its stage, the second key without waiting for the first.
  let slow = true;
  await page.route('**/jobs/**', async (route) => {
    if (slow && route.request().method() === 'POST') await new Promise((r) => { setTimeout(r, 400); });
    slow = false;
    await route.continue();
  });
  await page.keyboard.press('g');
  await page.keyboard.press('6');
  await page.waitForFunction((n) => Number(document.querySelector('.bench').dataset.lines) === n, lines + 2);
  assert.deepEqual(page.problems, []);
});

test('that it came up and restarted by itself is told in two acts, with the minutes since the start', async () => {
  const page = await openPage(browser, server);
  const path = await open(page, { ...demo('one-slot.json'), steps: [] });
  await acted(page, 'g');
  await page.keyboard.press('i');
  await acted(page, '2');
  await page.goto(`${path}/log`);
  assert.match(await page.locator('#line-1').innerText(), /system loads; it restarted by itself; after 0\.5 min/i);
  assert.deepEqual(page.problems, []);
});

test('on a phone state, instruction and keys stay at the bottom edge, and the drawing folds', async () => {
  const page = await openPage(browser, server, { viewport: { width: 390, height: 844 }, hasTouch: true });
  await page.goto('/jobs/1008');
  await acted(page, () => page.locator('[data-key=g]').first().tap());
  const bottom = await page.evaluate(() => ['.safety', '.next', '.record'].map((s) => document.querySelector(s).getBoundingClientRect()).map((r) => [Math.round(r.top), Math.round(r.bottom)]));
  assert.ok(bottom[2][1] <= 844 && bottom[0][0] > 200, JSON.stringify(bottom));
  assert.ok(await page.locator('#machine').isVisible());
  await page.locator('.fold-label').tap();
  assert.ok(!(await page.locator('#machine').isVisible()));
  await acted(page, () => page.locator('.stage[data-key="6"]').tap());
  assert.match(await page.locator('.gate').innerText(), /is recorded|Undo/);
});

test('without script: a look is made, what is seen is said, a column is stood on, big is turned on', async () => {
  const page = await openPage(browser, server, { javaScriptEnabled: false });
  await page.goto('/jobs/1007');
  await page.getByRole('button', { name: /power on/ }).click();
  await page.locator('#machine [data-say="tap-code"]').click();
  await page.locator('[name="signs.code"]').fill('4F');
  await page.locator('#tap-code').getByText('Done').click();
  await page.getByRole('button', { name: /runs, no POST/ }).click();
  await page.goto('/jobs/1007/log');
  assert.match(await page.locator('tbody tr').last().innerText(), /code 4F/);
  await page.goto('/jobs/1008');
  await page.locator('[data-column="4"]').click();
  await page.getByRole('link', { name: /Stand there again/ }).click();
  assert.match(await page.locator('.record').innerText(), /You stand where the bench stood after start \d+/);
  await page.goto('/jobs/1008');
  await page.locator('.view summary').click();
  await page.getByRole('button', { name: /Big/ }).click();
  assert.match(page.url(), /jobs\/1008$/);
  assert.ok(!(await page.locator('.machine').isVisible()));
});

test('the shelf is added to, edited, retired and labelled, and what passed with it is remembered', async () => {
  const page = await openPage(browser, server);
  await page.goto('/shelf');
  await page.selectOption('#kind', 'Supply');
  await page.fill('#part', 'Velm 650 W');
  await page.fill('#serial', 'SH-77');
  await page.fill('#quantity', '0');
  await page.evaluate(() => document.querySelector('#add').setAttribute('novalidate', ''));
  await page.getByRole('button', { name: 'Add to the shelf' }).click();
  assert.match(await page.locator('[role=alert]').innerText(), /How many: 1 to 999/);
  assert.deepEqual(await Promise.all(['#kind', '#part', '#serial', '#quantity'].map((f) => page.inputValue(f))), ['Supply', 'Velm 650 W', 'SH-77', '0'], 'what was typed is kept');
  await page.fill('#quantity', '1');
  await page.getByRole('button', { name: 'Add to the shelf' }).click();
  await page.getByRole('link', { name: /Velm 650 W/ }).click();
  await page.selectOption('#condition', 'Doubtful');
  await page.fill('#quantity', '2');
  await page.getByRole('button', { name: 'Keep' }).click();
  assert.match(await page.locator('.board-of li', { hasText: 'Velm 650 W' }).innerText(), /× 2[\s\S]*SH-77[\s\S]*doubtful/);
  await page.goto('/jobs/1008/part');
  assert.equal(await page.getByText('Velm 650 W').count(), 0, 'what is doubtful is not offered');
  await page.goto('/shelf');
  await page.getByRole('link', { name: /Velm 650 W/ }).click();
  assert.equal(await page.locator('.shelf-label svg').count(), 1);
  await page.getByRole('button', { name: 'Retire' }).click();
  assert.match(await page.locator('.board-of li', { hasText: 'Velm 650 W' }).innerText(), /retired/);
  assert.match(await page.locator('.board-of li', { hasText: 'Brask 550 W' }).innerText(), /not passed yet/);
  await page.goto('/jobs/1009?do=swap%20supply%20shelf-supply');
  await start(page, '6');
  await page.goto('/shelf');
  assert.doesNotMatch(await page.locator('.board-of li', { hasText: 'Brask 550 W' }).innerText(), /not passed yet/);
  assert.deepEqual(page.problems, []);
});

test('the list of jobs shows each machine, its state and its next step', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1010');
  await acted(page, 'g');
  await page.goto('/?q=Beeps+and+stays');
  const card = page.locator('.job-card', { hasText: 'Beeps and stays black' });
  assert.match(await card.innerText(), /live/);
  assert.ok((await card.locator('svg.drawing .unit').count()) > 8);
  assert.ok((await page.locator('.job-card .now').allInnerTexts()).every((t) => t.length > 5));
});
