// A whole job, from intake to the printed report, with the keyboard alone.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { acted, drainFor, find, openPage, start, startBrowser, startServer } from './workshop.mjs';

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

/** Presses a key that leads to another page and waits for it; where it leads nowhere, says what had the focus. */
async function press(page, key) {
  const at = await page.evaluate(() => document.activeElement.outerHTML.slice(0, 200));
  const gone = page.waitForNavigation({ timeout: 60_000 });
  await page.keyboard.press(key);
  await gone.catch(async (e) => {
    const now = await page.evaluate(() => `${document.readyState}, ${document.activeElement.outerHTML.slice(0, 200)}, wrong: ${
      [...document.querySelectorAll(':invalid')].map((f) => f.name)}`);
    assert.fail(`${key} at ${at} led nowhere from ${page.url()}: ${now}, ${page.problems}. ${e.message}`);
  });
}

/** A field has the focus: letters are not taken for keys. */
const inField = (page) => page.waitForFunction(() => document.activeElement?.matches('input, textarea'));

/** Presses Tab until the focused element has this text or name. */
async function tabTo(page, wanted, most = 80) {
  for (let i = 0; i < most; i++) {
    await page.keyboard.press('Tab');
    const here = await page.evaluate(() => {
      const e = document.activeElement;
      return e === document.body ? 'nothing' : [e.innerText, e.getAttribute('aria-label'), e.id, e.value, e.closest('label')?.innerText].filter(Boolean).join(' | ');
    });
    if (here.includes(wanted)) return;
  }
  assert.fail(`Tab never came to "${wanted}"`);
}

/** Takes a machine in by the keyboard: the title is focused; defaults carry the rest. */
async function takeIn(title) {
  const page = await openPage(browser, server);
  await page.goto('/who');
  await inField(page);
  await page.keyboard.type('Ada Fenn');
  await press(page, 'Enter');
  await press(page, 'j');
  await inField(page);
  await page.keyboard.type(title);
  await tabTo(page, 'Open the job');
  await press(page, 'Enter');
  return page;
}

/** Counts the keys that are pressed from here on; letters of a word are not, Tab is. */
function keysOf(page) {
  const counted = { keys: 0 };
  const { press } = page.keyboard;
  page.keyboard.press = (...what) => {
    counted.keys++;
    return press.apply(page.keyboard, what);
  };
  return counted;
}

test('a job is worked by keyboard alone, from intake to the printed report', async (t) => {
  const page = await takeIn('Office machine cuts out');
  const counted = keysOf(page);
  assert.match(page.url(), /\/jobs\/\d+$/);
  assert.match(await page.locator('#h-next').innerText(), /Look it over, then start it/);

  // The fault is the supply: whatever else is done it cuts out, and with another supply it runs.
  const supplyIn = async () => (await page.locator('#machine a[aria-label*="Supply: Power supply ("]').count()) > 0;
  await start(page, '2');
  assert.match(await page.locator('#record-panel [role=status]').innerText(), /Recorded as start 1: cuts out/);
  let steps = 1;
  for (; steps < 25; steps++) {
    const condemned = await page.locator('.suspects .mark-condemned').count();
    if (condemned) break;
    await acted(page, 'n');
    if (page.url().includes('check=')) await find(page, '0');
    else await start(page, (await supplyIn()) ? '2' : '6');
  }
  assert.match(await page.locator('.suspects .suspect').first().innerText(), /supply[\s\S]*condemned/i);
  assert.ok(steps < 20, `${steps} steps`);
  t.diagnostic(`${steps} steps, ${counted.keys} keys`);
  assert.ok(counted.keys <= 3 * steps + 2, `${counted.keys} keys for ${steps} steps`);

  // Close it and see the report.
  await press(page, 'd');
  assert.ok(await page.locator('input[name=found][value=supply]').isChecked());
  assert.match(await page.locator('#words').inputValue(), /The power supply was replaced by/);
  await tabTo(page, 'Close the job');
  await press(page, 'Enter');
  assert.match(page.url(), /report$/);
  const report = await page.locator('main').innerText();
  assert.match(report, /Power supply/);
  assert.match(report, /with it back the machine failed/);
  for (const [paper, width] of [['a4', 595], ['letter', 612]]) {
    await page.goto(`${page.url().split('?')[0]}?paper=${paper}`);
    const pdf = await page.pdf({ preferCSSPageSize: true });
    const box = /\/MediaBox\s*\[\s*0 0 ([\d.]+) ([\d.]+)/.exec(pdf.toString('latin1'));
    assert.ok(Math.abs(Number(box[1]) - width) < 2, `${paper}: ${box[0]}`);
  }
  assert.deepEqual(page.problems, []);
});

test('several changes are warned of, but not those that were proposed', async () => {
  const page = await takeIn('Dark since it was carried');
  const overs = () => page.locator('#record-panel .overs').innerText();
  // A stick out lets it through: it goes back with all that restores it done at once.
  await start(page, '4');
  for (const stage of ['6', '6']) {
    await acted(page, 'n');
    await start(page, stage);
  }
  await acted(page, 'n');
  assert.match(await page.locator('.pending').innerText(), /3 changes/);
  assert.doesNotMatch(await overs(), /changes at once/);
  await acted(page, 'x');
  const address = new URL(page.url());
  for (const change of ['reseat stick-2', 'clear-cmos']) address.searchParams.append('do', change);
  await page.goto(address.href);
  assert.match(await overs(), /2 changes at once/);
  assert.deepEqual(page.problems, []);
});

test('a part is picked in the drawing in walking order and swapped', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1009');
  await page.keyboard.press('m');
  const here = () => page.evaluate(() => document.activeElement.getAttribute('aria-label'));
  const walked = [];
  for (let i = 0; i < 30 && !(await here()).startsWith('supply'); i++) {
    walked.push(await here());
    await page.keyboard.press('Tab');
  }
  assert.match(walked.join(' '), /^(outlet|lead)/, 'the walk begins at the wall');
  await acted(page, 'Enter');
  await page.waitForFunction(() => document.activeElement.matches('#pick a'));
  assert.match(await page.evaluate(() => document.activeElement.innerText), /Swap Ondel 350 W, small for Brask 550 W/);
  await acted(page, 'Enter');
  assert.match(await page.locator('.pending').textContent(), /Swap Ondel 350 W/i);
  await acted(page, 'x');
  assert.match(await page.locator('.pending').innerText(), /Nothing changed/);
  assert.deepEqual(page.problems, []);
});

