// How long a run still takes, on a page of its own.

import { hear } from './bench/sound.js';

const timer = document.querySelector('[data-ends]');
if (timer) {
  const bar = document.querySelector('.run-strip progress');
  const offset = Number(timer.dataset.now) - Date.now();
  const show = () => {
    const left = Math.ceil((Number(timer.dataset.ends) - Date.now() - offset) / 1000);
    const two = (n) => String(n).padStart(2, '0');
    timer.textContent = left > 0 ? `${Math.floor(left / 3600)}:${two(Math.floor(left / 60) % 60)}:${two(left % 60)}` : 'over';
    bar.value = bar.max - Math.max(0, left);
    if (left > 0) return;
    clearInterval(ticking);
    if (left > -3) hear('chime');
  };
  const ticking = setInterval(show, 500);
  show();
}
