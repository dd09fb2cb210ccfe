// Runs beside the sound: hands on what the microphone gives, 16 bits a sample, a tenth of a second at a time.
class Microphone extends AudioWorkletProcessor {
  constructor() {
    super();
    this.block = new Int16Array(Math.round(sampleRate / 10));
    this.at = 0;
  }

  process([input]) {
    for (const sample of input[0] ?? []) {
      this.block[this.at++] = Math.max(-1, Math.min(1, sample)) * 32767;
      if (this.at === this.block.length) {
        this.port.postMessage(this.block.slice());
        this.at = 0;
      }
    }
    return true;
  }
}

registerProcessor('microphone', Microphone);
