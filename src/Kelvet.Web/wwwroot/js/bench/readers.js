// Readers of POST codes: the code that stands now, what it means and since when.

import { clock } from './clock.js';

// A code that was the last for this long stands, seconds: as the server has it.
const STANDS = 3;

let readers = [];

/** Shows what the readers of this machine show. */
export function showReaders(views) {
  const came = Date.now();
  readers = views.map((v) => ({ ...v, since: came - v.stands }));
  const place = document.getElementById('readers');
  if (!place) return;
  showHistory(views);
  place.querySelectorAll('.reader').forEach((el) => { if (!views.some((v) => String(v.id) === el.dataset.reader)) el.remove(); });
  for (const view of views) {
    const el = place.querySelector(`[data-reader="${view.id}"]`) ?? place.appendChild(made(view.id));
    el.querySelector('.code').textContent = view.code || '··';
    el.querySelector('.code').title = [`${view.name}: ${view.line}`, view.recent.map((c) => `${c.seconds.toFixed(1)} s ${c.code}`).join(', ')].join('\n');
    el.querySelector('.meaning').textContent = view.up ? view.meaning : view.why;
    el.classList.toggle('down', !view.up);
  }
  standTimes();
}

/** After an update: what the page came with is older than what the readers told since. */
export const showAgain = () => { if (readers.length > 0) showReaders(readers.map((r) => ({ ...r, stands: Date.now() - r.since }))); };

function made(id) {
  const el = document.createElement('output');
  el.className = 'reader';
  el.setAttribute('aria-live', 'off');
  el.dataset.reader = id;
  el.append(document.createElement('b'), ' ', document.createElement('span'), ' ', document.createElement('small'));
  el.children[0].className = 'code';
  el.children[1].className = 'meaning';
  el.children[2].className = 'num';
  return el;
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

export function standTimes() {
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
