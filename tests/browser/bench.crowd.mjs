// Twenty benches at once, each with a job and a technician of its own: what a step costs, and what the server holds after
// thousands of requests.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { root, startServer } from './workshop.mjs';

const token = (html) => /__RequestVerificationToken" type="hidden" value="([^"]+)"/.exec(html)[1];
const pause = (ms) => new Promise((done) => setTimeout(done, ms));
const mib = (pid) => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))[1]) / 1024;

/** One browser's worth of cookies, and a count of answers that were failures of the program. */
const visitor = (server, failed) => {
  let cookies = '';
  return async (path, options = {}) => {
    const answer = await fetch(server.url + path, { redirect: 'manual', ...options, headers: { cookie: cookies } });
    const set = answer.headers.getSetCookie().map((c) => c.split(';')[0]);
    if (set.length) cookies = [...new Map([...cookies.split('; '), ...set].filter(Boolean).map((c) => [c.split('=')[0], c])).values()].join('; ');
    if (answer.status >= 500) failed.push(`${path}: ${answer.status}`);
    return [answer, await answer.text()];
  };
};

/** Measures it. @param say one line of a table  @param p a share of sorted times  @param pace seconds between the lines of one bench */
export async function measureCrowd(say, p, { benches = 20, seconds = 180, pace = 20 } = {}) {
  const server = await startServer();
  const failed = [], steps = [], pages = [];
  try {
    const example = JSON.parse(readFileSync(join(root, 'src/Kelvet.Web/Demo/one-slot.json'), 'utf8'));
    const technicians = await Promise.all(Array.from({ length: benches }, async (_, n) => {
      const visit = visitor(server, failed);
      const [, page] = await visit('/jobs/import');
      const form = new FormData();
      form.set('__RequestVerificationToken', token(page));
      form.set('file', new Blob([JSON.stringify({ ...example, title: `Bench ${n}`, steps: [] })], { type: 'application/json' }), 'job.json');
      const [answer] = await visit('/jobs/import', { method: 'POST', body: form });
      return { visit, path: answer.headers.get('location') };
    }));
    const until = Date.now() + seconds * 1000;
    const timed = async (times, act) => {
      const clock = performance.now();
      const result = await act();
      times.push(performance.now() - clock);
      return result;
    };
    await Promise.all(technicians.map(async ({ visit, path }, n) => {
      // A technician who looks, does, and notes: a line every twenty seconds or so, which is faster than hands are.
      await pause(n * 1000 * pace / benches);
      for (let i = 0; Date.now() < until; i++) {
        const [, html] = await timed(pages, () => visit(path));
        await pause(1000 * pace * (0.3 + Math.random() * 0.4));
        const body = new FormData();
        body.set('__RequestVerificationToken', token(html));
        if (/handler=(On|Again)/.test(html) && !/name="seen"[^>]*value/.test(html)) {
          const handler = /handler=(On|Again)/.exec(html)[1];
          await timed(steps, () => visit(`${path}?handler=${handler}`, { method: 'POST', body }));
          const [, on] = await visit(path);
          body.set('stepId', crypto.randomUUID());
          body.set('lines', /name="lines" value="(\d+)"/.exec(on)?.[1] ?? '0');
          body.set('seen', i % 3 ? '4-5' : '6-8');
          await timed(steps, () => visit(path, { method: 'POST', body }));
        } else {
          body.set('stepId', crypto.randomUUID());
          body.set('lines', /name="lines" value="(\d+)"/.exec(html)?.[1] ?? '0');
          body.set('text', `Looked at it, ${i}`);
          await timed(steps, () => visit(`${path}?handler=Note`, { method: 'POST', body }));
        }
        await pause(1000 * pace * (0.3 + Math.random() * 0.4));
      }
    }));
    say(`${benches} benches: recording a step, p95 of ${steps.length}`, p(steps, 0.95), 'ms', 300);
    say(`${benches} benches: bench page, p95 of ${pages.length}`, p(pages, 0.95), 'ms', 300);
    say(`${benches} benches: failures of the program`, failed.length, '', 0);
    const visit = visitor(server, failed);
    const paths = ['/', '/jobs/1003', '/jobs/1010/log', '/jobs/1006/memory', '/jobs/1003/report', '/shelf', '/codes?q=55', '/customers', ...technicians.map((t) => t.path)];
    for (let n = steps.length * 2 + pages.length; n < 6000; n += 4) await Promise.all([0, 1, 2, 3].map((i) => visit(paths[(n + i) % paths.length])));
    say('memory held after 6,000 requests', mib(server.pid), 'MiB', 600);
    if (failed.length) console.log([...new Set(failed)].slice(0, 5).join('\n'));
  } finally {
    await server.stop();
  }
}
