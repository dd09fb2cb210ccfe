// What is written and not yet recorded stays: a note and a photo until they are recorded, what the machine showed until its
// start is recorded or the power goes off.

const OF_ANY_START = ['note', 'photo', 'liveReason'];

const fields = () => [...document.querySelectorAll('#record input[name]:not([type=hidden]), #record select[name]')];
const isFilled = (f) => (f.type === 'file' ? f.files.length > 0 : f.matches('select') ? f.selectedIndex > 0 : f.value !== '');

// By field, also of fields that the form does not show just now.
const begun = new Map();

export const isDirty = () => fields().some(isFilled);

/** Takes in what the form holds, and drops what has been said. */
export function noteBegun({ startOver, said, keep, dropped }) {
  const here = fields();
  for (const f of here) {
    if (isFilled(f)) begun.set(f.name, f.type === 'file' ? { files: f.files } : { value: f.value });
    else begun.delete(f.name);
  }
  const kept = keep ? here.map((f) => f.name) : [];
  for (const name of [...begun.keys()].filter((n) => !kept.includes(n))) {
    if (OF_ANY_START.includes(name) ? said : startOver) begun.delete(name);
  }
  // A file that cannot be used is not offered again.
  if (dropped) begun.delete(dropped);
  for (const f of here.filter((f) => !begun.has(f.name))) empty(f);
}

/** Fills the form with it again, as far as the form has the fields. */
export function carryOver() {
  for (const field of fields().filter((f) => begun.has(f.name) && !isFilled(f))) {
    const old = begun.get(field.name);
    if (old.files) field.files = old.files;
    else field.value = old.value;
  }
}

/** Whether an update leaves this element as it is: something is begun in it. */
export const holds = (el) => begun.has(el.name) || (el.id === 'beeps-sure' && begun.has('signs.beeps'));

function empty(field) {
  if (field.matches('select')) field.selectedIndex = 0;
  else field.value = '';
}
