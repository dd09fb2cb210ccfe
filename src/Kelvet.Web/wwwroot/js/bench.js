// The bench, live: steps are sent and taken up without loading the page anew, other benches are followed, timers run and
// chime, parts are dragged. Without this file everything here still works by links and forms.

const bench = document.querySelector('.bench');
const job = bench?.dataset.job;
const announcer = document.getElementById('announce');
const regions = ['safety', 'next-panel', 'machine-panel', 'climb-panel', 'suspects-panel', 'record-panel'];
const scrolled = ['climb', 'machine-panel', 'climb-panel', 'suspects-panel'];

let sending = false;
let latest = 0;

// This window's name among the benches: what it did itself is no news to it.
const me = crypto.randomUUID?.() ?? String(Math.random());

// The regions as the server last drew them, without what differs each time, so that what is typed or shown meanwhile stays.
const drawn = new Map();
const lasting = (el) => el.outerHTML.replace(/name="(stepId|__RequestVerificationToken)"[^>]*>/g, '').replace(/data-now="\d+"|<span class="num left"[^<]*<\/span>|<output class="reader"[\s\S]*?<\/output>/g, '');
const remember = (root) => regions.forEach((id) => root.getElementById(id) && drawn.set(id, lasting(root.getElementById(id))));

// --- Taking up what the server says ---------------------------------------------------------------------------------

// What names an element on both sides of an update: its key, id, unit or field.
const nameOf = (el) => {
  if (!el || el === document.body) return null;
  if (el.id) return `#${CSS.escape(el.id)}`;
  for (const attribute of ['data-key', 'data-unit', 'data-column', 'name']) {
    if (el.getAttribute(attribute)) return `[${attribute}="${CSS.escape(el.getAttribute(attribute))}"]`;
  }
  return el.getAttribute('href') ? `a[href="${CSS.escape(el.getAttribute('href'))}"]` : null;
};

const newest = () => {
  const climb = document.getElementById('climb');
  if (climb) climb.scrollLeft = climb.scrollWidth;
};

const fields = () => [...document.querySelectorAll('#record input[name]:not([type=hidden]), #record select')];
const isFilled = (f) => f.type === 'file' ? f.files.length > 0 : f.matches('select') ? f.selectedIndex > 0 : f.value !== '';
const isDirty = () => fields().some(isFilled);

// What is written and not yet recorded, by field. It goes over into the form as it is drawn anew: a note and a photo until
// they are recorded, what the machine showed until its start is recorded or the power goes off.
const begun = new Map();
const ofAnyStart = ['note', 'photo'];

/** Takes in what the form holds and drops what has been said. */
function noteBegun(startOver, said, keepRecord) {
  const here = fields();
  for (const f of here) {
    if (isFilled(f)) begun.set(f.name, f);
    else begun.delete(f.name);
  }
  const kept = keepRecord ? here.map((f) => f.name) : [];
  for (const name of [...begun.keys()].filter((n) => !kept.includes(n))) {
    if (ofAnyStart.includes(name) ? said : startOver) begun.delete(name);
  }
}

function carryOver() {
  for (const field of fields().filter((f) => begun.has(f.name) && !isFilled(f))) {
    const old = begun.get(field.name);
    if (field.type === 'file') field.files = old.files;
    else field.value = old.value;
  }
}

