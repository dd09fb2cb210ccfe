// A step's procedure opens beside the machine, and is ticked off there. Without this file it is a page of its own.

import '../how.js';
import { showProblem } from './words.js';

const dialog = document.getElementById('how');

document.addEventListener('click', async (event) => {
  const link = event.target.closest('[data-procedure]');
  if (!link || event.button !== 0 || event.ctrlKey || event.metaKey || event.shiftKey) return;
  event.preventDefault();
  try {
    const answer = await fetch(link.href);
    const procedure = new DOMParser().parseFromString(await answer.text(), 'text/html').querySelector('.how');
    if (!procedure) {
      location.assign(link.href);
      return;
    }
    procedure.querySelector('form').action = link.href;
    const close = procedure.querySelector('[data-back]');
    close.removeAttribute('data-back');
    close.textContent = 'Close';
    close.addEventListener('click', (click) => {
      click.preventDefault();
      dialog.close();
      link.focus();
    });
    dialog.replaceChildren(procedure);
    dialog.show();
    dialog.querySelector('input[type=checkbox]').focus();
  } catch {
    showProblem('The server does not answer. Try again when it is back.');
  }
});

dialog?.addEventListener('keydown', (event) => {
  // Keys go to the ticks, not to the bench; Escape closes.
  if (event.key === 'Escape') dialog.close();
  event.stopPropagation();
});
