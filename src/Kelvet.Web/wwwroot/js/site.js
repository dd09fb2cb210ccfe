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
  if (!target) return;
  event.preventDefault();
  if (target.matches('input')) target.focus();
  else if (target.matches('summary')) openMenu(target);
  else if (!target.disabled) target.click();
});

// A menu that a key opens takes the focus to its first field.
function openMenu(summary) {
  summary.click();
  if (summary.parentElement.open) summary.parentElement.querySelector('select, input, button')?.focus();
}

// Arrow keys walk over the drawn machine in walking order: on with right and down, back with left and up.
document.addEventListener('keydown', (event) => {
  const machine = event.target.closest('#machine');
  const step = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
  if (!machine || !step || !event.target.matches('a')) return;
  const all = [...machine.querySelectorAll('a')];
  event.preventDefault();
  all[(all.indexOf(event.target) + step + all.length) % all.length].focus();
});

document.querySelector('[data-print]')?.addEventListener('click', () => window.print());

// The first thing that can be done to a picked part gets the focus, once the browser has dealt with the address's #pick.
const picked = document.querySelector('#pick a.chip');
if (picked && location.hash === '#pick') {
  const focus = () => setTimeout(() => picked.focus(), 50);
  if (document.readyState === 'complete') focus();
  else addEventListener('load', focus, { once: true });
}
