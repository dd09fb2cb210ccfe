// The bench, live: steps are sent and taken up without loading the page anew, other benches are followed, timers run and
// chime, parts are dragged. Without this file everything here still works by links and forms.

import { tick } from './bench/clock.js';
import { bench, newest } from './bench/live.js';
import { showAgain, standTimes } from './bench/readers.js';
import './bench/send.js';
import './bench/news.js';
import './bench/drag.js';
import './bench/view.js';
import './bench/procedure.js';
import { placeAll } from './bench/beside.js';
import { showName } from './bench/photo.js';
import { speak } from './bench/sound.js';

if (bench) {
  bench.addEventListener('settled', () => {
    showAgain();
    tick();
    placeAll();
    showName();
    speak();
  });
  tick();
  setInterval(tick, 250);
  setInterval(standTimes, 1000);
  newest();
  placeAll();
  showName();
  addEventListener('resize', placeAll);
}