function takeUp(html, { keepRecord = false, force = false, recorded = false, refused = false } = {}) {
  const page = new DOMParser().parseFromString(html, 'text/html');
  const fresh = page.querySelector('.bench');
  if (!fresh) return false;
  const focused = nameOf(document.activeElement);
  const lines = bench.dataset.lines;
  const startOver = fresh.dataset.start !== bench.dataset.start && !refused;
  noteBegun(startOver, recorded && lines !== fresh.dataset.lines, keepRecord);
  // A file that cannot be used is not offered again.
  begun.delete(page.querySelector('#record-panel [data-refused]')?.dataset.refused);
  const at = Object.fromEntries(scrolled.map((id) => [id, [document.getElementById(id)?.scrollLeft, document.getElementById(id)?.scrollTop]]));
  for (const id of regions) {
    if (keepRecord && id === 'record-panel') continue;
    const [old, next] = [document.getElementById(id), page.getElementById(id)];
    if (!old || !next) continue;
    const now = lasting(next);
    if (drawn.get(id) === now && !force) continue;
    drawn.set(id, now);
    old.replaceWith(document.adoptNode(next));
    if (id === 'record-panel') carryOver();
  }
  bench.dataset.lines = fresh.dataset.lines;
  bench.dataset.start = fresh.dataset.start;
  bench.dispatchEvent(new CustomEvent('drawn', { detail: { startOver: startOver && !keepRecord } }));
  bench.dataset.updates = String(Number(bench.dataset.updates ?? 0) + 1);
  for (const [id, [left, top]] of Object.entries(at)) {
    const el = document.getElementById(id);
    if (el && left !== undefined) [el.scrollLeft, el.scrollTop] = [left, top];
  }
  if (lines !== fresh.dataset.lines) newest();
  if ((focused || force) && (document.activeElement === document.body || !document.activeElement)) {
    const again = focused ? document.querySelector(focused) : null;
    again?.focus({ preventScroll: true });
    // What had the focus is gone, or cannot take it any more: the work itself has it then.
    if (document.activeElement === document.body || !document.activeElement) document.getElementById('main').focus({ preventScroll: true });
  }
  if (keepRecord && lines !== fresh.dataset.lines) {
    tellStale(fresh.dataset.lines);
  }
  tick();
  return true;
}

function tellStale(line) {
  const form = document.getElementById('record');
  if (!form || form.querySelector('.stale')) return;
  const note = document.createElement('p');
  note.className = 'note stale';
  note.textContent = `Meanwhile line ${line} was recorded from another bench. What you have here is kept; recording it will offer it for review.`;
  form.prepend(note);
  announce(note.textContent);
}

function announce(words) {
  announcer.textContent = '';
  setTimeout(() => { announcer.textContent = words; }, 30);
}

function tellNews() {
  const problem = document.querySelector('#record-panel [role=alert]')?.textContent.trim();
  const said = document.querySelector('#record-panel [role=status]')?.textContent.trim().replace(/Correct it$/, '');
  const gate = document.querySelector('#record-panel .gate p')?.textContent.trim().replace(/\s+/g, ' ');
  announce([problem ?? said, gate, `Next: ${document.getElementById('h-next')?.textContent.trim()}`].filter(Boolean).join(' '));
}

async function load(address, { push = true, body, records = false, keepRecord = false, quiet = false } = {}) {
  // What is being sent brings the newest state with it: a refresh would only overtake it with an older one.
  if (quiet && sending && !body) return;
  const turn = ++latest;
  const answer = await fetch(address, { ...(body ? { method: 'POST', body } : {}), headers: { 'X-Bench': me } });
  const html = await answer.text();
  if (turn !== latest) return;
  const url = new URL(answer.url);
  if (!url.pathname.endsWith(`/jobs/${job}`) || !takeUp(html, { keepRecord, recorded: records && answer.redirected, refused: records && !answer.redirected, force: body !== undefined })) {
    location.assign(answer.url);
    return;
  }
  // What was done here and is answered, apart from refreshes by the clock.
  if (!quiet) bench.dataset.answers = String(Number(bench.dataset.answers ?? 0) + 1);
  if (push && !body) history.pushState(null, '', url);
  if (push && body && answer.redirected) history.pushState(null, '', url);
  if (!quiet) tellNews();
}

const here = () => location.pathname + location.search.replace(/[?&]said=\d+/, (m) => m.startsWith('?') ? '?' : '');

// --- Sending -----------------------------------------------------------------------------------------------------------

