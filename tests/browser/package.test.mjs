// What a shop installs: unpacked and started with no .NET on the path, a copy made and put back by its own commands.
import assert from 'node:assert/strict';
import { spawn, spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, symlinkSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { after, before, test } from 'node:test';

const root = path.resolve(import.meta.dirname, '../..');
const room = mkdtempSync(path.join(tmpdir(), 'kelvet-package-'));
const bin = path.join(room, 'bin');
const data = path.join(room, 'data');
let files;

// Only what every Linux has: no dotnet, no node.
function bare() {
  mkdirSync(bin);
  for (const tool of ['sh', 'cat', 'dirname', 'readlink', 'uname']) {
    const at = ['/bin', '/usr/bin'].map((d) => path.join(d, tool)).find((p) => spawnSync('test', ['-x', p]).status === 0);
    symlinkSync(at, path.join(bin, tool));
  }
}
const env = { PATH: bin, HOME: room, KELVET_DATA: data, KELVET_DEMO_DATA: data };

/** Starts a server and waits until it says where it is. */
async function start(command, ...args) {
  const server = spawn(command, args, { env, cwd: room });
  let told = '';
  const address = await new Promise((found, failed) => {
    for (const stream of [server.stdout, server.stderr]) {
      stream.on('data', (chunk) => {
        told += chunk;
        const ready = told.match(/is ready: (\S+)/);
        if (ready) found(ready[1]);
      });
    }
    server.on('exit', () => failed(new Error(`it ended: ${told}`)));
  });
  return { server, address };
}

async function stop(server) {
  const ended = new Promise((r) => { server.on('exit', r); });
  server.kill('SIGTERM');
  assert.equal(await ended, 0);
}

const run = (command, ...args) => spawnSync(command, args, { env, cwd: room, encoding: 'utf8' });

before(() => {
  bare();
  const made = spawnSync(path.join(root, 'kelvet'), ['package', 'x64'], { cwd: root, encoding: 'utf8' });
  assert.equal(made.status, 0, made.stderr);
  files = made.stdout.trim().split('\n').map((f) => path.join(root, f));
});

after(() => spawnSync('rm', ['-rf', room]));

test('the archive starts with no dotnet on the path, and its commands copy, put back and check', async () => {
  assert.notEqual(run('sh', '-c', 'command -v dotnet').status, 0);
  assert.equal(spawnSync('tar', ['-C', room, '-xzf', files[0]]).status, 0);
  const kelvet = path.join(room, readdirSync(room).find((n) => n.startsWith('kelvet-')), 'kelvet');
  const version = run(kelvet, 'version');
  assert.match(version.stdout, /^0\.2\.[1-9][0-9]*\s*$/, version.stderr);
  const { server, address } = await start(kelvet, 'demo', '--port', '0');
  assert.equal(await (await fetch(`${address}/healthz`)).text(), 'kelvet');
  for (const page of ['/', '/jobs/1003', '/jobs/1003/report', '/copies', '/css/site.css', '/js/bench.js', '/fonts/b612-latin-400-normal.woff2']) {
    assert.equal((await fetch(address + page)).status, 200, page);
  }
  const copied = run(kelvet, 'copy');
  assert.equal(copied.status, 0, copied.stderr);
  // What runs holds the data: nothing is put back under it.
  const held = run(kelvet, 'restore');
  assert.equal(held.status, 1);
  assert.match(held.stderr, /Stop it first/);
  await stop(server);
  const back = run(kelvet, 'restore');
  assert.equal(back.status, 0, back.stderr);
  const check = run(kelvet, 'check');
  assert.equal(check.status, 0, check.stdout);
  assert.match(check.stdout, /jobs: 12 sound/);
  const again = await start(kelvet, 'run', '--port', '0');
  assert.match(await (await fetch(`${again.address}/jobs/1003`)).text(), /1003/);
  await stop(again.server);
});

test('the Debian package holds program, unit, user and data folder, and the same program starts from it', async () => {
  const tree = path.join(room, 'deb');
  assert.equal(spawnSync('dpkg-deb', ['-R', files[1], tree]).status, 0);
  const read = (f) => readFileSync(path.join(tree, f), 'utf8');
  assert.match(read('DEBIAN/control'), /^Package: kelvet\nVersion: 0\.2\.[0-9]+\nArchitecture: amd64/);
  assert.match(read('lib/systemd/system/kelvet.service'), /User=kelvet[\s\S]*KELVET_DATA=\/var\/lib\/kelvet[\s\S]*ExecStart=\/usr\/lib\/kelvet\/kelvet run/);
  assert.match(read('DEBIAN/postinst'), /adduser --system/);
  assert.match(read('usr/share/doc/kelvet/operate.md'), /way back/i);
  const { server, address } = await start(path.join(tree, 'usr/bin/kelvet'), 'run', '--port', '0');
  assert.equal((await fetch(`${address}/jobs/1003`)).status, 200);
  await stop(server);
});
