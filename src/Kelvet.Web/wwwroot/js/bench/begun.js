// What is written and not yet recorded stays: a note and a photo until they are recorded, what the machine showed until its
// start is recorded or the power goes off.

const OF_ANY_START = ['note', 'photo', 'liveReason'];

// All that goes with the form, also what is said where it is seen and only belongs to it.
const fields = () => [...(document.getElementById('record')?.elements ?? [])].filter((f) => f.name && f.matches('input:not([type=hidden]), select'));
const isChosen = (f) => f.checked && f.value !== '' && !f.defaultChecked;
const isFilled = (f) => (f.type === 'file' ? f.files.length > 0 : f.type === 'radio' ? isChosen(f) : f.matches('select') ? f.selectedIndex > 0 : f.value !== '');
const isAnyFilled = (name, here) => here.some((f) => f.name === name && isFilled(f));

// By field, also of fields that the form does not show just now.
const begun = new Map();

export const isDirty = () => fields().some(isFilled);

/** Takes in what the form holds, and drops what has been said. */
export function noteBegun({ startOver, said, keep, dropped }) {
  const here = fields();
  for (const f of here) {
    if (isFilled(f)) begun.set(f.name, f.type === 'file' ? { files: f.files } : { value: f.value });
    else if (!isAnyFilled(f.name, here)) begun.delete(f.name);
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
    else if (field.type === 'radio') field.checked = field.value === old.value;
    else field.value = old.value;
  }
}

/** Whether an update leaves this element as it is: something is begun in it. */
export const holds = (el) => begun.has(el.name) || (el.id === 'beeps-sure' && begun.has('signs.beeps'));

function empty(field) {
  if (field.type === 'radio') field.checked = field.defaultChecked;
  else if (field.matches('select')) field.selectedIndex = 0;
  else field.value = '';
}
