// The command line: what it prints and how it exits.
import assert from 'node:assert/strict';
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, test } from 'node:test';
import { root } from './workshop.mjs';

const story = join(root, 'src/Kelvet.Web/Demo/cuts-out.json');
const cli = (...args) => spawnSync('./kelvet', ['cli', ...args], { cwd: root, encoding: 'utf8' });

let folder;
before(() => {
  folder = mkdtempSync(join(tmpdir(), 'kelvet-cli-'));
  assert.equal(cli('validate', story).status, 0);
});
after(() => rmSync(folder, { recursive: true, force: true }));

test('diagnose names the part, for people and for programs', () => {
  assert.match(cli('diagnose', story).stdout, /Velm 450 W\s+over 99\u00a0%\s+condemned/);
  const read = JSON.parse(cli('diagnose', story, '--json').stdout);
  assert.equal(read.suspects[0].unit, 'supply');
  assert.equal(read.suspects[0].standing, 'condemned');
  assert.ok(Math.abs(read.faults.reduce((a, b) => a + b) - 1) < 1e-9);
});

test('diagnose --after stops at a step, and --explain goes through the steps', () => {
  const early = JSON.parse(cli('diagnose', story, '--after', '7', '--json').stdout);
  assert.equal(early.trials, 7);
  assert.notEqual(early.suspects[0].standing, 'condemned');
  assert.match(cli('diagnose', story, '--explain', 'supply').stdout, /step 8/);
});

test('a wrong file ends with 1 and its place, a missing one and wrong use with 2', () => {
  const broken = join(folder, 'broken.json');
  writeFileSync(broken, readFileSync(story, 'utf8').replace('"clear-cmos"', '"hit-it"'));
  for (const command of ['validate', 'diagnose']) {
    const run = cli(command, broken);
    assert.equal(run.status, 1);
    assert.match(run.stderr, /broken\.json: \$\.steps\[1\]\.changes\[0\]/);
  }
  const check = join(folder, 'check.json');
  writeFileSync(check, readFileSync(story, 'utf8').replace('"steps": [', '"steps": [{"kind":"finding","check":"stare","unit":"supply","found":true},'));
  assert.match(cli('validate', check).stderr, /no check "stare"/);
  assert.equal(cli('diagnose', join(folder, 'nowhere.json')).status, 2);
  assert.equal(cli('simulate', '--school', 'nobody').status, 2);
  assert.equal(cli('diagnose', story, '--explain', 'toaster').status, 1);
});

test('simulate prints the same for the same seed', () => {
  const run = () => cli('simulate', '--jobs', '3', '--seed', '9', '--school', 'advisor', '--json').stdout;
  const first = run();
  assert.equal(JSON.parse(first).schools[0].jobs, 3);
  assert.equal(run(), first);
});

test('shares of a campaign that are worked side by side add up to the bytes of one run; a job of it is played again', () => {
  const at = (name) => join(folder, name);
  const worked = ['campaign', '--worlds', 'cold-only,three-faults', '--jobs', '2', '--seed', '5'];
  assert.equal(cli(...worked, '--out', at('whole.jsonl')).status, 0);
  const parallel = spawnSync('parallel', ['--will-cite', './kelvet', 'cli', ...worked, '--shard', '{}/3', '--out', `${folder}/share-{}.jsonl`, ':::', '3', '1', '2'], { cwd: root, encoding: 'utf8' });
  assert.equal(parallel.status, 0, parallel.stderr);
  const table = (...files) => cli('merge', ...files.map(at), '--csv', at('table.csv')).stdout + readFileSync(at('table.csv'), 'utf8');
  const whole = table('whole.jsonl');
  assert.match(whole, /all together,4,/);
  assert.equal(table('share-2.jsonl', 'share-3.jsonl', 'share-1.jsonl'), whole);
  const [first] = readFileSync(at('whole.jsonl'), 'utf8').split('\n').map((line) => line && JSON.parse(line)).filter((job) => job.World === 'cold-only' && job.Job === 1);
  const played = cli('campaign', '--replay', 'cold-only/1', '--seed', '5').stdout;
  assert.match(played, new RegExp(`${first.Result.Minutes.toFixed(0)} min, .*; ${first.Result.Trials} starts; `));
  assert.match(played, /^ {2}1\. [A-Z].*\.$/m);
  assert.equal(cli('campaign', '--jobs', '2').status, 2);
  assert.equal(cli('campaign', '--replay', 'cold-only').status, 2);
});

test('schema, tables of fields and the drawing of the floors are what the code has', () => {
  const checked = cli('docs', 'docs', '--check');
  assert.equal(checked.status, 0, checked.stdout + checked.stderr);
});
