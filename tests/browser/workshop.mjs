// Starts the built application on a port and data folder of its own, and a browser in front of it.
import { spawn } from 'node:child_process';
import { cpSync, existsSync, mkdtempSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { chromium } from 'playwright-core';

export const root = resolve(import.meta.dirname, '../..');
const app = join(root, 'artifacts/app/Kelvet.Web.dll');

/** The data of the demo shop as the built application makes them: made once for all files of tests. */
async function demoMade() {
  const name = `demo-made-${statSync(app).mtimeMs}-${new Date().toISOString().slice(0, 10)}`;
  const made = join(root, 'artifacts', name);
  if (existsSync(made)) return made;
  for (const old of readdirSync(join(root, 'artifacts'))) if (old.startsWith('demo-made-')) rmSync(join(root, 'artifacts', old), { recursive: true, force: true });
  const folder = mkdtempSync(join(root, 'artifacts', 'demo-'));
  const server = await launch(folder, 0, ['--demo']);
  await server.kill('SIGTERM');
  try {
    renameSync(folder, made);
  } catch {
    // Another suite was sooner.
    rmSync(folder, { recursive: true, force: true });
  }
  return made;
}

/** A server on any port that is free, or on one it had before. */
export async function startServer({ demo = true, folder, port = 0 } = {}) {
  if (!folder) {
    folder = mkdtempSync(join(tmpdir(), 'kelvet-browser-'));
    if (demo) cpSync(await demoMade(), folder, { recursive: true });
  }
  return launch(folder, port, []);
}

async function launch(folder, port, more) {
  const child = spawn('dotnet', [app, '--data', folder, '--port', String(port), ...more], { stdio: ['ignore', 'pipe', 'pipe'] });
  let said = '';
  port = await new Promise((ready, fail) => {
    child.stdout.on('data', (d) => {
      said += d;
      const address = said.match(/is ready: http:\/\/127\.0\.0\.1:(\d+)/);
      if (address) ready(Number(address[1]));
    });
    child.stderr.on('data', (d) => (said += d));
    child.on('exit', () => fail(new Error(`The server stopped: ${said}`)));
  });
  return {
    url: `http://127.0.0.1:${port}`,
    folder,
    port,
    pid: child.pid,
    kill: (signal = 'SIGKILL') => new Promise((gone) => {
      child.removeAllListeners('exit');
      child.on('exit', gone);
      child.kill(signal);
    }),
    async stop() {
      await this.kill();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

export function startBrowser(...more) {
  return chromium.launch({
    executablePath: process.env.KELVET_CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--font-render-hinting=none', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync', ...more],
  });
}

/** A page that fails the test when the page reports an error or a blocked script. */
export async function openPage(browser, server, options = {}) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, baseURL: server.url, ...options });
  const page = await context.newPage();
  page.problems = [];
  page.on('pageerror', (e) => page.problems.push(String(e)));
  page.on('console', (m) => {
    if (m.type() === 'error' && !m.text().includes('status of 404')) page.problems.push(m.text());
  });
  return page;
}

/**
 * Presses a key or does something on the bench and waits until the page has taken up what came of it. A refresh by the
 * clock, as at the end of a drain, is not what came of it.
 */
export async function acted(page, act) {
  const before = await page.evaluate(() => [document.querySelector('.bench')?.dataset.answers ?? '0', performance.timeOrigin]);
  await (typeof act === 'string' ? page.keyboard.press(act) : act());
  await page.waitForFunction(([answers, origin]) => performance.timeOrigin !== origin || (document.querySelector('.bench')?.dataset.answers ?? '0') !== answers, before);
  await page.waitForLoadState('domcontentloaded');
}

/** Answers a look, a test or a reading by its key; for one with hands in the machine it is switched off and drained before. */
export async function find(page, key) {
  if (await page.locator('.gate [data-key=g]').count()) await acted(page, 'g');
  await page.waitForFunction((k) => document.querySelector(`#record [data-key="${k}"]`)?.disabled === false, key);
  await acted(page, key);
}

/** Goes through the gate by its key until the machine is on, then says how far it got. */
export async function start(page, stage) {
  const gate = page.locator('.gate [data-key=g]');
  while (await gate.count()) {
    await page.waitForFunction(() => !document.querySelector('.gate [data-key=g]')?.disabled);
    if (!(await gate.count())) break;
    await acted(page, 'g');
  }
  if (['4', '9', '5'].includes(stage) && (await page.locator('.timer[data-name=wait]:not(.rung)').count())) {
    await page.keyboard.press(stage);
    await page.locator('#record-panel .early').waitFor({ state: 'visible' });
  }
  await acted(page, stage);
}

/**
 * A hand that moves keys at exact times: the browser is told when each one moved, so what is tapped does not depend on how
 * busy the machine is that runs the test.
 */
export async function handAt(page) {
  const devtools = await page.context().newCDPSession(page);
  let at = Date.now() / 1000;
  const move = (type, key, code) => devtools.send('Input.dispatchKeyEvent', { type, key, code, text: type === 'keyDown' ? key : undefined, timestamp: at });
  const wait = async (ms) => {
    at += ms / 1000;
    await page.waitForTimeout(Math.max(0, at * 1000 - Date.now()));
  };
  return {
    wait,
    async beep(...lengths) {
      for (const length of lengths) {
        await move('keyDown', ' ', 'Space');
        await wait(length);
        await move('keyUp', ' ', 'Space');
        await wait(200);
      }
    },
    /** The page hears of the key's coming up right after its going down, as when it was held up meanwhile. */
    async beepUnseen(length) {
      await move('keyDown', ' ', 'Space');
      at += length / 1000;
      await move('keyUp', ' ', 'Space');
    },
    async tap(digit, pause) {
      await move('keyDown', digit, `Digit${digit}`);
      await move('keyUp', digit, `Digit${digit}`);
      await wait(pause);
    },
  };
}

/** Sets how long the shop drains a machine. */
export async function drainFor(page, seconds) {
  await page.goto('/shop');
  await page.getByLabel('Hold start to drain').fill(String(seconds));
  await page.locator('#ways').getByRole('button', { name: 'Keep' }).click();
}

/** Counts what a hand does: each key and each click is one. */
export function hand(page) {
  const counted = { done: 0 };
  return Object.assign(counted, {
    press: async (key) => { counted.done++; await page.keyboard.press(key); },
    type: async (text) => { counted.done += text.length; await page.keyboard.type(text); },
    click: async (what) => { counted.done++; await what.click(); },
  });
}
