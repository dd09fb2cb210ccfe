// Finds anything from any page: what is typed is looked for while it is typed; arrows walk, Enter goes to the first.

const dialog = document.getElementById('find');
const link = document.querySelector('[data-find]');
let asked = 0;

async function show(query, job) {
  const mine = ++asked;
  const address = new URLSearchParams({ handler: 'list', q: query });
  if (job) address.set('job', job);
  const answer = await fetch(`/find?${address}`).catch(() => null);
  // An answer to what was typed before comes too late.
  if (mine !== asked || !answer?.ok) return;
  dialog.querySelector('.list').innerHTML = await answer.text();
}

function make() {
  const box = document.createElement('div');
  box.innerHTML = '<label for="find-now">Place, part, act, job, customer, code or page</label><input id="find-now" type="search" maxlength="80" autocomplete="off"><div class="list"></div>';
  dialog.replaceChildren(...box.children);
}

export function openFind() {
  if (!dialog || typeof dialog.showModal !== 'function') return false;
  const job = new URL(link.href).searchParams.get('job');
  if (!dialog.firstElementChild) {
    make();
    dialog.querySelector('input').addEventListener('input', (event) => show(event.target.value, job));
  }
  const input = dialog.querySelector('input');
  input.value = '';
  show('', job);
  dialog.showModal();
  input.focus();
  return true;
}

link?.addEventListener('click', (event) => {
  if (!event.ctrlKey && !event.metaKey && openFind()) event.preventDefault();
});

dialog?.addEventListener('keydown', (event) => {
  const links = [...dialog.querySelectorAll('.list a')];
  const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
  if (step) {
    event.preventDefault();
    const at = links.indexOf(document.activeElement) + step;
    if (at < 0) dialog.querySelector('input').focus();
    else links[Math.min(at, links.length - 1)]?.focus();
  } else if (event.key === 'Enter' && event.target.matches('input')) {
    event.preventDefault();
    links[0]?.click();
  }
});

// A link to where one is already, such as a page with an act chosen, still closes the list.
dialog?.addEventListener('click', (event) => {
  if (event.target.closest('a')) dialog.close();
  else if (event.target === dialog) dialog.close();
});
