// Ways of showing the bench are turned on and off without leaving it.

import { speak } from './sound.js';
import { announce } from './words.js';

document.addEventListener('submit', async (event) => {
  const form = event.target;
  if (!form.matches('[data-view]') || !event.submitter) return;
  event.preventDefault();
  const view = event.submitter.value;
  const on = event.submitter.getAttribute('aria-pressed') !== 'true';
  const root = document.documentElement;
  const views = (root.dataset.view ?? '').split(' ').filter((v) => v && v !== view);
  root.dataset.view = [...views, ...(on ? [view] : [])].join(' ');
  event.submitter.setAttribute('aria-pressed', String(on));
  form.closest('details')?.removeAttribute('open');
  announce(`${event.submitter.textContent.trim()}: ${on ? 'on' : 'off'}`);
  speak();
  await fetch(form.action, { method: 'POST', body: new FormData(form, event.submitter), redirect: 'manual' }).catch(() => {});
});
