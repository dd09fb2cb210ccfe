// The machine is drawn as it is described; customers and names of parts are found as they are typed. Everything works without
// this file.

const form = document.getElementById('intake');
const waits = new Map();

/** Runs the last of several calls, a moment after it. */
function soon(name, act) {
  clearTimeout(waits.get(name));
  waits.set(name, setTimeout(act, 120));
}

async function part(address, options) {
  const answer = await fetch(address, options).catch(() => null);
  return answer?.status === 200 ? new DOMParser().parseFromString(await answer.text(), 'text/html') : null;
}

let turn = 0;
form?.addEventListener('change', async (event) => {
  if (event.target.type === 'file') return;
  const mine = ++turn;
  const body = new FormData(form);
  for (const name of ['photo', 'listing', 'ListingText', 'Form.Password']) body.delete(name);
  const drawn = (await part(`${location.pathname}?handler=Picture`, { method: 'POST', body }))?.querySelector('svg');
  if (drawn && mine === turn) document.getElementById('picture').replaceChildren(drawn);
  // A serial or mark that was here before is found as soon as it is typed.
  const visits = document.getElementById('visits');
  if (!visits || !/Serial|Mark/.test(event.target.name ?? '')) return;
  const before = await part('/jobs/new?handler=Visits', { method: 'POST', body });
  if (before) visits.replaceChildren(...before.body.children);
});

const who = document.getElementById('customer');
const found = document.getElementById('found');
who?.addEventListener('input', () => soon('who', async () => {
  const asked = who.value.trim();
  const list = asked.length < 2 ? null : await part(`/jobs/new?handler=Find&q=${encodeURIComponent(asked)}`);
  if (asked === who.value.trim()) found?.replaceChildren(...(list?.body.children ?? []));
}));
// Down goes from the name to who was found, and on.
form?.addEventListener('keydown', (event) => {
  const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
  if (!step || !found || !(event.target === who || event.target.closest('#found'))) return;
  const all = [who, ...found.querySelectorAll('button')];
  event.preventDefault();
  all[Math.min(all.length - 1, Math.max(0, all.indexOf(event.target) + step))].focus();
});

form?.addEventListener('input', (event) => {
  const { names } = event.target.dataset;
  if (!names || event.target.value.trim().length < 2) return;
  soon(names, async () => {
    const list = await part(`/jobs/new?handler=Names&kind=${names}&q=${encodeURIComponent(event.target.value)}`);
    if (list) document.getElementById(`names-${names}`)?.replaceChildren(...list.querySelectorAll('option'));
  });
});
