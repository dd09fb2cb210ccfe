// A job of each end, printed and read back: what must and what must not stand on the papers that a stranger reads.
import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, test } from 'node:test';
import { openPage, root, startBrowser, startServer } from './workshop.mjs';

let server, browser;
const folder = mkdtempSync(join(tmpdir(), 'kelvet-ends-'));
before(async () => {
  server = await startServer();
  browser = await startBrowser();
});
after(async () => {
  await browser?.close();
  await server?.stop();
  rmSync(folder, { recursive: true, force: true });
});

const demo = (file) => JSON.parse(readFileSync(join(root, 'src/Kelvet.Web/Demo', file), 'utf8'));
const job = demo('just-in.json');
const trial = (seen, ...changes) => ({ kind: 'trial', seen, changes });
const [SWAP, BACK] = ['swap stick-1 shelf-stick', 'swap shelf-stick stick-1'];
const [AWAY, THERE] = ['move stick-1 memory.B1', 'move stick-1 memory.A1'];

/** What no paper for somebody outside the shop says: figures of the reckoning, words of the trade. */
const NEVER = /%|condemned|suspect|posterior|proof one|price of being wrong|two-way/;

const ENDS = {
  repaired: {
    of: demo('cuts-out.json'),
    found: ['supply'],
    customer: [/The power supply \(Velm 450 W\) is broken/, /with it back in, it failed again/, /was replaced by/, /Since the repair/],
    not: /not repaired|still in the machine|At home/,
    returns: /failed/,
  },
  'put right': {
    steps: [trial('4'), trial('4'), trial('6-8', 'reseat stick-1'), trial('6-8'), trial('6-8')],
    found: ['stick-1'],
    customer: [/did not sit firmly in its place|is not broken|most likely/],
    not: /was replaced by|goes back as it is/,
  },
  workaround: {
    steps: [trial('4'), trial('6-8', AWAY), trial('4', THERE), trial('6-8', AWAY), trial('6-8')],
    found: ['board'],
    customer: [/main board/, /As it is put together now, it works/],
    not: /was replaced by|Since the repair|goes back as it is/,
  },
  'not reproduced': {
    steps: [trial('7-8'), trial('7-8'), trial('7-8'), trial('7-8')],
    found: [],
    customer: [/It worked here: it was started 4 times/, /Nothing was repaired/, /At home, try it first without a strip/],
    not: /is broken|most likely|Since the repair|was replaced/,
  },
  'not proved': {
    steps: [trial('4'), trial('4', 'clear-cmos')],
    found: [],
    customer: [/No single part was found to be the cause/, /It was not repaired, and goes back as it is/],
    not: /is broken|Since the repair|was replaced|At home/,
  },
  'given back, not worth it': {
    steps: [trial('4'), trial('4', SWAP), trial('4', BACK)],
    found: ['board'],
    customer: [/main board \(.+\) is most likely broken/, /still in the machine/, /It was not repaired, and goes back as it is/],
    not: /is broken\.|Since the repair|was replaced/,
  },
};

async function printed(page, path) {
  await page.goto(path);
  const file = join(folder, 'paper.pdf');
  writeFileSync(file, await page.pdf({ format: 'A4', preferCSSPageSize: true, printBackground: true }));
  return execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' }).replace(/\s+/g, ' ');
}

for (const [end, { of = job, steps = of.steps, found, customer, not, returns }] of Object.entries(ENDS)) test(`papers of a job that ends so: ${end}`, async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/import');
  const buffer = Buffer.from(JSON.stringify({ ...of, contexts: [], customer: 'Nela Tarn', steps }));
  await page.setInputFiles('input[type=file]', { name: 'job.json', mimeType: 'application/json', buffer });
  await page.locator('form[enctype] button').click();
  await page.waitForURL(/\/jobs\/\d+$/);
  const path = new URL(page.url()).pathname;
  await page.goto(`${path}/close`);
  await page.evaluate((parts) => {
    for (const box of document.querySelectorAll('input[name=found]')) box.checked = parts.includes(box.value);
    for (const fate of document.querySelectorAll('select[name^=becomes]')) fate.value = fate.value || [...fate.options].find((o) => o.value).value;
    document.getElementById('words').value = document.getElementById('words').value || 'Given back.';
    document.getElementById('by').value = 'Ada Fenn';
  }, found);
  await page.locator('form.grid button.main').click();
  if (await page.locator('input[name^=why]').count()) {
    await page.evaluate(() => { for (const why of document.querySelectorAll('input[name^=why]')) why.value = 'Its owner wants it so.'; });
    await page.locator('form.grid button.main').click();
  }
  await page.waitForURL(/report$/);
  for (const paper of ['customer', 'hand-over', 'ticket', 'invoice']) {
    const text = await printed(page, `${path}/${paper}`);
    assert.ok(text.length > 60, `${paper} is printed`);
    assert.doesNotMatch(text.replace(/VAT 20 %|VAT, %/g, 'VAT'), NEVER, paper);
    assert.doesNotMatch(text, /stepId|undefined|null|NaN/, paper);
  }
  const told = await printed(page, `${path}/customer`);
  for (const words of customer) assert.match(told, words);
  assert.doesNotMatch(told, not);
  assert.match(told, /Nela Tarn/);
  const invoice = await printed(page, `${path}/invoice`);
  assert.equal(/\(shelf\)|1 pc/.test(invoice.replace(/Finding out what it is 1 pc/, '')), end === 'repaired', 'a part is charged where one stays in, and only there');
  if (returns) assert.match(await printed(page, `${path}/return/${found[0]}`), returns);
  assert.deepEqual(page.problems, []);
});
