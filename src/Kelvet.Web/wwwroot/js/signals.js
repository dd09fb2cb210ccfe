// Beeps tapped or heard, lights tapped, codes read. The page takes times and sound; the server makes sense of them. Without
// this file the same is done by form.

const form = document.querySelector('[data-listen]');
const dialog = document.getElementById('signals');
const job = form?.dataset.listen ?? '';
const told = (name) => form.querySelector(`[data-told="${name}"]`);
const SVG = 'http://www.w3.org/2000/svg';

const svg = (tag, attributes, text) => {
  const el = document.createElementNS(SVG, tag);
  for (const [name, value] of Object.entries(attributes)) el.setAttribute(name, value);
  if (text) el.textContent = text;
  return el;
};

const now = () => performance.now() / 1000;

// When a key or finger moved, not when this page came round to it: on a busy machine that is a good while later.
const when = (event) => event.timeStamp / 1000;

// --- What the server says ------------------------------------------------------------------------------------------

const turns = {};

/** Asks, and shows the answer unless a later question has been asked meanwhile. */
async function ask(name, address, options, use) {
  const turn = (turns[name] = (turns[name] ?? 0) + 1);
  let answer;
  try {
    const response = await fetch(address, options);
    answer = await response.json();
  } catch {
    answer = { problem: 'The server does not answer. Try again when it is back.' };
  }
  if (turn !== turns[name]) return;
  show(name, answer);
  if (!answer.problem) use?.(answer);
}

function show(name, answer) {
  const place = told(name);
  place.replaceChildren();
  const line = (tag, text, className) => {
    const el = document.createElement(tag);
    el.textContent = text;
    if (className) el.className = className;
    place.append(el);
    return el;
  };
  if (answer.problem) {
    line('p', answer.problem, 'note stop').setAttribute('role', 'alert');
    return;
  }
  line('p', answer.words, 'heard');
  if (answer.says) line('p', answer.says);
  if (answer.doesNotSay) line('p', answer.doesNotSay, 'quiet');
  if (answer.answers.length > 1 || (answer.answers.length && !answer.says)) {
    const list = line('ul', '');
    for (const a of answer.answers.slice(0, 6)) {
      const item = document.createElement('li');
      const link = document.createElement('a');
      link.href = `/codes/${a.table}/${encodeURIComponent(a.signal)}`;
      link.textContent = a.name;
      item.append(link, `: ${a.meaning} (${a.share} %)`);
      list.append(item);
    }
  }
  if (dialog && answer.signal && !noteField(name)) line('p', 'It is not noted with a start: put the power on first, then take it again.', 'note');
  if (answer.signal && !answer.sure && noteField(name)) {
    const use = line('button', `Note "${answer.signal}" all the same`, 'button');
    use.type = 'button';
    use.addEventListener('click', () => note(name, answer.signal, answer.confidence));
  }
}

// --- Where it goes: the fields of the start that is being recorded ----------------------------------------------------

const fields = { beeps: 'signs.beeps', lights: 'signs.lights', code: 'signs.code' };
const noteField = (name) => document.getElementById('record')?.elements[fields[name]] ?? null;

// What was noted without asking; it goes again when more is heard and the reading is no longer sure.
const noted = {};

function noteSure(name, answer) {
  if (answer.sure) {
    note(name, answer.signal, answer.confidence);
    noted[name] = answer.signal;
  } else if (noted[name] && noteField(name)?.value === noted[name]) {
    note(name, '');
  }
}

// How sure the ear was goes with what it heard; what is written by hand counts in full.
function sureOf(name, confidence) {
  const field = name === 'beeps' && document.getElementById('beeps-sure');
  if (field) field.value = String(Math.min(1, Math.max(0.01, confidence)));
}

document.addEventListener('input', (event) => {
  if (event.target.name === fields.beeps) sureOf('beeps', 1);
});

function note(name, value, confidence = 1) {
  noted[name] = '';
  const field = noteField(name);
  if (!field) return;
  field.value = value;
  field.dispatchEvent(new Event('input', { bubbles: true }));
  sureOf(name, confidence);
  showNoted();
}

// What is noted stays in sight while the dialog is closed.
function showNoted() {
  document.querySelector('.noted')?.remove();
  const words = Object.keys(fields).map((name) => noteField(name)?.value && `${name} ${noteField(name).value}`).filter(Boolean);
  if (words.length === 0) return;
  const el = document.createElement('span');
  el.className = 'noted';
  el.textContent = `With this start: ${words.join(' · ')}`;
  el.title = el.textContent;
  document.querySelector('#safety .state').after(el);
}

// --- Beeps by tapping ----------------------------------------------------------------------------------------------------

let taps = [];
let down = null;
let from = null;
let quiet = null;

