// What belongs to a part lies beside it: its menu, and the choices of what it shows.

const room = () => document.querySelector('.drawing-room');

/** Puts a panel beside an element of the drawing, inside the machine's panel. */
function place(panel, part) {
  const frame = document.getElementById('machine-panel')?.getBoundingClientRect();
  const box = part?.getBoundingClientRect();
  for (const side of ['left', 'right', 'top', 'max-height']) panel.style.removeProperty(side);
  if (!frame || !box || box.width === 0 || innerWidth < 992) return;
  const [width, height] = [panel.offsetWidth, panel.offsetHeight];
  // At the edge away from the part, so that where the part can go stays free to be pointed at.
  const isMenu = panel.matches('.part-menu');
  const middle = box.left + box.width / 2 - frame.left;
  const away = middle > frame.width * 0.38 ? 4 : frame.width - width - 4;
  const right = box.right - frame.left + 12;
  const beside = right + width <= frame.width ? right : Math.max(4, box.left - frame.left - width - 12);
  panel.style.setProperty('left', `${isMenu ? away : Math.min(beside, Math.max(4, frame.width - width - 4))}px`);
  panel.style.setProperty('right', 'auto');
  panel.style.setProperty('top', `${Math.max(4, Math.min(box.top - frame.top, frame.height - height - 4))}px`);
}

function placeAll() {
  const menu = document.querySelector('.part-menu[data-beside]');
  if (menu) place(menu, document.querySelector(`#machine [data-unit="${CSS.escape(menu.dataset.beside)}"]`));
  const open = document.querySelector('.tap.open');
  if (open) place(open, document.querySelector(`#machine [data-say="${open.id}"]`));
  showTold();
}

// A part that something was said of shows it.
function showTold() {
  for (const link of document.querySelectorAll('#machine [data-say]')) {
    const panel = document.getElementById(link.dataset.say);
    const told = [...(panel?.querySelectorAll('input') ?? [])].some((f) => (f.type === 'radio' ? f.checked && !f.defaultChecked : f.value !== ''));
    link.classList.toggle('told', told);
  }
}

function close(panel, back = true) {
  panel.classList.remove('open');
  if (back) document.querySelector(`#machine [data-say="${panel.id}"]`)?.focus({ preventScroll: true });
}

document.addEventListener('click', (event) => {
  const link = event.target.closest?.('[data-say]');
  if (link) {
    event.preventDefault();
    document.querySelectorAll('.tap.open').forEach((p) => close(p, false));
    document.querySelectorAll('.menu[open]').forEach((m) => m.removeAttribute('open'));
    const panel = document.getElementById(link.dataset.say);
    panel?.classList.add('open');
    placeAll();
    panel?.querySelector('input:checked, input')?.focus({ preventScroll: true });
    return;
  }
  const done = event.target.closest?.('[data-close-tap]');
  if (done) {
    event.preventDefault();
    close(done.closest('.tap'));
  }
});

document.addEventListener('keydown', (event) => {
  const open = document.querySelector('.tap.open');
  if (open && event.key === 'Escape') close(open);
  // Enter in a choice says it and does not record the start.
  if (open && event.key === 'Enter' && event.target.matches?.('.tap input')) {
    event.preventDefault();
    close(open);
  }
}, true);

document.addEventListener('change', (event) => {
  if (event.target.closest?.('.tap')) showTold();
});

export { placeAll };

// A minute that is tapped on the line of a start's time is the minutes since start; tapped again it is not said.
document.addEventListener('click', (event) => {
  const mark = event.target.closest('.time-line [data-minute]');
  const field = mark && document.querySelector('#record [name="signs.minutes"]');
  if (!field) return;
  field.value = mark.getAttribute('aria-pressed') === 'true' ? '' : mark.dataset.minute;
  field.dispatchEvent(new Event('change', { bubbles: true }));
  for (const one of mark.parentElement.querySelectorAll('[data-minute]')) one.setAttribute('aria-pressed', String(one.dataset.minute === field.value));
});
