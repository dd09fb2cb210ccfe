// Two screens on a job show the same sheet: what the one records, the other takes up. A drain is counted down.

const sheet = () => document.getElementById('sheet');
const job = sheet()?.dataset.live;

const typing = () => document.activeElement?.matches('input:not([type=file]), textarea, select');

/** Takes up the sheet as it stands, unless something is being chosen here; what is chosen is kept until it is sent. */
async function refresh() {
  if (typing() || document.querySelector('#sheet input[type=file]')?.files.length) return;
  const answer = await fetch(location.href).catch(() => null);
  if (answer?.status !== 200) return;
  const fresh = new DOMParser().parseFromString(await answer.text(), 'text/html').getElementById('sheet');
  if (fresh && sheet()) sheet().replaceWith(fresh);
  sheet().dataset.updates = String(Number(sheet().dataset.updates ?? 0) + 1);
  count();
}

if (job) {
  let first = true;
  const news = new EventSource(`/jobs/${job}/live`);
  news.addEventListener('changed', () => {
    if (!first) refresh();
    first = false;
  });
  addEventListener('pagehide', () => news.close());
}

let ticking;
function count() {
  clearInterval(ticking);
  const timer = document.querySelector('#sheet [data-until]');
  if (!timer) return;
  const until = Date.parse(timer.dataset.until);
  const tick = () => {
    const left = Math.ceil((until - Date.now()) / 1000);
    timer.textContent = left > 0 ? `draining, ${left} s` : 'safe';
    if (left <= 0) {
      clearInterval(ticking);
      refresh();
    }
  };
  tick();
  ticking = setInterval(tick, 250);
}
count();