function drawBeeps(beeps, end) {
  const row = form.querySelector('[data-rhythm]');
  row.replaceChildren();
  const width = row.clientWidth || 600;
  const scale = width / Math.max(6, end);
  row.append(svg('line', { x1: 0, x2: width, y1: 28, y2: 28, class: 'base' }));
  for (const [start, stop] of beeps) row.append(svg('rect', { x: start * scale, y: 6, width: Math.max(2, (stop - start) * scale), height: 22, class: 'beep' }));
}

function sendTaps(ended) {
  const last = taps.at(-1)?.[1] ?? 0;
  const end = ended ?? now() - from;
  drawBeeps(taps, end);
  ask('beeps', `/listen/taps${job}`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ beeps: taps, end: Math.max(end, last) }) },
    (answer) => noteSure('beeps', answer));
}

function press(event) {
  if (down !== null) return;
  from ??= when(event);
  down = when(event) - from;
  clearTimeout(quiet);
  form.querySelector('[data-tap]').setAttribute('aria-pressed', 'true');
}

function release(event) {
  if (down === null) return;
  taps.push([down, Math.max(when(event) - from, down + 0.01)]);
  down = null;
  form.querySelector('[data-tap]').setAttribute('aria-pressed', 'false');
  sendTaps();
  // Silence tells as much as beeps: it is sent once more when nothing has followed.
  quiet = setTimeout(() => sendTaps(), 2200);
}

function clearBeeps() {
  [taps, down, from] = [[], null, null];
  clearTimeout(quiet);
  stopListening();
  turns.beeps = (turns.beeps ?? 0) + 1;
  drawBeeps([], 0);
  told('beeps').replaceChildren();
  note('beeps', '');
}

// --- Beeps by ear ----------------------------------------------------------------------------------------------------------

const LONGEST = 30;
let mic = null;

async function listen() {
  if (mic) {
    stopListening();
    return;
  }
  const button = form.querySelector('[data-mic]');
  let stream;
  try {
    stream = await navigator.mediaDevices.getUserMedia({ audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false } });
  } catch {
    show('beeps', { problem: 'The microphone cannot be used: allow it for this page, or tap along, or choose a recording.' });
    return;
  }
  clearBeeps();
  const context = new AudioContext();
  await context.audioWorklet.addModule('/js/microphone.js');
  const source = context.createMediaStreamSource(stream);
  const worklet = new AudioWorkletNode(context, 'microphone', { numberOfOutputs: 0 });
  mic = { stream, context, chunks: [], samples: 0, timer: setInterval(sendSound, 1000) };
  worklet.port.onmessage = (event) => {
    if (!mic) return;
    mic.chunks.push(event.data);
    mic.samples += event.data.length;
    if (mic.samples > LONGEST * context.sampleRate) stopListening(true);
  };
  source.connect(worklet);
  button.setAttribute('aria-pressed', 'true');
  button.firstChild.textContent = 'Stop listening ';
}

function sendSound() {
  if (!mic || mic.samples === 0) return;
  const all = new Int16Array(mic.samples);
  let at = 0;
  for (const chunk of mic.chunks) {
    all.set(chunk, at);
    at += chunk.length;
  }
  const end = mic.samples / mic.context.sampleRate;
  ask('beeps', `/listen/sound${job}${job ? '&' : '?'}rate=${Math.round(mic.context.sampleRate)}`, { method: 'POST', body: all }, (answer) => {
    drawBeeps(answer.beeps, end);
    noteSure('beeps', answer);
  });
}

function stopListening(last = false) {
  if (!mic) return;
  if (last) sendSound();
  clearInterval(mic.timer);
  mic.stream.getTracks().forEach((t) => t.stop());
  mic.context.close();
  mic = null;
  const button = form.querySelector('[data-mic]');
  button.setAttribute('aria-pressed', 'false');
  button.firstChild.textContent = 'Listen ';
}

async function hearFile(file) {
  if (!file) return;
  // What was drawn and noted before is not what this recording says.
  clearBeeps();
  await ask('beeps', `/listen/sound${job}`, { method: 'POST', body: file }, (answer) => {
    drawBeeps(answer.beeps, Math.max(6, answer.beeps.at(-1)?.[1] ?? 0));
    noteSure('beeps', answer);
  });
}

// --- Lights ----------------------------------------------------------------------------------------------------------------

const ORDER = ['cpu', 'memory', 'video', 'boot'];
let lights = [];
let watchFrom = null;
let watching = null;

const lit = (name) => lights.find((l) => l.light === name && l.off === null);

function pressLight(name, event) {
  watchFrom ??= when(event);
  const at = when(event) - watchFrom;
  const own = lit(name);
  if (own) own.off = at;
  else {
    if (!form.querySelector('[data-together]').checked) for (const l of lights) l.off ??= at;
    lights.push({ light: name, on: at, off: null });
  }
  sendLights();
  watching ??= setInterval(() => (lights.some((l) => l.off === null) ? sendLights() : null), 1000);
}

function sendLights() {
  const end = now() - watchFrom;
  drawLights(end);
  ask('lights', `/listen/lights${job}`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ lights, end }) },
    (answer) => answer.signal && note('lights', answer.signal));
}

