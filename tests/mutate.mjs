// A sample of small changes to the rules, each of which some test of the rules should notice: a change that none notices is printed.
//   node tests/mutate.mjs [--each N] [--seed N] [--rules] [--table] [FILE …]
// Files are under src/Kelvet.Core; --rules asks the suite of rules alone, --table writes what was found to the docs.
import { spawnSync } from 'node:child_process';
import { cpSync, copyFileSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';

const RULES = [
  'Jobs/PowerGate.cs', 'Jobs/Safety.cs', 'Jobs/LogBook.cs', 'Proving/Rivals.cs', 'Proving/Proof.cs', 'Proving/BenchDiagnosis.cs',
  'Proving/CleanStarts.cs', 'Proving/ProofByStarts.cs', 'Planning/Closing.cs', 'Planning/Closing.Units.cs', 'Planning/Closing.Arrangements.cs',
  'Planning/ProofPrice.cs', 'Worksheets/MemoryPairs.cs', 'Worksheets/ProfileLadder.cs', 'Worksheets/FirmwareQuestion.cs',
];

// Between two reals the edge itself is never met: there the whole comparison is turned round.
const REALS = new Set(['Probability', 'PlainlyReplace', 'P', 'Sum', 'Marginals', 'Cost', 'Expected', 'Engaged', 'Fit', 'fit', 'fits', 'steady', 'Rate']);
for (const file of readdirSync('src/Kelvet.Core', { recursive: true }).filter((f) => f.endsWith('.cs')))
  for (const [, name] of readFileSync(path.join('src/Kelvet.Core', file), 'utf8').matchAll(/(?:const|readonly) double (\w+)/g)) REALS.add(name);
const isReal = (line) => /\d\.\d/.test(line) || [...line.matchAll(/\w+/g)].some(([word]) => REALS.has(word));
const edge = (other, turned) => (m, line) => (isReal(line) ? turned : other);

// What is changed, and into what. Each is tried where it stands outside comments and texts.
const CHANGES = [
  [/ <= /g, edge(' < ', ' > ')], [/ >= /g, edge(' > ', ' < ')], [/ < (?=[\w(])/g, edge(' <= ', ' > ')], [/ > (?=[\w(])/g, edge(' >= ', ' < ')],
  [/ == /g, () => ' != '], [/ != /g, () => ' == '], [/ && /g, () => ' || '], [/ \|\| /g, () => ' && '],
  [/ \+ (?=[\w(])/g, () => ' - '], [/ - (?=[\w(])/g, () => ' + '], [/ \* /g, () => ' / '],
  [/(?<![\w.])(\d+)(?![\w.])/g, (m) => String(Number(m) + 1)], [/(?<![\w.])(\d+\.\d+)(?![\w.])/g, (m) => String(Number(m) * 3)],
  [/\.Any\((?=\w)/g, () => '.All('], [/\.All\((?=\w)/g, () => '.Any('], [/\btrue\b/g, () => 'false'], [/\bfalse\b/g, () => 'true'],
  [/ is not null/g, () => ' is null'], [/ is null/g, () => ' is not null'], [/\.LastOrDefault\(/g, () => '.FirstOrDefault('],
  [/\.FirstOrDefault\(/g, () => '.LastOrDefault('], [/\.OrderByDescending\(/g, () => '.OrderBy('], [/\.Max\(/g, () => '.Min('],
  [/\.Min\(/g, () => '.Max('], [/return null;/g, () => 'throw new InvalidOperationException();'],
];

const args = process.argv.slice(2);
const table = args.includes('--table') && args.splice(args.indexOf('--table'), 1).length > 0;
const alone = args.includes('--rules') && args.splice(args.indexOf('--rules'), 1).length > 0;
const option = (name, otherwise) => (args.includes(name) ? Number(args.splice(args.indexOf(name), 2)[1]) : otherwise);
const each = option('--each', 10);
let seed = option('--seed', 1);
const firstSeed = seed;
const files = args.length > 0 ? args : RULES;
const next = () => ((seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32);

const tree = path.resolve('artifacts/mutation');
rmSync(tree, { recursive: true, force: true });
mkdirSync(tree, { recursive: true });
const apart = (from) => !/(^|\/)(bin|obj|node_modules)$/.test(from);
for (const part of ['src', 'tests', 'docs', 'Kelvet.slnx', 'Directory.Build.props', 'Directory.Packages.props', '.editorconfig', '.config', 'artifacts/outside'])
  cpSync(part, path.join(tree, part), { recursive: true, filter: apart });

// What hangs is killed with all that it started: it would be taken for passed, and run on beside the next.
const run = (...command) => spawnSync('timeout', ['--signal=KILL', '300', ...command], { cwd: tree, encoding: 'utf8' });
const tests = 'tests/Kelvet.Core.Tests/Kelvet.Core.Tests.csproj';
const core = 'src/Kelvet.Core/Kelvet.Core.csproj';
const bin = path.join(tree, 'tests/Kelvet.Core.Tests/bin/Release/net10.0');
const build = (what) => run('dotnet', 'build', what, '-c', 'Release', '--nologo', '-v', 'quiet', '-p:TreatWarningsAsErrors=false', '-p:EnforceCodeStyleInBuild=false', '-p:RunAnalyzers=false');
// What the rules' own tests let through is asked of stories and cases too, but for those that take long and play at random.
const SLOW = ['SchoolTests', 'PosteriorTests', 'BeepDecoderTests', 'HouseTests', 'SignTests', 'MemoryPolicyTests'];
const STORIES = ['suite!=rules', ...SLOW.map((name) => `FullyQualifiedName!~${name}`)].join('&');
const check = (filter) => {
  copyFileSync(path.join(tree, 'src/Kelvet.Core/bin/Release/net10.0/Kelvet.Core.dll'), path.join(bin, 'Kelvet.Core.dll'));
  return run('dotnet', 'test', tests, '-c', 'Release', '--no-build', '--nologo', '-v', 'quiet', '--filter', filter).status;
};

const first = build(tests);
if (first.status !== 0) throw new Error(first.stdout);
writeFileSync(path.join(bin, 'xunit.runner.json'), '{ "preEnumerateTheories": false, "stopOnFail": true }');
for (const filter of alone ? ['suite=rules'] : ['suite=rules', STORIES]) if (check(filter) !== 0) throw new Error(`Not all that is ${filter} passes as it is.`);
const hash = spawnSync('git', ['rev-parse', '--short', 'HEAD'], { encoding: 'utf8' }).stdout.trim();

// A quoted text and a comment are no rule.
const masked = (line) => line.replace(/"(?:[^"\\]|\\.)*"/g, (m) => '"'.padEnd(m.length - 1, '~') + '"').replace(/\/\/.*$/, (m) => '~'.repeat(m.length));

const results = [];
for (const file of files) {
  const at = path.join(tree, 'src/Kelvet.Core', file);
  const text = readFileSync(at, 'utf8');
  const lines = text.split('\n');
  const found = [];
  lines.forEach((line, row) => {
    if (/^\s*(\/\/|using |namespace |\[)/.test(line)) return;
    for (const [pattern, into] of CHANGES)
      for (const m of masked(line).matchAll(pattern)) found.push({ row, at: m.index, was: m[0], becomes: into(m[0], line) });
  });
  const drawn = [];
  while (drawn.length < each && found.length > 0) drawn.push(...found.splice(Math.floor(next() * found.length), 1));
  const missed = [];
  let killed = 0, late = 0, counted = 0;
  for (const change of drawn) {
    const line = lines[change.row];
    const other = line.slice(0, change.at) + change.becomes + line.slice(change.at + change.was.length);
    writeFileSync(at, [...lines.slice(0, change.row), other, ...lines.slice(change.row + 1)].join('\n'));
    if (build(core).status !== 0) continue;
    counted++;
    if (check('suite=rules') !== 0) killed++;
    else if (!alone && check(STORIES) !== 0) late++;
    else {
      console.log(`  not noticed: ${file}:${change.row + 1}: ${other.trim()}`);
      missed.push(`\`${change.was.trim()}\` for \`${change.becomes.trim()}\` in line ${change.row + 1}`);
    }
  }
  writeFileSync(at, text);
  results.push([file, counted, killed, missed, killed + late]);
  console.log(`${file}: ${killed} of ${counted} by rules, ${killed + late} in all`);
}
const [all, soon, dead] = [1, 2, 4].map((i) => results.reduce((sum, r) => sum + r[i], 0));
console.log(`${dead} of ${all} noticed: ${Math.round((100 * dead) / all)} %`);

if (table) {
  const page = 'docs/architecture.md';
  const rows = results.map(([file, of, killed, missed, noticed]) => `| \`${file}\` | ${of} | ${killed} | ${noticed} | ${missed.join('; ')} |`);
  const text = [
    `${each} changes a file, seed ${firstSeed}, at \`${hash}\`: **${dead} of ${all} noticed (${Math.round((100 * dead) / all)} %)**, ${soon} of them by the suite of rules.`,
    '', '| File | changes | by rules | in all | not noticed |', '|---|--:|--:|--:|---|', ...rows,
  ].join('\n');
  writeFileSync(page, readFileSync(page, 'utf8').replace(/(<!-- mutants -->\n)[\s\S]*?(<!-- -->)/, (_, from, to) => `${from}${text}\n${to}`));
}
