// Other benches on the same job are followed; a server that was away is met again.

import { isDirty } from './begun.js';
import { here, job, load, me, state } from './live.js';
import { showReaders } from './readers.js';
import { dropProblem } from './words.js';

if (job && 'EventSource' in window) {
  const live = new EventSource(`/jobs/${job}/live`);
  let first = true;
  live.addEventListener('changed', (event) => {
    if (event.data === 'here' || event.data === '"here"') {
      if (first) {
        first = false;
        return;
      }
      dropProblem();
    }
    if (state.sending || event.data.includes(me)) return;
    const pending = location.search.includes('do=') || location.search.includes('check=');
    const line = event.data.includes('line');
    load(here(), { push: false, keepRecord: isDirty() || (pending && line), quiet: !line }).catch(() => {});
  });
  live.addEventListener('codes', (event) => showReaders(JSON.parse(event.data)));
}
