// How far an import is, until it is done.

const box = document.getElementById('progress');

async function look() {
  const answer = await fetch(box.dataset.address).catch(() => null);
  if (answer?.status === 200) box.innerHTML = await answer.text();
  if (box.querySelector('[data-state=refused]')) location.reload();
  else if (box.querySelector('[data-state=running]')) setTimeout(look, 300);
}

if (box?.dataset.running === 'true') setTimeout(look, 200);
