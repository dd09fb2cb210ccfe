// Asks for the search to be played out and puts the table with its figures in the place of the first one.

const ways = document.querySelector('#ways[data-ahead]');
if (ways?.dataset.ahead) {
  const answer = await fetch(ways.dataset.ahead).catch(() => null);
  if (answer?.ok) {
    const page = new DOMParser().parseFromString(await answer.text(), 'text/html');
    const played = page.querySelector('#ways');
    if (played) ways.replaceWith(played);
  }
}
