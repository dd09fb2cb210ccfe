// What is told aside: announcements for a screen reader, and problems beside the form.

const announcer = document.getElementById('announce');

export function announce(words) {
  if (!announcer) return;
  announcer.textContent = '';
  setTimeout(() => { announcer.textContent = words; }, 30);
}

/** A problem that the page itself found; the form keeps everything. */
export function showProblem(words, id = 'away') {
  const form = document.getElementById('record');
  let note = document.getElementById(id);
  if (!note) {
    note = document.createElement('p');
    note.id = id;
    note.className = 'note stop';
    note.setAttribute('role', 'alert');
    (document.querySelector('#record-panel .overs') ?? form)?.append(note);
  }
  note.textContent = words;
}

export const dropProblem = (id = 'away') => document.getElementById(id)?.remove();

/** Says that another bench has recorded a line while something is begun here. */
export function tellStale(line) {
  const form = document.getElementById('record');
  if (!form || document.querySelector('#record-panel .stale')) return;
  const note = document.createElement('p');
  note.className = 'note stale';
  note.textContent = `Meanwhile line ${line} was recorded from another bench. What you have here is kept; recording it will offer it for review.`;
  (document.querySelector('#record-panel .overs') ?? form).append(note);
  announce(note.textContent);
}

/** What is new on the bench, for a screen reader. */
export function tellNews() {
  const text = (selector) => document.querySelector(selector)?.textContent.trim().replace(/\s+/g, ' ');
  const problem = text('#record-panel [role=alert]');
  const said = text('#record-panel [role=status]')?.replace(/Correct it$/, '');
  const next = `Next: ${text('#h-next') ?? ''}`;
  announce([problem ?? said, text('#record-panel .gate p'), next].filter(Boolean).join(' '));
}
