// What the board tells: beeps tapped, heard and read from a file, lights tapped, codes from a reader on a real
// pseudo-terminal, and the reference.
import assert from 'node:assert/strict';
import { execFileSync, spawn } from 'node:child_process';
import { appendFileSync, existsSync, mkdtempSync, readFileSync, readlinkSync, rmSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, test } from 'node:test';
import { acted, drainFor, handAt, openPage, start, startBrowser, startServer } from './workshop.mjs';

const folder = mkdtempSync(join(tmpdir(), 'kelvet-signals-'));
const wav = join(folder, 'beeps.wav');
const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

/** Rounds of beeps at 880 Hz: lengths in seconds, with the noise of a fan. */
function beeps(file, lengths, rounds) {
  const pieces = [];
  for (let r = 0; r < rounds; r++) {
    lengths.forEach((length, i) => {
      const piece = join(folder, `piece-${length}-${i === lengths.length - 1}.wav`);
      execFileSync('sox', ['-n', '-r', '48000', '-b', '16', '-c', '1', piece, 'synth', length, 'square', '880', 'gain', '-9', 'pad', '0', i === lengths.length - 1 ? '2' : '0.22'].map(String));
      pieces.push(piece);
    });
  }
  const tone = join(folder, 'tone.wav');
  execFileSync('sox', [...pieces, tone, 'pad', '0.5', '0']);
  execFileSync('sox', ['-n', '-r', '48000', '-b', '16', '-c', '1', join(folder, 'fan.wav'), 'synth', '40', 'brownnoise', 'gain', '-20']);
  execFileSync('sox', ['-m', tone, join(folder, 'fan.wav'), file, 'trim', '0', '14']);
}

let server, browser, cable;
before(async () => {
  beeps(wav, [0.9, 0.2, 0.2, 0.2], 3);
  server = await startServer();
  browser = await startBrowser('--use-fake-ui-for-media-stream', '--use-fake-device-for-media-stream', `--use-file-for-fake-audio-capture=${wav}`);
  const page = await openPage(browser, server);
  await drainFor(page, 5);
  await page.close();
});
after(async () => {
  cable?.kill();
  await browser?.close();
  await server?.stop();
  rmSync(folder, { recursive: true, force: true });
});

/** Opens a job's bench with the power on, and the signals dialog. */
async function listening(page, job) {
  await page.goto(`/jobs/${job}`);
  if (await page.locator('.gate').count()) await acted(page, 'g');
  await page.keyboard.press('h');
  await page.locator('#signals[open]').waitFor();
}

