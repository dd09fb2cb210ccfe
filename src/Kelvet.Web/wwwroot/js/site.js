// Keys, the key sheet, printing. Every page works without this file.

import './find.js';
import './frame.js';

const typing = (el) => el.closest('input, textarea, select, [contenteditable]') !== null;

const keys = document.getElementById('keys');

function openKeys(event) {
  if (!keys || typeof keys.showModal !== 'function') return;
  event.preventDefault();
  if (!keys.open) keys.showModal();
}

document.getElementById('keys-link')?.addEventListener('click', openKeys);

document.addEventListener('keydown', (event) => {
  if (event.ctrlKey || event.altKey || event.metaKey || document.querySelector('dialog[open]')) return;
  if (event.key === 'Escape' && typing(event.target)) {
    event.target.blur();
    return;
  }
  if (typing(event.target)) return;
  if (event.key === '?') {
    openKeys(event);
    return;
  }
  if (event.key === 'm') {
    const machine = document.querySelector('#machine a');
    if (machine) {
      event.preventDefault();
      machine.focus();
    }
    return;
  }
  // What an open menu offers under a key comes before the page's own.
  const key = CSS.escape(event.key);
  const target = document.querySelector(`.menu[open] [data-open-key="${key}"]`) ?? document.querySelector(`[data-key="${key}"]`);
  if (!target || isCovered(target)) return;
  event.preventDefault();
  if (target.matches('input')) target.focus();
  else if (target.matches('summary')) openMenu(target);
  else if (!target.disabled) target.click();
});

/** Whether two columns that are compared lie over it: a key does nothing that cannot be seen. */
function isCovered(target) {
  const r = target.getBoundingClientRect();
  const over = document.elementFromPoint(r.x + r.width / 2, r.y + r.height / 2)?.closest('.over-panel.compare');
  return over !== undefined && over !== null && !over.contains(target);
}

// A menu that a key opens takes the focus to its first field.
function openMenu(summary) {
  summary.click();
  if (summary.parentElement.open) summary.parentElement.querySelector('select, input, button')?.focus();
}

// Arrow keys follow the picture: to the nearest part that lies that way. Tab goes through it in walking order, from the wall.
const ways = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowDown: [0, 1], ArrowUp: [0, -1] };
const middle = (el) => { const r = el.getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2]; };

document.addEventListener('keydown', (event) => {
  const machine = event.target.closest('#machine');
  const way = ways[event.key];
  if (!machine || !way || !event.target.matches('a')) return;
  event.preventDefault();
  const [x, y] = middle(event.target);
  let best = null;
  for (const part of machine.querySelectorAll('a')) {
    const [toX, toY] = middle(part);
    const along = (toX - x) * way[0] + (toY - y) * way[1];
    const aside = Math.abs((toX - x) * way[1]) + Math.abs((toY - y) * way[0]);
    if (along < 4 || aside > 2.5 * along) continue;
    const far = along + 2 * aside;
    if (!best || far < best.far) best = { part, far };
  }
  best?.part.focus();
});

document.querySelector('[data-print]')?.addEventListener('click', () => window.print());

// The first thing that can be done to a picked part gets the focus, once the browser has dealt with the address's #pick.
const picked = document.querySelector('#pick a.chip');
if (picked && location.hash === '#pick') {
  const focus = () => setTimeout(() => picked.focus(), 50);
  if (document.readyState === 'complete') focus();
  else addEventListener('load', focus, { once: true });
}