document.addEventListener('submit', async (event) => {
  const form = event.target;
  if (!form.matches('[data-live]') || event.defaultPrevented) return;
  event.preventDefault();
  if (sending) return;
  if (event.submitter && calledEarly(event.submitter)) return;
  sending = true;
  try {
    const address = event.submitter?.getAttribute('formaction') ?? form.action;
    await load(address, { body: new FormData(form, event.submitter), records: form.id === 'record' });
    if (form.id === 'record') closeMenus();
  } catch {
    // The server is away. Nothing is lost: the form still holds everything, under the same id.
    showProblem('The server does not answer. Nothing is lost: press it again when it is back; it will not be recorded twice.');
  } finally {
    sending = false;
  }
});

function showProblem(words) {
  const form = document.getElementById('record');
  let note = document.getElementById('away');
  if (!note) {
    note = document.createElement('p');
    note.id = 'away';
    note.className = 'note stop';
    note.setAttribute('role', 'alert');
    form?.prepend(note);
  }
  note.textContent = words;
}

// "No picture" is not called before the usual wait is over, unless it is meant.
function calledEarly(button) {
  if (!button.matches('.stage') || !['4', '9', '5'].includes(button.dataset.key)) return false;
  const wait = document.querySelector('.timer[data-name="wait"]');
  const left = wait ? secondsLeft(wait.dataset.ends) : 0;
  const note = document.querySelector('#record .early');
  if (left <= 0 || button.dataset.meant || !note) return false;
  button.dataset.meant = '1';
  note.hidden = false;
  note.textContent = `Only ${Math.round(wait.dataset.seconds - left)} s so far: the first start after a change can take minutes. Wait, or press ${button.dataset.key} again to record it now.`;
  announce(note.textContent);
  return true;
}

document.addEventListener('click', (event) => {
  const link = event.target.closest('a[href]');
  if (!link || event.defaultPrevented || event.button !== 0 || event.ctrlKey || event.metaKey || event.shiftKey) return;
  const href = link.getAttribute('href') ?? '';
  if (!link.closest('.bench') || !(href === `/jobs/${job}` || href.startsWith(`/jobs/${job}?`))) return;
  event.preventDefault();
  const unit = link.dataset.unit;
  load(href.replace(/#.*$/, '')).then(() => {
    if (href.includes('pick=')) document.querySelector('#pick a.chip')?.focus();
    else if (unit) document.querySelector(`[data-unit="${CSS.escape(unit)}"]`)?.focus();
  }).catch(() => showProblem('The server does not answer. Try again when it is back.'));
});

addEventListener('popstate', () => load(location.href, { push: false }));

const closeMenus = () => document.querySelectorAll('.menu[open]').forEach((m) => m.removeAttribute('open'));

document.addEventListener('keydown', (event) => {
  if (event.key === 'Escape') closeMenus();
});

// --- Other benches -----------------------------------------------------------------------------------------------------

if (bench && 'EventSource' in window) {
  const live = new EventSource(`/jobs/${job}/live`);
  let first = true;
  const follow = (event) => {
    if (event.data === 'here' || event.data === '"here"') {
      if (first) {
        first = false;
        return;
      }
      document.getElementById('away')?.remove();
    }
    if (sending || event.data.includes(me)) return;
    const pending = location.search.includes('do=') || location.search.includes('check=');
    load(here(), { push: false, keepRecord: isDirty() || (pending && event.data.includes('line')), quiet: !event.data.includes('line') }).catch(() => {});
  };
  live.addEventListener('changed', follow);
  live.addEventListener('codes', (event) => showReaders(JSON.parse(event.data)));
}

// --- Readers of POST codes -----------------------------------------------------------------------------------------------

let readers = [];

// A code that was the last for this long stands, seconds: as the server has it.
const STANDS = 3;

