// The machine is drawn as it is described.

const form = document.getElementById('intake');
let turn = 0;

form?.addEventListener('change', async () => {
  const mine = ++turn;
  const answer = await fetch('/jobs/new?handler=Picture', { method: 'POST', body: new FormData(form) }).catch(() => null);
  if (answer?.status !== 200 || mine !== turn) return;
  const drawn = new DOMParser().parseFromString(await answer.text(), 'text/html').querySelector('svg');
  if (drawn) document.getElementById('picture').replaceChildren(drawn);
});
