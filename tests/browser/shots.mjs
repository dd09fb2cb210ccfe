// Refreshes docs/screenshots from the demo.
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { acted, find, handAt, openPage, root, startBrowser, startServer } from './workshop.mjs';

const folder = join(root, 'docs/screenshots');
const only = process.argv[2];
const views = [
  ['jobs', '/'],
  ['bench', '/jobs/1008', {}, 'g'],
  ['bench-long-job-dark', '/jobs/1003', { colorScheme: 'dark' }],
  ['bench-phone', '/jobs/1008', { viewport: { width: 390, height: 844 } }, async (page) => (await page.locator('.gate [data-key=g]').count()) && acted(page, 'g')],
  ['bench-gate', '/jobs/1009?do=swap%20supply%20shelf-supply', {}, 'g'],
  ['signals', '/jobs/1010', {}, async (page) => {
    await page.keyboard.press('h');
    const hand = await handAt(page);
    for (let round = 0; round < 2; round++) {
      await hand.beep(900, 180, 180);
      await hand.wait(1500);
    }
    await hand.tap('1', 900);
    await hand.tap('2', 3000);
  }],
  ['codes', '/codes?q=5+short'],
  ['shelf', '/shelf'],
  ['steps', '/jobs/1008/steps'],
  ['case', '/jobs/1002/unit/supply'],
  ['log', '/jobs/1003/log'],
  ['close', '/jobs/1006/close'],
  ['intake', '/jobs/new?customer=9'],
  ['card', '/jobs/1009/card'],
  ['once-over', '/jobs/1008/once-over'],
  ['memory', '/jobs/1008/memory'],
  ['proof', '/jobs/1003/proof'],
  ['papers', '/jobs/1002/papers', {}, async (page) => page.waitForSelector('html[data-papers=shown]')],
  ['power', '/jobs/1003/power', {}, async (page) => {
    for (const [load, volts] of [['Idle', '12.05'], ['Full', '11.1']]) {
      await page.fill('#rail-V12', volts);
      await page.selectOption('#load', load);
      await page.selectOption('#at', 'AtBoard');
      await page.click('#read button');
      await page.getByText(`${volts}0 V`).or(page.getByText(`${volts} V`)).first().waitFor();
    }
    await page.evaluate(() => scrollTo(0, 0));
  }],
];

mkdirSync(folder, { recursive: true });
const server = await startServer();
const browser = await startBrowser();
for (const [name, path, options, key] of views.filter((v) => !only || v[0] === only)) {
  const page = await openPage(browser, server, options);
  await page.goto(path);
  if (typeof key === 'function') await key(page);
  else if (key) await acted(page, key);
  await page.evaluate(() => document.fonts.ready);
  await page.screenshot({ path: join(folder, `${name}.png`) });
  console.log(`docs/screenshots/${name}.png`);
  await page.context().close();
}
await browser.close();
await server.stop();
