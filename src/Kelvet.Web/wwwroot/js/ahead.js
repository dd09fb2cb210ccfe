// A search is played out beside the bench: asks how far it is, and takes up the page once it is done. What is being typed stays.

const waiting = document.querySelector('[data-ahead]');

async function look() {
  const answer = await fetch(waiting.dataset.ahead).catch(() => null);
  const said = answer?.ok ? await answer.text() : 'playing';
  if (said === 'playing') {
    setTimeout(look, 700);
    return;
  }
  const page = await fetch(location.href).catch(() => null);
  if (!page?.ok) return;
  const main = new DOMParser().parseFromString(await page.text(), 'text/html').getElementById('main');
  const inPlace = waiting.id && main?.querySelector(`#${waiting.id}`);
  if (inPlace) waiting.replaceWith(inPlace);
  else if (main) document.getElementById('main').replaceChildren(...main.childNodes);
}

if (waiting?.dataset.ahead) setTimeout(look, 700);