function drawLights(end) {
  const row = form.querySelector('[data-light-row]');
  row.removeAttribute('hidden');
  row.replaceChildren();
  const width = (row.clientWidth || 600) - 76;
  const scale = width / Math.max(10, end);
  ORDER.forEach((name, i) => {
    row.append(svg('text', { x: 0, y: 17 + i * 22 }, name === 'cpu' ? 'CPU' : name), svg('line', { x1: 72, x2: 72 + width, y1: 20 + i * 22, y2: 20 + i * 22, class: 'base' }));
    for (const l of lights.filter((x) => x.light === name)) {
      row.append(svg('rect', { x: 72 + l.on * scale, y: 6 + i * 22, width: Math.max(3, ((l.off ?? end) - l.on) * scale), height: 14, class: l.off === null ? 'beep still' : 'beep' }));
    }
    form.querySelector(`[data-light="${name}"]`).setAttribute('aria-pressed', String(Boolean(lit(name))));
  });
}

function clearLights() {
  [lights, watchFrom] = [[], null];
  clearInterval(watching);
  watching = null;
  turns.lights = (turns.lights ?? 0) + 1;
  drawLights(0);
  form.querySelector('[data-light-row]').setAttribute('hidden', '');
  told('lights').replaceChildren();
  note('lights', '');
}

// --- Written by hand -----------------------------------------------------------------------------------------------------

const kinds = { beeps: 'Beeps', lights: 'Lights', code: 'Post' };

function written(name, value) {
  if (value.trim().length < (name === 'code' ? 2 : 1)) return;
  ask(name, `/listen/written${job}${job ? '&' : '?'}kind=${kinds[name]}&text=${encodeURIComponent(value)}`, {}, () => note(name, value.trim()));
}

// --- Keys and buttons -----------------------------------------------------------------------------------------------------

const writes = (el) => el.closest('input:not([type=checkbox]):not([type=file]), textarea, select') !== null;
const active = () => form && (dialog ? dialog.open : true);

if (form) {
  form.querySelectorAll('[data-tap], [data-mic], [data-clear], [data-lights]').forEach((el) => { el.hidden = false; });
  const pad = form.querySelector('[data-tap]');
  pad.addEventListener('pointerdown', (event) => {
    pad.setPointerCapture?.(event.pointerId);
    press(event);
  });
  for (const end of ['pointerup', 'pointercancel']) pad.addEventListener(end, release);
  form.querySelector('[data-mic]').addEventListener('click', listen);
  form.querySelector('[name=sound]').addEventListener('change', (event) => hearFile(event.target.files[0]));
  form.querySelectorAll('[data-light]').forEach((b) => b.addEventListener('click', (event) => pressLight(b.dataset.light, event)));
  form.querySelectorAll('[data-clear]').forEach((b) => b.addEventListener('click', b.dataset.clear === 'beeps' ? clearBeeps : clearLights));
  for (const name of Object.keys(kinds)) form.querySelector(`[name=${name}]`).addEventListener('change', (event) => written(name, event.target.value));
  form.addEventListener('submit', (event) => {
    event.preventDefault();
    for (const name of Object.keys(kinds)) written(name, form.querySelector(`[name=${name}]`).value);
  });
  addEventListener('keydown', (event) => {
    if (!active() || writes(event.target) || event.ctrlKey || event.altKey || event.metaKey) return;
    if (event.key === ' ') {
      // A button, a box or a link that has the focus keeps its own space bar.
      if (event.target.closest('button, a, input, select, summary') && !event.target.closest('[data-tap]')) return;
      event.preventDefault();
      if (!event.repeat) press(event);
    } else if (!event.repeat && '1234'.includes(event.key)) {
      event.preventDefault();
      pressLight(ORDER[Number(event.key) - 1], event);
    } else if (event.key === 'v' && !event.repeat) {
      event.preventDefault();
      listen();
    }
  }, true);
  addEventListener('keyup', (event) => {
    if (event.key !== ' ' || down === null) return;
    event.preventDefault();
    release(event);
  }, true);
}

document.addEventListener('click', (event) => {
  const opener = event.target.closest('[data-opens="signals"]');
  if (!opener || !dialog) return;
  event.preventDefault();
  dialog.showModal();
  form.querySelector('[data-tap]').focus();
});

dialog?.querySelector('[data-close]').addEventListener('click', () => dialog.close());
dialog?.addEventListener('close', () => {
  // A light that is still lit has been lit until now.
  if (lights.some((l) => l.off === null)) sendLights();
  stopListening(true);
  showNoted();
});

// What was tapped belongs to its start, and goes when that is recorded or the power goes off.
document.querySelector('.bench')?.addEventListener('drawn', (event) => {
  if (event.detail.startOver && !dialog.open) {
    clearBeeps();
    clearLights();
    told('code').replaceChildren();
    form.reset();
  }
  showNoted();
});