/** The code that stands now, in large type, with what it means and since when. */
function showReaders(views) {
  const came = Date.now();
  readers = views.map((v) => ({ ...v, since: came - v.stands }));
  const place = document.getElementById('readers');
  if (!place) return;
  showHistory(views);
  place.querySelectorAll('.reader').forEach((el) => { if (!views.some((v) => String(v.id) === el.dataset.reader)) el.remove(); });
  for (const view of views) {
    let el = place.querySelector(`[data-reader="${view.id}"]`);
    if (!el) {
      el = document.createElement('output');
      el.className = 'reader';
      el.setAttribute('aria-live', 'off');
      el.dataset.reader = view.id;
      el.append(document.createElement('b'), ' ', document.createElement('span'), ' ', document.createElement('small'));
      el.children[0].className = 'code';
      el.children[1].className = 'meaning';
      el.children[2].className = 'num';
      place.append(el);
    }
    el.querySelector('.code').textContent = view.code || '··';
    el.querySelector('.code').title = [`${view.name}: ${view.line}`, view.recent.map((c) => `${c.seconds.toFixed(1)} s ${c.code}`).join(', ')].join('\n');
    el.querySelector('.meaning').textContent = view.up ? view.meaning : view.why;
    el.classList.toggle('down', !view.up);
  }
  standTimes();
}

/** The last codes of this start with the time of each. */
function showHistory(views) {
  document.getElementById('code-history')?.replaceChildren(...views.map((view) => {
    const row = document.createElement('p');
    const [name, codes] = [document.createElement('strong'), document.createElement('span')];
    name.textContent = view.name;
    codes.className = 'num';
    codes.textContent = view.recent.map((c) => `${c.seconds.toFixed(1)} s ${c.code}`).join(' · ');
    row.append(name, ' ', codes);
    return row;
  }));
}

function standTimes() {
  for (const view of readers) {
    const el = document.querySelector(`#readers [data-reader="${view.id}"]`);
    if (!el) continue;
    let small = el.querySelector('small');
    if (!small) el.append(' ', (small = Object.assign(document.createElement('small'), { className: 'num' })));
    const flood = view.total > 5000 ? `, ${view.total.toLocaleString('en')} codes` : '';
    const stands = (Date.now() - view.since) / 1000;
    small.textContent = view.code ? `${stands >= STANDS ? clock(Math.floor(stands)) : view.motion === 'Cycling' ? 'round and round' : 'changing'}${flood}${view.garbage ? `, ${view.garbage} not codes` : ''}` : '';
  }
}

// --- Timers --------------------------------------------------------------------------------------------------------------

// How far this clock is from the server's, when it is more than the page took to come.
const cameAt = performance.timeOrigin + (performance.getEntriesByType('navigation')[0]?.responseStart ?? 0);
const apart = Number(document.getElementById('safety')?.dataset.now ?? cameAt) - cameAt;
const offset = Math.abs(apart) > 3000 ? apart : 0;

const secondsLeft = (ends) => (Number(ends) - Date.now() - offset) / 1000;
const clock = (s) => s >= 90 ? `${Math.floor(s / 60)}:${String(Math.floor(s % 60)).padStart(2, '0')}` : `${Math.ceil(s)} s`;
const rung = new Set();

let audio = null;
addEventListener('pointerdown', () => { audio ??= new AudioContext(); }, { once: true });
addEventListener('keydown', () => { audio ??= new AudioContext(); }, { once: true });

function chime() {
  if (!audio) return;
  [660, 880, 660].forEach((pitch, i) => {
    const [tone, loud] = [audio.createOscillator(), audio.createGain()];
    const start = audio.currentTime + i * 0.22;
    tone.frequency.value = pitch;
    loud.gain.setValueAtTime(0.0001, start);
    loud.gain.exponentialRampToValueAtTime(0.2, start + 0.02);
    loud.gain.exponentialRampToValueAtTime(0.0001, start + 0.2);
    tone.connect(loud).connect(audio.destination);
    tone.start(start);
    tone.stop(start + 0.22);
  });
}

