// The bench of forty machines that nobody drew, at six sizes: nothing overlaps, nothing is cut off, the page does not scroll.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { faults, menus } from './faults.mjs';
import { machine } from './machines.mjs';
import { acted, openPage, startBrowser, startServer } from './workshop.mjs';

let server, browser;
before(async () => {
  server = await startServer({ demo: false });
  browser = await startBrowser();
});
after(async () => {
  await browser?.close();
  await server?.stop();
});

const sizes = [[1280, 800], [1024, 768], [1920, 1080], [768, 1024], [600, 900], [390, 844]];

async function open(page, job) {
  await page.goto('/jobs/import');
  await page.locator('input[type=file]').setInputFiles({ name: 'job.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(job)) });
  await page.getByRole('button', { name: /Import/ }).click();
  await page.waitForURL(/\/jobs\/\d+$/).catch(async () => assert.fail(`${job.title}: ${await page.locator('main').innerText()}`));
  return new URL(page.url()).pathname;
}

/** Measures what is shown at the six sizes. */
async function measure(page, what, found) {
  await page.evaluate(() => document.fonts.ready);
  for (const [width, height] of sizes) {
    await page.setViewportSize({ width, height });
    if (width < 768) await page.locator('.fold').check();
    for (const fault of [...(await page.evaluate(faults)), ...(await page.evaluate(menus))]) found.push(`${what} at ${width}: ${fault}`);
    const over = await page.evaluate(() => ({ x: document.documentElement.scrollWidth - innerWidth, y: document.documentElement.scrollHeight - innerHeight }));
    if (over.x > 0) found.push(`${what} at ${width}: ${over.x} px too wide`);
    if (over.y > 0 && width >= 1024) found.push(`${what} at ${width}: the page scrolls by ${over.y}`);
  }
  await page.setViewportSize({ width: 1280, height: 800 });
}

for (let part = 0; part < 4; part++) {
  test(`machines ${part * 10 + 1} to ${part * 10 + 10} lie well on the bench at six sizes`, async () => {
    const page = await openPage(browser, server);
    const found = [];
    for (let n = part * 10; n < part * 10 + 10; n++) {
      const path = await open(page, machine(n));
      const views = ['', ...(n % 4 === 0 ? ['?do=clear-cmos&do=reseat%20supply&do=reseat%20cooler', '?check=look-plugs&checked=supply', '?pick=board', '?visit=true'] : [])];
      for (const view of views) {
        await page.goto(path + view);
        await measure(page, `machine ${n}${view}`, found);
      }
      if (n % 4 !== 2) continue;
      // On, and how far it got; then off again and draining.
      await page.goto(path);
      await acted(page, 'g');
      await measure(page, `machine ${n}, started`, found);
      await acted(page, '6');
      await measure(page, `machine ${n}, recorded`, found);
      await acted(page, 'z');
      await measure(page, `machine ${n}, draining`, found);
    }
    assert.deepEqual(found, []);
    assert.deepEqual(page.problems, []);
  });
}
