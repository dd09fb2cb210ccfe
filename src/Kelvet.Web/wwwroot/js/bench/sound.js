// Sounds: a chime when a time is over, a tick when something is recorded. One switch turns all of them off.

let audio = null;
addEventListener('pointerdown', () => { audio ??= new AudioContext(); }, { once: true });
addEventListener('keydown', () => { audio ??= new AudioContext(); }, { once: true });

const sounds = {
  chime: [[660, 0, 0.2], [880, 0.22, 0.2], [660, 0.44, 0.2]],
  tick: [[1400, 0, 0.04]],
};

const views = () => (document.documentElement.dataset.view ?? '').split(' ');

export function hear(name) {
  document.documentElement.dataset.heard = views().includes('quiet') ? '' : name;
  if (!audio || views().includes('quiet')) return;
  for (const [pitch, after, length] of sounds[name]) {
    const [tone, loud] = [audio.createOscillator(), audio.createGain()];
    const start = audio.currentTime + after;
    tone.frequency.value = pitch;
    loud.gain.setValueAtTime(0.0001, start);
    loud.gain.exponentialRampToValueAtTime(name === 'tick' ? 0.08 : 0.2, start + 0.01);
    loud.gain.exponentialRampToValueAtTime(0.0001, start + length);
    tone.connect(loud).connect(audio.destination);
    tone.start(start);
    tone.stop(start + length + 0.02);
  }
}

// What to do is spoken where the browser can, and only when it was asked for.
let spoken = null;

export function speak() {
  const words = [...document.querySelectorAll('.safety .state b, #h-next')].map((e) => e.textContent.trim()).join('. ');
  if (words === spoken) return;
  spoken = words;
  if (!views().includes('speak') || !('speechSynthesis' in window)) return;
  speechSynthesis.cancel();
  speechSynthesis.speak(new SpeechSynthesisUtterance(words));
}
