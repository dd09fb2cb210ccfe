// One small machine, worked by a general Bayesian-network library (bayesjs) and by Kelvet.
import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { test } from 'node:test';
import bayes from 'bayesjs';
import { root } from './workshop.mjs';

const slip = 0.015;
const faults = {
  supply: { mode: 'flaky', odds: 0.1, bites: 0.6, stops: { 2: 0.5, 4: 0.3 } },
  'stick-1': { mode: 'bad', odds: 0.05, bites: 0.95, stops: { 4: 0.9 } },
  board: { mode: 'broken', odds: 0.02, bites: 1, stops: { 2: 0.3, 4: 0.6 } },
};
const names = ['NoStandby', 'StandbyOnly', 'CutsOut', 'RestartLoop', 'RunsNoPost'];

// What was in the machine at each start, and the stages that were seen.
const trials = [
  { changes: [], fitted: ['supply', 'stick-1', 'board'], seen: [2, 2] },
  { changes: ['swap supply spare-supply'], fitted: ['stick-1', 'board'], seen: [4, 5] },
  { changes: ['swap stick-1 spare-stick'], fitted: ['board'], seen: [6, 8] },
  { changes: ['swap spare-supply supply'], fitted: ['supply', 'board'], seen: [6, 8] },
];

const atlas = () => {
  const shipped = readFileSync(join(root, 'src/Kelvet.Core/Faults/atlas.yaml'), 'utf8');
  const on = { supply: 'supply', 'stick-1': 'memory-stick', board: 'motherboard' };
  const modes = Object.entries(faults).map(([unit, f]) => `  - id: ${f.mode}
    on: ${on[unit]}
    name: ${f.mode}
    odds: ${f.odds}
    bites: [ { when: [fitted], with: ${f.bites} } ]
    stops: { ${Object.entries(f.stops).map(([s, p]) => `${names[s]}: ${p}`).join(', ')} }
    stall: power
    cure: replace`);
  return `version: "1"
slip: ${slip}
reported-slip: 0.3
origins: { customer: 1, shelf: 0, new: 0 }
contexts:
${['tripped-breaker', 'smell', 'wet'].map((id) => `  - { id: ${id}, name: ${id}, multiply: {} }`).join('\n')}
modes:
${modes.join('\n')}
checks:
${['look-board', 'look-wet'].map((id) => `  - id: ${id}
    on: motherboard
    name: ${id}
    say: Look.
    found: damage
    minutes: 1
    leak: 0.02
    only-with: wet
    findings: [ { id: burnt, name: burn marks, shows: { broken: 0.5 } } ]`).join('\n')}
${shipped.slice(shipped.indexOf('\npractice:'))}`;
};

const caseFile = () => ({
  format: 'kelvet-job', version: 1, title: 'Small machine',
  units: [
    { id: 'supply', kind: 'supply', name: 'supply' },
    { id: 'board', kind: 'motherboard', name: 'board', slots: [{ name: 'A1', channel: 'A' }], outputs: [{ name: 'HDMI', signal: 'digital' }] },
    { id: 'cpu', kind: 'cpu', name: 'CPU', graphics: true },
    { id: 'cooler', kind: 'cooler', name: 'cooler' },
    { id: 'stick-1', kind: 'memory-stick', name: 'stick' },
    { id: 'cable', kind: 'video-cable', name: 'cable' },
    { id: 'monitor', kind: 'monitor', name: 'monitor' },
    { id: 'spare-supply', kind: 'supply', name: 'spare supply', origin: 'shelf' },
    { id: 'spare-stick', kind: 'memory-stick', name: 'spare stick', origin: 'shelf' },
  ],
  fitted: { supply: 'supply', board: 'board', cpu: 'cpu', cooler: 'cooler', 'memory.A1': 'stick-1', cable: 'cable', monitor: 'monitor' },
  start: 'header-pins', display: 'board/HDMI',
  steps: trials.map((t) => ({ kind: 'trial', changes: t.changes, seen: t.seen[0] === t.seen[1] ? `${t.seen[0]}` : t.seen.join('-') })),
});

// P(reached at least s | these faults are there): the weakest link stops the climb. No drive: nothing gets above 6.
const reach = (s, present) => s > 6 ? 0 : present.reduce((r, unit) => {
  const { bites, stops } = faults[unit];
  const own = 1 - Object.entries(stops).reduce((sum, [stage, p]) => sum + (stage < s ? p : 0), 0);
  return r * (1 - bites + bites * own);
}, 1);

const network = () => {
  const nodes = Object.fromEntries(Object.entries(faults).map(([unit, f]) => [unit, { id: unit, states: ['T', 'F'], parents: [], cpt: { T: f.odds / (1 + f.odds), F: 1 / (1 + f.odds) } }]));
  trials.forEach(({ fitted, seen: [low, high] }, n) => {
    const parents = Object.keys(faults);
    const cpt = [];
    for (let bits = 0; bits < 8; bits++) {
      const when = Object.fromEntries(parents.map((p, i) => [p, bits >> i & 1 ? 'T' : 'F']));
      const present = parents.filter((p) => when[p] === 'T' && fitted.includes(p));
      const p = (1 - slip) * (reach(low, present) - reach(high + 1, present)) + slip * (high - low + 1) / 9;
      cpt.push({ when, then: { T: p, F: 1 - p } });
    }
    nodes[`trial-${n}`] = { id: `trial-${n}`, states: ['T', 'F'], parents, cpt };
  });
  return nodes;
};

test('posteriors agree with a general Bayesian-network library after every trial', () => {
  const folder = mkdtempSync(join(tmpdir(), 'kelvet-network-'));
  writeFileSync(join(folder, 'case.json'), JSON.stringify(caseFile()));
  writeFileSync(join(folder, 'atlas.yaml'), atlas());
  for (let n = 0; n <= trials.length; n++) {
    const said = JSON.parse(execFileSync('./kelvet', ['cli', 'diagnose', join(folder, 'case.json'), '--atlas', join(folder, 'atlas.yaml'), '--after', `${n}`, '--json'], { cwd: root, encoding: 'utf8' }));
    const given = Object.fromEntries(trials.slice(0, n).map((_, i) => [`trial-${i}`, 'T']));
    for (const unit of Object.keys(faults)) {
      const expected = bayes.infer(network(), { [unit]: 'T' }, given);
      const found = said.suspects.find((s) => s.unit === unit).probability;
      assert.ok(Math.abs(expected - found) < 1e-6, `${unit} after ${n} trials: ${expected} by the library, ${found} by Kelvet`);
    }
  }
});
