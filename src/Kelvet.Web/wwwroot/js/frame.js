// Where the job stands is followed on every page of it, as on the bench; what is not known for sure any more is not shown.

let line = document.getElementById('job-line');
let soon = 0;

async function refresh() {
  const answer = await fetch(location.href, { headers: { accept: 'text/html' } }).catch(() => null);
  const page = answer?.ok ? new DOMParser().parseFromString(await answer.text(), 'text/html') : null;
  const fresh = page?.getElementById('job-line');
  if (!fresh) return;
  line.replaceWith(fresh);
  line = fresh;
  wait();
}

// Drained, nothing tells it: the time does.
function wait() {
  clearTimeout(soon);
  const seconds = Number(line.dataset.safeIn);
  if (line.dataset.safeIn && seconds >= 0) soon = setTimeout(refresh, seconds * 1000 + 200);
}

if (line && 'EventSource' in window) {
  const live = new EventSource(`/jobs/${line.dataset.job}/live`);
  let first = true;
  live.addEventListener('changed', (event) => {
    if (first && event.data.includes('here')) first = false;
    else refresh();
  });
  live.addEventListener('error', () => {
    const state = line.querySelector('.state');
    state.textContent = 'Not known';
    state.className = 'state safety-live';
  });
  wait();
}
