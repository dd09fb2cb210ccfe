// The points of a sheet, one key each: y ticks the one that has the focus and goes on, n goes on.

const boxes = [...document.querySelectorAll('#points input[type=checkbox]')];

function next(from) {
  const at = boxes.indexOf(from);
  (boxes[at + 1] ?? document.querySelector('.bar button'))?.focus();
}

document.addEventListener('keydown', (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || !['y', 'n'].includes(event.key)) return;
  const here = boxes.includes(document.activeElement) ? document.activeElement : boxes.find((b) => !b.checked);
  if (!here) return;
  event.preventDefault();
  if (event.key === 'y') here.checked = true;
  next(here);
});
boxes[0]?.focus({ preventScroll: true });
