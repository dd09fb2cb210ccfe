// Machines and logs that nobody drew: made from a seed, from the emptiest to the fullest that the job format takes.

/** A small generator of numbers, the same for the same seed (mulberry32). */
export function random(seed) {
  let a = seed >>> 0;
  const next = () => {
    a = (a + 0x6d2b79f5) | 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
  return { next, whole: (most) => Math.floor(next() * (most + 1)), one: (list) => list[Math.floor(next() * list.length)], chance: (p) => next() < p };
}

const LONG = 'Hollowmere Precision Assemblies Workstation Component of the Fourth Revision, B';
const slotNames = (n, long) => Array.from({ length: n }, (_, i) => (long ? `Channel slot numb ${i}` : `${'ABCDEFGH'[Math.floor(i / 2)]}${(i % 2) + 1}`));

/** A job file of machine number n. */
export function machine(n) {
  const r = random(1000 + n);
  const full = n % 8 === 0;
  const bare = n % 8 === 1;
  const name = (short) => (full || r.chance(0.15) ? LONG.slice(0, 80) : short);
  const units = [];
  const fitted = {};
  const put = (place, unit) => {
    units.push({ origin: 'customer', ...unit });
    if (place) fitted[place] = unit.id;
  };
  const slots = full ? 8 : bare ? 1 : r.one([2, 2, 4, 4, 8]);
  const outputs = full ? 8 : bare ? 0 : r.whole(6);
  const cards = full ? 7 : bare ? 0 : r.whole(5);
  const names = slotNames(slots, n % 16 === 8);
  const outputNames = ['HDMI', 'DP', 'VGA', 'DVI-D', 'HDMI 2', 'DP 2', 'Type C', 'Service port number'].slice(0, outputs);
  put('board', {
    id: 'board', kind: 'motherboard', name: name('Ondel B40-M'), socket: 'T1', memory: 'DDR4', 'tells-post': r.chance(0.5),
    ...(r.chance(0.6) && !full ? { form: r.one(['full', 'micro', 'mini', 'office']) } : {}),
    slots: names.map((s, i) => ({ name: s, channel: 'ABCDEFGH'[Math.floor(i / 2)] })),
    outputs: outputNames.map((o) => ({ name: o, signal: o === 'VGA' ? 'analogue' : 'digital' })),
    cards: Array.from({ length: cards }, (_, i) => String(i + 1)),
  });
  put('supply', { id: 'supply', kind: 'supply', name: name('Velm 450 W') });
  put('cpu', { id: 'cpu', kind: 'cpu', name: name('Tarn C5-640'), graphics: true, socket: 'T1' });
  put('cooler', { id: 'cooler', kind: 'cooler', name: name('Tarn box cooler') });
  const sticks = bare ? 1 : Math.max(1, r.whole(slots));
  for (let i = 0; i < (full ? slots : sticks); i++) put(`memory.${names[i]}`, { id: `stick-${i}`, kind: 'memory-stick', name: name('Orrin 8 GB DDR4'), memory: 'DDR4', gb: 8 });
  const withCase = !bare && !r.chance(0.2);
  if (withCase) put('switch', { id: 'switch', kind: 'case-switch', name: 'Front panel switch' });
  const graphics = cards === 0 ? 0 : full ? 2 : r.whole(Math.min(2, cards));
  for (let i = 0; i < graphics; i++) put(`card.${i + 1}`, { id: `card-${i}`, kind: 'graphics-card', name: name('Brask R60'), outputs: [{ name: 'DP 1', signal: 'digital' }, { name: 'HDMI', signal: 'digital' }], 'aux-power': r.chance(0.7) });
  for (let i = 0; i < (full ? 12 : bare ? 0 : r.whole(4)); i++) put(`storage.${i + 1}`, { id: `drive-${i}`, kind: 'storage', name: name('Halden 500 GB') });
  for (let i = 0; i < (full ? 6 : bare ? 0 : r.whole(3)); i++) put(`peripheral.${i + 1}`, { id: `thing-${i}`, kind: 'peripheral', name: name(r.one(['Keyboard', 'Mouse', 'Webcam', 'Label printer'])) });
  const small = [
    ['extension', 'power-extension'], ['outlet', 'outlet'], ['lead', 'mains-lead'], ['strip', 'power-strip'], ['main-cable', 'main-cable'], ['cpu-cable', 'cpu-cable'],
    ['card-cable', 'card-cable'], ['reset', 'reset-switch'], ['front.USB 1', 'front-lead'], ['front.Audio', 'front-lead'], ['fan.1', 'case-fan'], ['fan.2', 'case-fan'], ['fan-hub', 'fan-hub'],
    ['pump', 'pump'], ['riser', 'riser'], ['cell', 'coin-cell'], ['chip', 'firmware-chip'], ['other.X1', 'other-card'], ['hub', 'usb-hub'],
  ];
  small.forEach(([place, kind], i) => {
    if (kind === 'riser' && graphics === 0) return;
    if (full || (!bare && r.chance(0.18))) put(place, { id: `small-${i}`, kind, name: name(kind.replaceAll('-', ' ')) });
  });
  const hasScreen = graphics > 0 || outputs > 0;
  if (!bare) {
    put('monitor', { id: 'monitor', kind: 'monitor', name: name("Customer's monitor") });
    put('cable', { id: 'cable', kind: 'video-cable', name: name('HDMI cable') });
  }
  for (let i = 0; i < (full ? 6 : r.whole(3)); i++) units.push({ id: `spare-${i}`, kind: r.one(['supply', 'memory-stick', 'cpu']), name: name('Quillon spare'), origin: 'shelf', serial: `SH-${i}` });
  const steps = [];
  const starts = bare ? 0 : full ? 30 : r.whole(12);
  for (let i = 0; i < starts; i++) {
    const changes = r.one([[], [], ['clear-cmos'], ['reseat supply'], ['reseat cooler'], [`reseat stick-0`]]);
    steps.push({ kind: 'trial', changes, seen: r.one(['4', '4-5', '2', '6-8', '7-8', '0', '3']), ...(r.chance(0.3) ? { signs: { code: r.one(['55', '0D', 'A2']) } } : {}) });
    if (r.chance(0.2)) steps.push({ kind: 'note', note: name('looked dusty') });
  }
  return {
    format: 'kelvet-job', version: 1, title: name('Black screen'), customer: name('Tobin Ashgrove'), symptom: 'Black.', reported: '4-5',
    units, fitted, start: withCase ? 'case-switch' : 'header-pins',
    ...(hasScreen && !bare ? { display: graphics > 0 ? 'card.1/DP 1' : `board/${outputNames[0]}` } : {}),
    steps,
  };
}
