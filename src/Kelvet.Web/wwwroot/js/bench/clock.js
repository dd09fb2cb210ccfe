// Countdowns: how long is left, and a chime at the end.

import { here, load } from './live.js';
import { hear } from './sound.js';
import { announce } from './words.js';

// How far this clock is from the server's, when it is more than the page took to come.
const cameAt = performance.timeOrigin + (performance.getEntriesByType('navigation')[0]?.responseStart ?? 0);
const apart = Number(document.getElementById('safety')?.dataset.now ?? cameAt) - cameAt;
const offset = Math.abs(apart) > 3000 ? apart : 0;

export const secondsLeft = (ends) => (Number(ends) - Date.now() - offset) / 1000;
export const clock = (s) => (s >= 90 ? `${Math.floor(s / 60)}:${String(Math.floor(s % 60)).padStart(2, '0')}` : `${Math.ceil(s)} s`);

const rung = new Set();

export function tick() {
  for (const timer of document.querySelectorAll('.timer[data-ends]')) {
    const left = secondsLeft(timer.dataset.ends);
    timer.querySelector('.left').textContent = left > 0 ? clock(left) : 'time';
    timer.classList.toggle('rung', left <= 0);
    const key = `${timer.dataset.name} ${timer.dataset.ends}`;
    if (left > 0 || rung.has(key)) continue;
    rung.add(key);
    if (left < -3) continue;
    hear('chime');
    announce(`${timer.dataset.name}: time`);
    if (timer.dataset.name === 'drain') load(here(), { push: false, keepRecord: false, quiet: true }).catch(() => {});
  }
  showCourse();
  for (const button of document.querySelectorAll('[data-waits]')) button.disabled = secondsLeft(button.dataset.waits) > 0;
}

/** How long it has run since start was pressed, and what has usually happened by now. */
function showCourse() {
  const course = document.querySelector('.course');
  if (!course) return;
  const since = Math.max(0, -secondsLeft(course.dataset.since));
  course.querySelector('.since').textContent = clock(Math.floor(since));
  const along = Math.min(300, (300 * since) / Number(course.dataset.most));
  course.querySelector('.passed').setAttribute('d', `M0 12h${along.toFixed(1)}`);
  const marks = course.querySelector('.by-now');
  const by = marks.dataset.marks.split('|').map((m) => [Number(m.slice(0, m.indexOf(':'))), m.slice(m.indexOf(':') + 1)]);
  const next = by.find(([at]) => at > since);
  marks.textContent = next ? `${next[1]} by ${clock(next[0])}` : `wait up to ${clock(Number(course.dataset.most))}`;
}
