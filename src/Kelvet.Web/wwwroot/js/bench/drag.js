// Parts are dragged in the drawing; what a drop does is a change like any other, and the server says why one cannot be.

import { job, load } from './live.js';
import { showProblem } from './words.js';

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
  load(`/jobs/${job}?${[...keep, change].map((c) => `do=${encodeURIComponent(c)}`).join('&')}`).catch(() => showProblem('The server does not answer. Try again when it is back.'));
}

document.addEventListener('pointerup', endDrag);
document.addEventListener('pointercancel', endDrag);
document.addEventListener('dragstart', (event) => {
  if (event.target.closest?.('.bench [data-unit]')) event.preventDefault();
});
