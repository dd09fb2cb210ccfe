// Refreshes docs/screenshots from the demo.
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { openPage, root, startBrowser, startServer } from './workshop.mjs';

const folder = join(root, 'docs/screenshots');
const views = [
  ['jobs', '/'],
  ['bench', '/jobs/1008'],
  ['bench-long-job-dark', '/jobs/1003', { colorScheme: 'dark' }],
  ['bench-pending', '/jobs/1009?do=swap%20supply%20shelf-supply&pick=supply'],
  ['bench-narrow', '/jobs/1005', { viewport: { width: 1024, height: 768 } }],
  ['steps', '/jobs/1008/steps'],
  ['case', '/jobs/1002/unit/supply'],
  ['log', '/jobs/1003/log'],
  ['intake', '/jobs/new'],
  ['report', '/jobs/1002/report'],
];

mkdirSync(folder, { recursive: true });
const server = await startServer();
const browser = await startBrowser();
for (const [name, path, options] of views) {
  const page = await openPage(browser, server, options);
  await page.goto(path);
  await page.evaluate(() => document.fonts.ready);
  await page.screenshot({ path: join(folder, `${name}.png`) });
  console.log(`docs/screenshots/${name}.png`);
  await page.context().close();
}
await browser.close();
await server.stop();
