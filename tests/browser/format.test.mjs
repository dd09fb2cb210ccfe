// Exports against the published JSON Schema, and the one script's own manners.
import assert from 'node:assert/strict';
import { execFileSync, spawnSync } from 'node:child_process';
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { after, before, test } from 'node:test';
import Ajv from 'ajv/dist/2020.js';
import formats from 'ajv-formats';
import { root, startServer } from './workshop.mjs';

const ajv = formats(new Ajv({ allErrors: true }));
const validate = ajv.compile(JSON.parse(readFileSync(join(root, 'docs/job.schema.json'), 'utf8')));

let server;
before(async () => {
  server = await startServer();
});
after(() => server?.stop());

test('every exported job and every shipped example is valid by the schema', async () => {
  for (let job = 1001; job <= 1010; job++) {
    const exported = await (await fetch(`${server.url}/jobs/${job}/export`)).json();
    assert.ok(validate(exported), `${job}: ${ajv.errorsText(validate.errors)}`);
  }
  const demo = join(root, 'src/Kelvet.Web/Demo');
  for (const file of readdirSync(demo).filter((f) => f.endsWith('.json') && f !== 'shelf.json')) {
    assert.ok(validate(JSON.parse(readFileSync(join(demo, file), 'utf8'))), `${file}: ${ajv.errorsText(validate.errors)}`);
  }
  const examples = join(root, 'docs/examples');
  for (const file of readdirSync(examples)) {
    // Written by hand: comments and trailing commas are allowed there.
    const plain = readFileSync(join(examples, file), 'utf8').replace(/^\s*\/\/.*$/gm, '').replace(/,(\s*[}\]])/g, '$1');
    assert.ok(validate(JSON.parse(plain)), `${file}: ${ajv.errorsText(validate.errors)}`);
  }
});

test('the schema refuses what the reader refuses', async () => {
  const good = await (await fetch(`${server.url}/jobs/1003/export`)).json();
  for (const spoil of [
    (j) => (j.version = 7),
    (j) => (j.units[0].kind = 'toaster'),
    (j) => (j.steps[0].seen = '12'),
    (j) => (j.steps[4].changes = ['hit-it']),
    (j) => (j.surprise = true),
    (j) => delete j.units,
  ]) {
    const bad = structuredClone(good);
    spoil(bad);
    assert.ok(!validate(bad), spoil.toString());
  }
});

test('the script says what is wrong in one line and fails', () => {
  for (const [args, words] of [[['dance'], /no command 'dance'/], [['test', 'everything'], /no suite 'everything'/], [['demo', '--port', String(server.port)], /is taken/]]) {
    const run = spawnSync('./kelvet', args, { cwd: root, encoding: 'utf8', env: { ...process.env, KELVET_DEMO_DATA: `${server.folder}-two` } });
    assert.notEqual(run.status, 0);
    assert.match(run.stderr, words);
  }
  assert.match(execFileSync('./kelvet', ['help'], { cwd: root, encoding: 'utf8' }), /demo/);
});