test('a line is corrected, and back goes back', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1009');
  await press(page, 'l');
  await page.getByRole('link', { name: 'Mend line 1' }).click();
  await page.keyboard.type('the standby light was on after all');
  const form = page.locator('#correct');
  await form.getByLabel('It got at least to').selectOption('1');
  await form.getByLabel('and not beyond').selectOption('1');
  await form.getByRole('button', { name: 'Correct the line' }).click();
  assert.match(await page.locator('#preview').innerText(), /Start 1: says: Started: standby only/);
  await form.getByRole('button', { name: 'Correct the line' }).click();
  assert.match(await page.locator('#record-panel [role=status]').innerText(), /Recorded as line 3/);
  await page.goto('/jobs/1009/log');
  assert.match(await page.locator('#line-1 del').innerText(), /dead, no standby/);
  await page.goBack();
  assert.match(page.url(), /\/jobs\/1009\?said=3/);
});

test('reading and recording work with script disabled', async () => {
  const page = await openPage(browser, server, { javaScriptEnabled: false });
  await page.goto('/jobs/1010');
  await page.getByRole('link', { name: /Clear CMOS/ }).click();
  await page.getByRole('button', { name: /start the drain/ }).click();
  assert.match(await page.locator('.safety').innerText(), /Draining\s+\d+ s\s+hands off/i);
  await page.waitForTimeout(5200);
  await page.getByRole('button', { name: /power on/ }).click();
  await page.getByRole('button', { name: /runs, no POST/ }).click();
  assert.match(await page.locator('#record-panel [role=status]').innerText(), /Recorded as start 1: runs, no POST/);
  await page.getByRole('link', { name: /Log/ }).click();
  assert.match(await page.locator('#line-1').innerText(), /Clear CMOS/);
});

test('a double click on a stage records one line', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1006');
  const before = Number(await page.locator('input[name=lines]').inputValue());
  await acted(page, 'g');
  await page.getByRole('button', { name: /standby only/ }).dblclick();
  await page.waitForURL(/said=/);
  assert.equal(Number(await page.locator('input[name=lines]').inputValue()), before + 1);
});

test('the key sheet opens with ? and closes with Escape', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1003');
  await page.keyboard.press('?');
  assert.ok(await page.locator('#keys').isVisible());
  await page.keyboard.press('Escape');
  assert.ok(!(await page.locator('#keys').isVisible()));
});

test('the theme is switched and kept', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1003');
  const ground = () => page.evaluate(() => getComputedStyle(document.body).backgroundColor);
  const light = await ground();
  await page.locator('.more summary').click();
  await page.getByRole('button', { name: 'Dark' }).click();
  assert.notEqual(await ground(), light);
  assert.match(page.url(), /\/jobs\/1003$/);
  await page.goto('/shop');
  assert.notEqual(await ground(), light);
});
