// Sending forms and following links of the bench.

import { job, load, state } from './live.js';
import { announce, showProblem } from './words.js';
import { secondsLeft } from './clock.js';

const AWAY = 'The server does not answer. Nothing is lost: press it again when it is back; it will not be recorded twice.';

// A key that is pressed while the server answers is held and done when it has: the last one, for a moment, where it is still meant.
const HELD_FOR = 2000;
let held = null;

document.addEventListener('keydown', (event) => {
  if (!state.sending || event.repeat || event.ctrlKey || event.altKey || event.metaKey || event.target.closest('input, textarea, select')) return;
  // One line is taken back at a time.
  if (document.querySelector('dialog[open]') || event.key.length > 1 || event.key === 'u') return;
  held = { key: event.key, at: performance.now() };
  event.preventDefault();
  event.stopImmediatePropagation();
}, true);

function letGo() {
  const wanted = held;
  held = null;
  if (!wanted || performance.now() - wanted.at > HELD_FOR) return;
  document.body.dispatchEvent(new KeyboardEvent('keydown', { key: wanted.key, bubbles: true, cancelable: true }));
}

document.addEventListener('submit', async (event) => {
  const form = event.target;
  if (!form.matches('[data-live]') || event.defaultPrevented) return;
  event.preventDefault();
  if (state.sending) return;
  if (event.submitter && calledEarly(event.submitter)) return;
  const large = [...form.elements].filter((f) => f.matches('input[type=file][data-most]')).find((f) => f.files[0]?.size > Number(f.dataset.most));
  if (large) {
    const most = Number(large.dataset.most) / 1e6;
    showProblem(`${large.files[0].name} has ${(large.files[0].size / 1e6).toFixed(1)} MB; ${most} MB is the most. Nothing was sent: choose another, or none.`);
    return;
  }
  state.sending = true;
  try {
    const address = event.submitter?.getAttribute('formaction') ?? form.action;
    await load(address, { body: new FormData(form, event.submitter), records: form.id === 'record' });
    if (form.id === 'record') closeMenus();
  } catch {
    // The server is away. The form still holds everything, under the same id.
    showProblem(AWAY);
  } finally {
    state.sending = false;
  }
  letGo();
});

// "No picture" is not called before the usual wait is over, unless it is meant.
function calledEarly(button) {
  if (!button.matches('.stage') || !['4', '9', '5'].includes(button.dataset.key)) return false;
  const wait = document.querySelector('.timer[data-name="wait"]');
  const left = wait ? secondsLeft(wait.dataset.ends) : 0;
  const note = document.querySelector('#record-panel .early');
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

const closeMenus = () => document.querySelectorAll('.menu[open]').forEach((m) => m.removeAttribute('open'));

document.addEventListener('keydown', (event) => {
  if (event.key === 'Escape') closeMenus();
});

// A menu closes when something else is touched.
document.addEventListener('pointerdown', (event) => {
  const within = event.target.closest?.('.menu');
  document.querySelectorAll('.menu[open]:not(.live)').forEach((m) => m !== within && m.removeAttribute('open'));
});

// Whoever opens what was done live says how far it got there, and nowhere else.
document.addEventListener('toggle', (event) => {
  if (!event.target.matches?.('details.live')) return;
  for (const field of event.target.querySelectorAll('select')) field.disabled = !event.target.open;
}, true);
