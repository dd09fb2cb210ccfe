// Every page: accessible, inside the window, and nothing fetched from elsewhere.
import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { after, before, test } from 'node:test';
import { openPage, startBrowser, startServer } from './workshop.mjs';

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');
const pages = [
  '/', '/?show=all', '/?q=nothing-like-it', '/jobs/new', '/jobs/import', '/shop', '/shelf', '/shelf/1', '/jobs/1003/capture', '/jobs/1008?at=4', '/jobs/1009?visit=true', '/jobs/1003?climb=whole', '/who', '/keys', '/find?q=board&job=1003', '/help', '/jobs/new?counter=true', '/jobs/1008/log/5/as?seen=4', '/jobs/1003/log?at=3', '/nowhere',
  '/customers', '/customers/9', '/catalogue', '/?show=waiting', '/jobs/1009/card', '/jobs/1001/card', '/jobs/1010/once-over', '/jobs/1010/reproduce', '/jobs/1010/ticket', '/jobs/1010/correct', '/jobs/1008/memory', '/jobs/1001/memory', '/jobs/1007/memory', '/jobs/1003/proof', '/jobs/1010/proof', '/jobs/1003/heat', '/jobs/1003/hand-over', '/jobs/1001/hand-over', '/jobs/1003/worth', '/jobs/1010/worth', '/jobs/1008/estimate', '/jobs/1010/estimate', '/jobs/1002/papers', '/jobs/1002/customer?cost=true', '/jobs/1002/return/supply', '/catalogue/support', '/jobs/1008/how/flash', '/jobs/1008/how/swap-board',
  '/jobs/1003', '/jobs/1003?pick=board&do=clear-cmos&do=remove%20monitor', '/jobs/1010', '/jobs/1010?do=remove%20cooler', '/jobs/1001',
  '/jobs/1009?check=look-plugs&checked=supply', '/jobs/1008?a=7&b=8', '/jobs/1008?a=7', '/jobs/1008?pick=stick-1', '/jobs/1008?do=move%20shelf-stick%20memory.A1', '/jobs/1003/steps', '/jobs/1005/steps', '/jobs/1003/unit/stick-2', '/jobs/1003/log', '/jobs/1003/log/2', '/jobs/1003/close', '/jobs/1001/close',
  '/jobs/1003/report', '/jobs/1010/report', '/jobs/1003/part',
  '/codes', '/codes?q=5+short', '/codes?q=nothing+like+it', '/codes/aptio', '/codes/aptio/97', '/codes/own', '/listen', '/listen?job=1003',
];

let server, empty, browser;
before(async () => {
  [server, empty] = await Promise.all([startServer(), startServer({ demo: false })]);
  browser = await startBrowser();
});
after(async () => {
  await browser?.close();
  await Promise.all([server?.stop(), empty?.stop()]);
});

/** What axe finds on a page in light, and in dark, where only the colours differ. */
async function violations(page) {
  // Evaluated by the debugger, which the page's policy does not bind.
  await page.evaluate(axe);
  const ruled = (runOnly) => page.evaluate((rules) => axe.run(document, { runOnly: rules }), runOnly);
  const light = await ruled(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']);
  await page.emulateMedia({ colorScheme: 'dark' });
  const dark = await ruled({ type: 'rule', values: ['color-contrast'] });
  await page.emulateMedia({ colorScheme: 'light' });
  return [['', light], ['dark: ', dark]].flatMap(([scheme, result]) => result.violations.map((v) => `${scheme}${v.id}: ${v.nodes.slice(0, 3).map((n) => n.target.join(' ')).join('; ')}`));
}

test('axe finds nothing on any page, light and dark', async () => {
  const page = await openPage(browser, server);
  const found = [];
  for (const path of [...pages, empty.url]) {
    await page.goto(path);
    for (const v of await violations(page)) found.push(`${path} ${v}`);
  }
  assert.deepEqual(found, []);
});

test('the bench fits 1280x800 without scrolling the page, and no page scrolls sideways down to 1024', async () => {
  const page = await openPage(browser, server);
  for (const job of [1001, 1002, 1003, 1004, 1005, 1006, 1007, 1008, 1009, 1010]) {
    await page.goto(`/jobs/${job}`);
    const { over } = await page.evaluate(() => ({ over: document.documentElement.scrollHeight - innerHeight }));
    assert.ok(over <= 0, `job ${job} is ${over} px too tall`);
  }
  for (const [width, height] of [[1280, 800], [1024, 768], [390, 844]]) {
    await page.setViewportSize({ width, height });
    for (const path of pages) {
      await page.goto(path);
      const wide = await page.evaluate(() => document.documentElement.scrollWidth - innerWidth);
      assert.ok(wide <= 0, `${path} at ${width} is ${wide} px too wide`);
    }
  }
});

test('what is clicked on the bench is at least 44 px high or wide enough to hit, and text is 16 px or more', async () => {
  const page = await openPage(browser, server);
  await page.goto('/jobs/1003?do=clear-cmos');
  const small = await page.evaluate(() => {
    const bad = [];
    for (const e of document.querySelectorAll('button, .button, .chip, select, input:not([type=hidden]), .suspect')) {
      const r = e.getBoundingClientRect();
      if (r.height > 0 && r.height < 43.5) bad.push(`${e.tagName}.${e.className} ${r.height}`);
    }
    for (const e of document.querySelectorAll('body *')) {
      if (e.childNodes.length && [...e.childNodes].some((n) => n.nodeType === 3 && n.data.trim()) && parseFloat(getComputedStyle(e).fontSize) < 16) bad.push(`${e.tagName} ${e.textContent.slice(0, 20)}`);
    }
    if (parseFloat(getComputedStyle(document.querySelector('#h-next')).fontSize) < 40) bad.push('next step');
    return bad;
  });
  assert.deepEqual(small, []);
});

test('nothing is fetched from anywhere else', async () => {
  const page = await openPage(browser, server);
  const foreign = [];
  page.on('request', (r) => {
    if (!r.url().startsWith(server.url) && !r.url().startsWith('data:')) foreign.push(r.url());
  });
  for (const path of pages) await page.goto(path);
  assert.deepEqual(foreign, []);
  assert.ok(await page.evaluate(() => document.fonts.ready.then(() => document.fonts.check('16px B612'))));
});
