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

// "Not known" and what is known of the same thing are not ticked together.
form?.addEventListener('change', ({ target }) => {
  if (target.type !== 'checkbox' || !target.checked) return;
  const others = [...form.querySelectorAll(`[name="${CSS.escape(target.name)}"]`)].filter((box) => box !== target && box.type === 'checkbox');
  const unticked = 'notKnown' in target.dataset ? others : others.filter((box) => 'notKnown' in box.dataset);
  for (const box of unticked) box.checked = false;
});

let turn = 0;
form?.addEventListener('change', async (event) => {
  if (event.target.type === 'file' || event.target.id === 'thing') return;
  sayPlaces();
  const mine = ++turn;
  const body = new FormData(form);
  for (const name of ['photo', 'listing', 'ListingText', 'Form.Password']) body.delete(name);
  const drawn = (await part(`${location.pathname}?handler=Picture`, { method: 'POST', body }))?.querySelector('svg');
  if (drawn && mine === turn) document.getElementById('picture')?.replaceChildren(drawn);
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
  // Who has gone into the list already chooses from what is there: it is not taken from under them.
  if (asked === who.value.trim() && !found?.contains(document.activeElement)) found?.replaceChildren(...(list?.body.children ?? []));
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

// The drawing is the form: a place that is touched opens its fields; a slot is filled or emptied, an output is where it was plugged.
const picture = document.getElementById('picture');
const tick = (box) => { box.checked = !box.checked; box.dispatchEvent(new Event('change', { bubbles: true })); };
picture?.addEventListener('click', (event) => {
  const link = event.target.closest('a');
  const field = link && document.getElementById(link.getAttribute('href').slice(1));
  if (!field) return;
  event.preventDefault();
  const place = field.closest('details');
  if (place) place.open = true;
  const slot = /^memory\.(.+)$/.exec(link.dataset.place ?? '')?.[1];
  const box = slot && form.querySelector(`[name="Form.Filled"][value="${slot}"]`);
  if (box) {
    // What is drawn is what is changed: a guess that is touched is taken as it is drawn, but for the slot that was touched.
    const notKnown = form.querySelector('[name="Form.Filled"][data-not-known]');
    if (notKnown?.checked) {
      notKnown.checked = false;
      for (const slot of picture.querySelectorAll('[data-place^="memory."]:not(.bare)')) {
        const drawn = form.querySelector(`[name="Form.Filled"][value="${CSS.escape(slot.dataset.place.slice(7))}"]`);
        if (drawn) drawn.checked = true;
      }
    }
    tick(box);
  }
  if (field.id === 'wason') {
    const words = link.getAttribute('aria-label');
    const output = [...field.options].find((o) => o.value.startsWith('board/') && words.startsWith(`${o.value.slice(6)}:`));
    if (output) { field.value = output.value; field.dispatchEvent(new Event('change', { bubbles: true })); }
  }
  // On a phone the keyboard would cover what was touched: it comes when the field itself is.
  if (matchMedia('(pointer: fine)').matches) { field.focus({ preventScroll: true }); field.select?.(); }
  (place ?? field).scrollIntoView({ block: 'nearest' });
});

/** What a closed place says of itself. */
function sayPlaces() {
  for (const place of document.querySelectorAll('details.told-place')) {
    const said = place.querySelector('summary .is');
    const field = place.querySelector('.grid-form input');
    if (!said || !field) continue;
    const ticked = [...place.querySelectorAll('[name="Form.Filled"]:checked')];
    const slots = ticked.some((box) => 'notKnown' in box.dataset) ? '?' : ticked.length;
    const words = field.value.trim() || (place.id === 'place-card' ? 'none' : place.id === 'place-case' ? '' : '?');
    said.textContent = place.id === 'place-memory' ? `${slots} × ${words}` : words;
  }
}

const thing = document.getElementById('thing');
thing?.addEventListener('input', () => soon('thing', async () => {
  const asked = thing.value.trim();
  const list = await part(`${location.pathname}?handler=Things&thing=${encodeURIComponent(asked.length < 2 ? '' : asked)}`);
  const things = document.getElementById('things');
  if (list && asked === thing.value.trim() && !things.contains(document.activeElement)) things.replaceChildren(...list.body.children);
}));
// Enter in it takes the first that was found, and never opens the job.
thing?.addEventListener('keydown', (event) => {
  if (event.key !== 'Enter') return;
  event.preventDefault();
  document.querySelector('#things button')?.click();
});

// What was just chosen is seen where it went.
document.querySelector('details.told-place[open]')?.scrollIntoView({ block: 'center' });
