// Countdowns: how long is left, and a chime at the end.

import { here, load } from './live.js';
import { announce } from './words.js';

// How far this clock is from the server's, when it is more than the page took to come.
const cameAt = performance.timeOrigin + (performance.getEntriesByType('navigation')[0]?.responseStart ?? 0);
const apart = Number(document.getElementById('safety')?.dataset.now ?? cameAt) - cameAt;
const offset = Math.abs(apart) > 3000 ? apart : 0;

export const secondsLeft = (ends) => (Number(ends) - Date.now() - offset) / 1000;
export const clock = (s) => (s >= 90 ? `${Math.floor(s / 60)}:${String(Math.floor(s % 60)).padStart(2, '0')}` : `${Math.ceil(s)} s`);

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

export function tick() {
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
