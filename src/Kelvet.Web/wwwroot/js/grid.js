// Arrow keys walk over the grid of sticks and slots; Enter takes the pairing that has the focus.

const grid = document.getElementById('grid');
const step = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] };

const cellAt = (row, column) => grid.tBodies[0].rows[row]?.cells[column]?.querySelector('a, .cell');

grid?.addEventListener('keydown', (event) => {
  const by = step[event.key];
  const cell = event.target.closest('td');
  if (!by || !cell) return;
  event.preventDefault();
  cellAt(cell.parentElement.rowIndex - grid.tHead.rows.length + by[0], cell.cellIndex + by[1])?.focus();
});
(grid?.querySelector('.is-best a') ?? grid?.querySelector('td a'))?.focus({ preventScroll: true });
