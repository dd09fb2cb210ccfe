// Photos: dropped, pasted or chosen, and made smaller here before they are sent.

import { showProblem } from './words.js';

const LONGEST = 2000;

/** A picture with its longer side at most 2000 pixels, as JPEG; what cannot be read is left as it is for the server to refuse. */
export async function scaled(file) {
  try {
    const picture = await createImageBitmap(file);
    const by = Math.min(1, LONGEST / Math.max(picture.width, picture.height));
    if (by === 1 && file.size < 1_500_000) return file;
    const canvas = document.createElement('canvas');
    [canvas.width, canvas.height] = [Math.round(picture.width * by), Math.round(picture.height * by)];
    canvas.getContext('2d').drawImage(picture, 0, 0, canvas.width, canvas.height);
    const blob = await new Promise((done) => canvas.toBlob(done, 'image/jpeg', 0.85));
    return blob && (by < 1 || blob.size < file.size) ? new File([blob], file.name.replace(/\.\w+$/, '') + '.jpg', { type: 'image/jpeg' }) : file;
  } catch {
    return file;
  }
}

const field = () => document.querySelector('input[type=file][name=photo]');

function showName() {
  for (const label of document.querySelectorAll('.photo-label')) {
    const file = label.querySelector('input').files[0];
    label.querySelector('.photo-name').textContent = file ? '1' : '';
    label.title = file ? file.name : 'Choose a photo, drop one here or paste it';
  }
}

async function take(file) {
  const input = field();
  if (!input) {
    showProblem('Nothing takes a photo just now. Record or drop what is open first.');
    return;
  }
  const files = new DataTransfer();
  files.items.add(await scaled(file));
  input.files = files.files;
  input.dataset.scaled = '1';
  showName();
}

const pictureIn = (items) => [...(items ?? [])].find((f) => f.type?.startsWith('image/'));

document.addEventListener('change', async (event) => {
  if (!event.target.matches?.('input[type=file][name=photo]')) return;
  const file = event.target.files[0];
  if (file && pictureIn([file])) await take(file);
  showName();
});

document.addEventListener('paste', (event) => {
  const file = pictureIn(event.clipboardData?.files);
  if (!file) return;
  event.preventDefault();
  take(file);
});

const hasFiles = (event) => [...(event.dataTransfer?.types ?? [])].includes('Files');

document.addEventListener('dragover', (event) => {
  if (!hasFiles(event)) return;
  event.preventDefault();
  document.querySelector('.bench')?.classList.add('dropping');
});
document.addEventListener('dragleave', (event) => {
  if (!event.relatedTarget) document.querySelector('.bench')?.classList.remove('dropping');
});
document.addEventListener('drop', (event) => {
  if (!hasFiles(event)) return;
  event.preventDefault();
  document.querySelector('.bench')?.classList.remove('dropping');
  const file = pictureIn(event.dataTransfer.files);
  if (file) take(file);
  else showProblem('Only a picture can be dropped here: PNG, JPEG or WebP.');
});

export { showName };
