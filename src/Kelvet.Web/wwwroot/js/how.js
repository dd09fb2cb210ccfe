// Countdowns of a procedure's steps, and a key a step: Enter on a tick goes on to the next.

import { hear } from './bench/sound.js';

document.addEventListener('click', (event) => {
  const timer = event.target.closest('.how [data-seconds]');
  if (!timer || timer.dataset.running) return;
  timer.dataset.running = 'yes';
  const until = Date.now() + Number(timer.dataset.seconds) * 1000;
  const words = timer.textContent;
  const tick = setInterval(() => {
    const left = Math.ceil((until - Date.now()) / 1000);
    timer.textContent = left > 0 ? `${left} s` : 'over';
    if (left > 0) return;
    clearInterval(tick);
    delete timer.dataset.running;
    hear('chime');
    setTimeout(() => { timer.textContent = words; }, 4000);
  }, 250);
});