test('beeps are tapped along, are decoded as they come and go with the start', async () => {
  const page = await openPage(browser, server);
  await listening(page, 1007);
  const hand = await handAt(page);
  await hand.beep(150, 150, 150);
  await page.locator('[data-told=beeps] .heard', { hasText: '3 short' }).waitFor();
  await hand.wait(1300);
  await hand.beep(150, 150, 150);
  await page.locator('[data-told=beeps] .heard', { hasText: '3 short, 2 times' }).waitFor();
  assert.match(await page.locator('[data-told=beeps]').innerText(), /main part of the firmware was not found.*Aptio V beeps/);
  await page.evaluate(axe);
  const found = await page.evaluate(() => axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'] }));
  assert.deepEqual(found.violations.map((v) => v.id), []);
  await page.keyboard.press('Escape');
  assert.match(await page.locator('.noted').innerText(), /beeps 3 short/);
  await acted(page, '0');
  await page.goto('/jobs/1007/log');
  assert.match(await page.locator('#line-4').innerText(), /beeps 3 short/);
  assert.match(await page.locator('#line-4').innerText(), /A pointer, no verdict/);
  assert.deepEqual(page.problems, []);
});

test('what is tapped is timed by the key, is withdrawn when it is no longer sure, and outlives timers and other benches', async () => {
  const page = await openPage(browser, server);
  await listening(page, 1006);
  const field = page.locator('#record [name="signs.beeps"]');
  const holds = async (value) => page.waitForFunction((wanted) => document.querySelector('#record [name="signs.beeps"]').value === wanted, value);

  // The page comes round to a long beep when it is over: it was long all the same.
  let hand = await handAt(page);
  await hand.beepUnseen(900);
  await page.locator('[data-told=beeps] .heard', { hasText: '1 long' }).waitFor();
  await page.getByRole('group', { name: 'Beeps' }).getByRole('button', { name: 'Clear' }).click();

  await page.locator('[data-tap]').focus();
  hand = await handAt(page);
  await hand.beep(150, 150, 150);
  await holds('3 short');
  hand = await handAt(page);
  await hand.beep(300, 600, 450);
  await holds('');
  await page.getByRole('group', { name: 'Beeps' }).getByRole('button', { name: 'Clear' }).click();
  await page.locator('[data-tap]').focus();
  hand = await handAt(page);
  await hand.beep(150, 150, 150);
  await holds('3 short');
  await page.keyboard.press('Escape');
  await page.locator('#record [name=note]').fill('half written');

  const timer = (p) => acted(p, async () => {
    await p.locator('summary', { hasText: 'Timers' }).click();
    await p.locator('.sheet-of-acts button[name=name], .sheet-of-acts form[action*=Timer] button').first().click();
  });
  await timer(page);
  const other = await openPage(browser, server);
  await other.goto('/jobs/1006');
  const updates = await page.locator('.bench').getAttribute('data-updates');
  await timer(other);
  await page.waitForFunction((n) => document.querySelector('.bench').dataset.updates !== n, updates);
  assert.equal(await field.inputValue(), '3 short');
  assert.equal(await page.locator('#record [name=note]').inputValue(), 'half written');
  assert.match(await page.locator('.noted').innerText(), /beeps 3 short/);
  assert.deepEqual(page.problems, []);
});

test('what is tapped and written stays while changes are picked; recording ends all, power off ends what was heard', async () => {
  const page = await openPage(browser, server);
  await listening(page, 1006);
  const note = page.locator('#record [name=note]');
  const beeps = page.locator('#record [name="signs.beeps"]');
  const pick = () => acted(page, () => page.getByRole('link', { name: 'Clear CMOS c' }).click());
  const drop = () => acted(page, () => page.getByRole('link', { name: 'Drop all x' }).click());
  const tapThree = async () => {
    const hand = await handAt(page);
    await hand.beep(150, 150, 150);
    await page.waitForFunction(() => document.querySelector('#record [name="signs.beeps"]').value === '3 short');
    await page.keyboard.press('Escape');
  };

  await tapThree();
  await note.fill('half written');
  await pick();
  assert.equal(await note.inputValue(), 'half written');
  assert.equal(await beeps.count(), 0, 'hands go in first: nothing of a start is asked');
  // What was emptied stays empty.
  await note.fill('');
  await drop();
  assert.equal(await note.inputValue(), '');
  assert.equal(await beeps.inputValue(), '3 short');
  await note.fill('goes with the start');
  await acted(page, () => page.locator('.stage[data-key="3"]').click());
  assert.deepEqual([await note.inputValue(), await beeps.count(), await page.locator('.noted').count()], ['', 0, 0], 'what was recorded takes no more');
  await acted(page, () => page.keyboard.press('g'));
  assert.equal(await beeps.inputValue(), '');

  // Hands in the machine take no beeps, but as long as the power is on the start still stands.
  await page.keyboard.press('h');
  await tapThree();
  await note.fill('seated anew');
  await pick();
  assert.equal(await beeps.count(), 0);
  await drop();
  assert.equal(await beeps.inputValue(), '3 short');
  await pick();
  await acted(page, () => page.locator('.gate [data-key=g]').click());
  await drop();
  while (await page.locator('.gate').count()) {
    await page.waitForFunction(() => !document.querySelector('.gate [data-key=g]')?.disabled);
    if (await page.locator('.gate').count()) await acted(page, () => page.locator('.gate [data-key=g]').click());
  }
  assert.deepEqual([await note.inputValue(), await beeps.inputValue(), await page.locator('.noted').count()], ['seated anew', '', 0]);
  assert.equal(await page.locator('[data-rhythm] rect').count(), 0, 'the beeps of the start before are gone');
  assert.deepEqual(page.problems, []);
});

test('lights are tapped as they light, are timed and drawn, and go with the start', async () => {
  const page = await openPage(browser, server);
  await listening(page, 1008);
  const hand = await handAt(page);
  await hand.tap('1', 600);
  await hand.tap('2', 600);
  await page.locator('[data-told=lights] .heard', { hasText: 'memory still lit' }).waitFor();
  assert.equal(await page.locator('[data-light-row] rect').count(), 2);
  assert.equal(await page.locator('[data-light=memory]').getAttribute('aria-pressed'), 'true');
  for (let i = 0; i < 6; i++) await hand.tap('2', 250);
  await page.locator('[data-told=lights] .heard', { hasText: 'memory flickers' }).waitFor();
  await page.getByRole('button', { name: 'Done' }).click();
  await page.waitForFunction(() => /memory~/.test(document.querySelector('#record [name="signs.lights"]').value));
  await acted(page, '3');
  const line = await page.locator('.bench').getAttribute('data-lines');
  await page.goto('/jobs/1008/log');
  assert.match(await page.locator(`#line-${line}`).innerText(), /lights cpu:\S+ memory~/);
  assert.deepEqual(page.problems, []);
});

test('the microphone is listened to, and what it hears is decoded', async () => {
  const page = await openPage(browser, server);
  await listening(page, 1004);
  await page.keyboard.press('v');
  await page.locator('[data-told=beeps] .heard', { hasText: '1 long 3 short' }).waitFor({ timeout: 25_000 });
  await page.waitForFunction(() => document.querySelector('#record [name="signs.beeps"]').value === '1 long 3 short', null, { timeout: 25_000 });
  assert.ok((await page.locator('[data-rhythm] rect').count()) >= 4);
  await page.keyboard.press('v');
  assert.equal(await page.locator('[data-mic]').getAttribute('aria-pressed'), 'false');
  assert.deepEqual(page.problems, []);
});

test('a recording is decoded, and one that is none is refused in words', async () => {
  const page = await openPage(browser, server);
  await page.goto('/listen');
  await page.getByLabel('Recording (WAV)').setInputFiles(wav);
  await page.locator('[data-told=beeps] .heard', { hasText: '1 long 3 short' }).waitFor();
  assert.ok((await page.locator('[data-told=beeps] li').count()) >= 3, 'every family is asked');
  assert.ok((await page.locator('[data-rhythm] rect').count()) >= 4, 'the beeps are drawn');
  await page.getByLabel('Recording (WAV)').setInputFiles({ name: 'x.wav', mimeType: 'audio/wav', buffer: Buffer.from('nothing to hear') });
  await page.locator('[data-told=beeps] [role=alert]', { hasText: 'not a WAV' }).waitFor();
  assert.equal(await page.locator('[data-rhythm] rect').count(), 0, 'the beeps of the recording before are gone');

  // On the bench: what the recording before said does not go with the start.
  await listening(page, 1007);
  await page.getByLabel('Recording (WAV)').setInputFiles(wav);
  await page.waitForFunction(() => document.querySelector('#record [name="signs.beeps"]').value === '1 long 3 short');
  await page.getByLabel('Recording (WAV)').setInputFiles({ name: 'x.wav', mimeType: 'audio/wav', buffer: Buffer.from('nothing to hear') });
  await page.locator('[data-told=beeps] [role=alert]').waitFor();
  assert.equal(await page.locator('#record [name="signs.beeps"]').inputValue(), '');
});

test('a reader on a serial line shows its codes live on every bench, and the last one goes with the start', async () => {
  const [theirs, ours] = [join(folder, 'reader'), join(folder, 'bench')];
  const page = await openPage(browser, server);
  const other = await openPage(browser, server);
  await page.goto('/shop');
  await page.locator('#reader-name').fill('Serial reader');
  await page.locator('#reader-address').fill(`/dev/../${ours}`);
  await page.getByRole('button', { name: 'Add the reader' }).click();
  await page.getByRole('alert').filter({ hasText: 'begins with /dev/' }).waitFor();

  // A pseudo-terminal's own name is in /dev; socat's link says which one it is.
  cable = spawn('socat', [`pty,raw,echo=0,link=${theirs}`, `pty,raw,echo=0,link=${ours}`], { stdio: 'ignore' });
  for (let i = 0; i < 100 && !(existsSync(theirs) && existsSync(ours)); i++) await page.waitForTimeout(100);
  await page.goto('/shop');
  await page.locator('#reader-name').fill('Serial reader');
  await page.locator('#reader-address').fill(readlinkSync(ours));
  await page.getByRole('button', { name: 'Add the reader' }).click();
  await page.waitForURL(/#readers/);

  await listening(page, 1005);
  await page.getByRole('button', { name: 'Plug Serial reader in here' }).click();
  await page.locator('#signals:not([open])').waitFor({ state: 'attached' });
  await page.locator('.reader').waitFor();
  await other.goto('/jobs/1005');
  appendFileSync(theirs, '02\r\n0x06\r\nPOST: 2B\r\n');
  for (const p of [page, other]) await p.locator('.reader .code', { hasText: '2B' }).waitFor();
  assert.match(await page.locator('.reader .meaning').innerText(), /data chips are read/);
  appendFileSync(theirs, '?? 55\n');
  await page.locator('.reader .code', { hasText: '55' }).waitFor();
  await page.locator('.reader small', { hasText: '1 not codes' }).waitFor();
  await page.locator('.reader small', { hasText: /^\d+ s/ }).waitFor();

  // A flood: ten thousand codes a second for two seconds. The page stays answering, and the last code is the right one.
  for (let i = 0; i < 20; i++) {
    appendFileSync(theirs, Array.from({ length: 1000 }, (_, n) => `${(n & 0xff).toString(16).padStart(2, '0')}\n`).join(''));
    await page.waitForTimeout(100);
  }
  appendFileSync(theirs, 'd6\n');
  await page.locator('.reader .code', { hasText: 'D6' }).waitFor();
  await page.locator('.reader small', { hasText: /20,00\d codes/ }).waitFor();

  // The cable is pulled and put back: told, and what came before is kept.
  cable.kill();
  await page.locator('.reader.down').waitFor();
  await start(page, '4');
  await page.goto('/jobs/1005/log');
  const line = page.locator('tr', { hasText: 'code D6' });
  assert.match(await line.innerText(), /no picture device found/);
  const [download] = await Promise.all([page.waitForEvent('download'), line.getByRole('link', { name: 'Codes of this start' }).click()]);
  const capture = readFileSync(await download.path(), 'utf8');
  assert.match(capture, /^# kelvet-codes 1\n/);
  assert.match(capture, /reader gone/);
  assert.match(capture, /\d D6\n/);
  assert.deepEqual(page.problems.concat(other.problems), []);
});

test('a code is looked up by keyboard and has an address', async () => {
  const page = await openPage(browser, server);
  await page.goto('/codes');
  // The page puts the cursor there by itself.
  await page.waitForFunction(() => document.activeElement.id === 'q');
  await page.keyboard.type('1-2-2-3');
  await page.keyboard.press('Enter');
  await page.getByRole('link', { name: '1-2-2-3' }).click();
  assert.match(page.url(), /\/codes\/phoenix-beeps\/1-2-2-3$/);
  await page.emulateMedia({ media: 'print' });
  assert.equal(await page.locator('.strip').isVisible(), false);
  assert.ok(await page.getByText('firmware checksum').first().isVisible());
});
