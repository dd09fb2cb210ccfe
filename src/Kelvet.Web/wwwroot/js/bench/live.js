// Taking up what the server says, without loading the page anew: the answer is morphed into the page, so that focus, scroll,
// open menus and what is being written stay. Without this file everything works by links and forms.

import { Idiomorph } from '/lib/idiomorph.js';
import { carryOver, holds, noteBegun } from './begun.js';
import { hear } from './sound.js';
import { showProblem, tellNews, tellStale } from './words.js';

export const bench = document.querySelector('.bench');
export const job = bench?.dataset.job;

// This window's name among the benches: what it did itself is no news to it.
export const me = crypto.randomUUID?.() ?? String(Math.random());

export const state = { sending: false };
let latest = 0;

/** The page's address, without what is told once. */
export const here = () => location.pathname + location.search.replace(/[?&]said=\d+/, (m) => (m.startsWith('?') ? '?' : ''));

export function newest() {
  const climb = document.getElementById('climb');
  if (climb) alignClimb(climb);
}

// What names an element on both sides of an update, for when its place is taken by another.
const nameOf = (el) => {
  if (!el || el === document.body) return null;
  if (el.id) return `#${CSS.escape(el.id)}`;
  for (const attribute of ['data-key', 'data-unit', 'data-column', 'name']) {
    if (el.getAttribute(attribute)) return `[${attribute}="${CSS.escape(el.getAttribute(attribute))}"]`;
  }
  return el.getAttribute('href') ? `a[href="${CSS.escape(el.getAttribute('href'))}"]` : null;
};

const focusMain = () => document.getElementById('main').focus({ preventScroll: true });
const focusIsLost = () => document.activeElement === document.body || !document.activeElement;

function takeUp(html, { keepRecord = false, force = false, recorded = false, refused = false } = {}) {
  const page = new DOMParser().parseFromString(html, 'text/html');
  const fresh = page.querySelector('.bench');
  if (!fresh) return false;
  const focused = nameOf(document.activeElement);
  const lines = bench.dataset.lines;
  const newLines = lines !== fresh.dataset.lines;
  const startOver = fresh.dataset.start !== bench.dataset.start && !refused;
  noteBegun({ startOver, said: recorded && newLines, keep: keepRecord, dropped: page.querySelector('#record-panel [data-refused]')?.dataset.refused });
  Idiomorph.morph(bench, fresh, {
    morphStyle: 'outerHTML',
    restoreFocus: true,
    callbacks: {
      beforeNodeMorphed(old, next) {
        if (old.nodeType !== 1) return true;
        if (keepRecord && old.id === 'record-panel') return false;
        // The id of a line that may have been sent already goes on naming it until the log is longer.
        if (old.matches('#record input[name=stepId]') && next.matches?.('input[name=stepId]') && !newLines && !force) return false;
        if (old.matches('details.menu, details.live') && old.open && !recorded) next.setAttribute?.('open', '');
        return !(old.matches('input[name], select[name]') && old.form?.id === 'record' && old.name === next.name && holds(old));
      },
      // What this window counts is not the server's to say.
      beforeAttributeUpdated: (name, node) => !(node === bench && ['data-answers', 'data-updates'].includes(name)),
      beforeNodeRemoved(node) {
        return !(keepRecord && node.nodeType === 1 && node.closest('#record-panel'));
      },
    },
  });
  carryOver();
  bench.dispatchEvent(new CustomEvent('drawn', { detail: { startOver: startOver && !keepRecord } }));
  bench.dataset.updates = String(Number(bench.dataset.updates ?? 0) + 1);
  if (newLines) newest();
  if (recorded && newLines) hear('tick');
  if ((focused || force) && focusIsLost()) {
    document.querySelector(focused ?? 'nothing')?.focus({ preventScroll: true });
    // What had the focus is gone, or cannot take it any more: the work itself has it then.
    if (focusIsLost()) focusMain();
  }
  // A note is told: the next key is the bench's again.
  if (recorded && newLines && document.activeElement?.matches('input, textarea, select')) focusMain();
  if (keepRecord && newLines) tellStale(fresh.dataset.lines);
  bench.dispatchEvent(new CustomEvent('settled'));
  return true;
}

const whatItSays = (html) => {
  const page = new DOMParser().parseFromString(html, 'text/html').getElementById('main');
  return [page?.querySelector('h1')?.textContent, page?.querySelector('p')?.textContent].filter(Boolean).join(': ').trim();
};

/** The newest columns are in view, or the chosen one; the first that is seen is seen whole. */
function alignClimb(climb) {
  const columns = [...climb.querySelectorAll('.column')];
  const drawing = climb.querySelector('svg');
  const step = columns.length > 1 ? columns[1].getBoundingClientRect().x - columns[0].getBoundingClientRect().x : 0;
  if (step <= 0) return;
  const [room, wide] = [climb.clientWidth, step * columns.length];
  const zoom = drawing.getBoundingClientRect().width / Number(drawing.getAttribute('width'));
  const last = Math.max(0, Math.ceil((wide - room) / step)) * step;
  if (last > 0) drawing.setAttribute('width', Math.max(wide, last + room) / zoom);
  const at = columns.findIndex((c) => c.parentElement.classList.contains('chosen'));
  climb.scrollLeft = at < 0 ? last : Math.min(last, Math.max(0, Math.floor((at + 0.5 - room / step / 2)) * step));
}

/** Loads an address, or sends a form to it, and takes up the answer. An answer that is no bench leaves everything as it is and says why. */
export async function load(address, { push = true, body, records = false, keepRecord = false, quiet = false } = {}) {
  // What is being sent brings the newest state with it: a refresh would only overtake it with an older one.
  if (quiet && state.sending && !body) return;
  const turn = ++latest;
  const answer = await fetch(address, { ...(body ? { method: 'POST', body } : {}), headers: { 'X-Bench': me } });
  const html = await answer.text();
  if (turn !== latest) return;
  const url = new URL(answer.url);
  if (!answer.ok) {
    if (!quiet) showProblem(`${whatItSays(html) || `The server answered ${answer.status}.`} What you have here is kept.`);
    return;
  }
  const onBench = url.pathname.endsWith(`/jobs/${job}`);
  const taken = onBench && takeUp(html, { keepRecord, recorded: records && answer.redirected, refused: records && !answer.redirected, force: body !== undefined });
  if (!taken) {
    location.assign(answer.url);
    return;
  }
  // What was done here and is answered, apart from refreshes by the clock.
  if (!quiet) bench.dataset.answers = String(Number(bench.dataset.answers ?? 0) + 1);
  if (push && (!body || answer.redirected)) history.pushState(null, '', url);
  shown = location.pathname + location.search;
  if (!quiet) tellNews();
}

let shown = location.pathname + location.search;
bench?.addEventListener('settled', () => { shown = location.pathname + location.search; });
addEventListener('popstate', () => {
  // A place on the page is no other state of the bench.
  if (location.pathname + location.search !== shown) load(location.href, { push: false });
});