function tick() {
  for (const timer of document.querySelectorAll('.timer[data-ends]')) {
    const left = secondsLeft(timer.dataset.ends);
    timer.querySelector('.left').textContent = left > 0 ? clock(left) : 'time';
    timer.classList.toggle('rung', left <= 0);
    const key = `${timer.dataset.name} ${timer.dataset.ends}`;
    if (left > 0 || rung.has(key)) continue;
    rung.add(key);
    if (left < -3) continue;
    chime();
    announce(`${timer.dataset.name}: time`);
    if (timer.dataset.name === 'drain') load(here(), { push: false, keepRecord: false, quiet: true }).catch(() => {});
  }
  for (const button of document.querySelectorAll('[data-waits]')) button.disabled = secondsLeft(button.dataset.waits) > 0;
}

if (bench) {
  remember(document);
  tick();
  setInterval(tick, 250);
  setInterval(standTimes, 1000);
  newest();
}

// --- Dragging --------------------------------------------------------------------------------------------------------------

let drag = null;

// Only what is of a kind goes where such a kind goes; the server says why anything else does not.
const dropAt = (x, y) => document.elementsFromPoint(x, y).map((el) => el.closest('[data-place], [data-unit], [data-tray]')).find(Boolean);

function changeFor(from, to) {
  const unit = from.dataset.unit;
  if (!to || to === from) return null;
  if (to.hasAttribute('data-tray') || to.hasAttribute('data-loose')) return from.hasAttribute('data-loose') ? null : from.dataset.kind === 'PowerExtension' ? `bypass ${unit}` : `remove ${unit}`;
  if (to.dataset.unit && to.dataset.unit !== unit) return `swap ${to.dataset.unit} ${unit}`;
  return from.hasAttribute('data-loose') ? `fit ${unit} ${to.dataset.place}` : `move ${unit} ${to.dataset.place}`;
}

document.addEventListener('pointerdown', (event) => {
  const from = event.target.closest('.bench [data-unit]');
  if (!from || event.button !== 0 || from.dataset.kind === 'Motherboard') return;
  drag = { from, x: event.clientX, y: event.clientY, ghost: null, over: null };
});

document.addEventListener('pointermove', (event) => {
  if (!drag) return;
  if (!drag.ghost) {
    if (Math.hypot(event.clientX - drag.x, event.clientY - drag.y) < 8) return;
    drag.ghost = document.createElement('div');
    drag.ghost.className = 'ghost';
    drag.ghost.textContent = drag.from.querySelector('text')?.textContent ?? drag.from.textContent.trim().slice(0, 24);
    document.body.append(drag.ghost);
    drag.from.classList.add('dragged');
  }
  drag.ghost.style.setProperty('translate', `${event.clientX + 12}px ${event.clientY + 12}px`);
  drag.over?.classList.remove('over');
  drag.over = dropAt(event.clientX, event.clientY);
  if (drag.over && changeFor(drag.from, drag.over)) drag.over.classList.add('over');
  event.preventDefault();
});

function endDrag(event) {
  if (!drag) return;
  const { from, ghost, over } = drag;
  drag = null;
  ghost?.remove();
  over?.classList.remove('over');
  from.classList.remove('dragged');
  if (!ghost || event.type !== 'pointerup') return;
  // The click that ends a drag is not a click.
  addEventListener('click', (e) => { e.preventDefault(); e.stopImmediatePropagation(); }, { capture: true, once: true });
  setTimeout(() => dispatchEvent(new Event('dragdone')), 0);
  const change = changeFor(from, dropAt(event.clientX, event.clientY));
  if (!change) return;
  const query = new URLSearchParams(location.search);
  const keep = query.getAll('do');
  load(`/jobs/${job}?${[...keep, change].map((c) => `do=${encodeURIComponent(c)}`).join('&')}`);
}

document.addEventListener('pointerup', endDrag);
document.addEventListener('pointercancel', endDrag);
document.addEventListener('dragstart', (event) => {
  if (event.target.closest?.('.bench [data-unit]')) event.preventDefault();
});
