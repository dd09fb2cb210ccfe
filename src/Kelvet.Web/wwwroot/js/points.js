// The points of a sheet, one key each: 1 ticks the one that has the focus and goes on, 0 goes on.

const boxes = [...document.querySelectorAll('#points input[type=checkbox]')];

function next(from) {
  const at = boxes.indexOf(from);
  (boxes[at + 1] ?? document.querySelector('.bar button'))?.focus();
}

document.addEventListener('keydown', (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || !['1', '0'].includes(event.key)) return;
  const here = boxes.includes(document.activeElement) ? document.activeElement : boxes.find((b) => !b.checked);
  if (!here) return;
  event.preventDefault();
  if (event.key === '1') here.checked = true;
  next(here);
});
boxes[0]?.focus({ preventScroll: true });
