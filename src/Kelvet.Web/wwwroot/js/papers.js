// The papers page shows each paper as a small picture: what would be printed of it, and nothing that can be pressed.
const dropped = '.no-print, script, dialog, input[type=hidden]';

async function show(place) {
  try {
    const answer = await fetch(place.dataset.small, { headers: { accept: 'text/html' } });
    if (!answer.ok) return;
    const page = new DOMParser().parseFromString(await answer.text(), 'text/html').querySelector('main > .page');
    if (!page) return;
    for (const gone of page.querySelectorAll(dropped)) gone.remove();
    for (const named of page.querySelectorAll('[id]')) named.removeAttribute('id');
    for (const keyed of page.querySelectorAll('[data-key]')) keyed.removeAttribute('data-key');
    for (const shown of page.querySelectorAll('.print-only')) shown.classList.remove('print-only');
    const sheet = document.createElement('div');
    sheet.className = 'sheet-of-paper';
    sheet.append(document.adoptNode(page));
    place.replaceChildren(sheet);
  } catch {
    // Without a picture its name is still there.
  }
}

// One after the other: a bench that works meanwhile is not held up.
for (const place of document.querySelectorAll('[data-small]')) await show(place);
document.documentElement.dataset.papers = 'shown';
