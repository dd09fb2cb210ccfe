// Every page: accessible, inside the window, and nothing fetched from elsewhere.
import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { after, before, test } from 'node:test';
import { faults, menus } from './faults.mjs';
import { pages } from './pages.mjs';
import { openPage, startBrowser, startServer } from './workshop.mjs';

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

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

test('no page has anything cut off, overlapping or small at six widths', async () => {
  const page = await openPage(browser, server);
  const found = [];
  for (const path of pages) {
    await page.setViewportSize({ width: 1280, height: 800 });
    await page.goto(path);
    await page.evaluate(() => document.fonts.ready);
    for (const [width, height] of [[1280, 800], [1024, 768], [1920, 1080], [768, 1024], [600, 900], [390, 844]]) {
      await page.setViewportSize({ width, height });
      for (const fault of [...(await page.evaluate(faults)), ...(await page.evaluate(menus))]) found.push(`${path} at ${width}: ${fault}`);
      const over = await page.evaluate(() => document.documentElement.scrollWidth - innerWidth);
      if (over > 0) found.push(`${path} at ${width}: ${over} px too wide`);
    }
  }
  assert.ok(found.length === 0, `${found.length} faults:\n${found.slice(0, 60).join('\n')}`);
});
