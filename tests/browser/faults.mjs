// What lies badly on a page. Both run in the page, so each stands by itself.

/** Everything wrong with where text lies on the page, in words. */
export function faults() {
  const wrong = [];
  const lies = (el) => el.closest('.over-panel, .overs, .bar, dialog, .sheet-of-acts, .sheet-of-fields, .sheet-of-why');
  const isHidden = (el) => {
    if (el.closest('.sr, .skip, .fold, .small-sheet, title, defs')) return true; // a paper as a small picture is a picture
    if (!el.checkVisibility({ checkOpacity: true, checkVisibilityCSS: true })) return true;
    return false;
  };
  const texts = [];
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  for (let node = walker.nextNode(); node; node = walker.nextNode()) {
    const el = node.parentElement;
    if (!node.data.trim() || !el || el.closest('script, style, option') || isHidden(el)) continue;
    const range = document.createRange();
    range.selectNodeContents(node);
    const drawn = el.closest('svg') !== null;
    for (const rect of drawn ? [el.getBoundingClientRect()] : range.getClientRects()) {
      if (rect.width < 1 || rect.height < 1) continue;
      // Ink, not the line's box: letters fill a little more than half of it.
      const ink = { left: rect.left + 1, right: rect.right - 1, top: rect.top + rect.height * 0.27, bottom: rect.bottom - rect.height * 0.25 };
      texts.push({ el, ink, rect, words: node.data.trim().slice(0, 40), over: lies(el) });
    }
  }
  // What a scrolling frame does not show just now is not on the page; what can be scrolled to is not cut off.
  const shown = [];
  for (const text of texts) {
    let visible = { ...text.ink };
    for (let up = text.el; up; up = up.parentElement) {
      const style = getComputedStyle(up);
      const frame = up.getBoundingClientRect();
      const clips = (axis) => style[axis] !== 'visible' && up !== document.body && up !== document.documentElement;
      const isAway = visible.right - visible.left < 2 || visible.bottom - visible.top < 2;
      if (isAway) break;
      const outside = { x: visible.left < frame.left - 1 || visible.right > frame.right + 1, y: visible.top < frame.top - 1 || visible.bottom > frame.bottom + 1 };
      if (up.matches('svg')) {
        if ((outside.x || outside.y) && style.overflow === 'hidden') wrong.push(`cut by its drawing: "${text.words}"`);
        continue;
      }
      if (style.display === 'contents') continue;
      // The job's title ends in an ellipsis where the window is narrow; the bench has it in full as its heading.
      if (up.matches('.whose, .whose *')) {
        visible = { ...visible, right: Math.min(visible.right, frame.right) };
        continue;
      }
      for (const [axis, is, size, room] of [['overflowX', outside.x, 'scrollWidth', 'clientWidth'], ['overflowY', outside.y, 'scrollHeight', 'clientHeight']]) {
        if (!clips(axis) || !is) continue;
        if (style[axis] === 'hidden' || up[size] <= up[room]) wrong.push(`cut off in ${up.className || up.tagName}: "${text.words}"`);
        visible = { left: Math.max(visible.left, frame.left), right: Math.min(visible.right, frame.right), top: Math.max(visible.top, frame.top), bottom: Math.min(visible.bottom, frame.bottom) };
      }
    }
    if (visible.right - visible.left > 2 && visible.bottom - visible.top > 2) shown.push({ ...text, ink: visible });
  }
  for (const { ink, words, el } of shown) {
    if ((ink.right > innerWidth + 1 || ink.left < -1) && !el.closest('.crumb')) wrong.push(`outside the window: "${words}"`);
  }
  for (let i = 0; i < shown.length; i++) {
    for (let j = i + 1; j < shown.length; j++) {
      const [a, b] = [shown[i], shown[j]];
      if (a.el === b.el || a.over !== b.over) continue;
      const [x, y] = [Math.min(a.ink.right, b.ink.right) - Math.max(a.ink.left, b.ink.left), Math.min(a.ink.bottom, b.ink.bottom) - Math.max(a.ink.top, b.ink.top)];
      if (x > 2 && y > 2) wrong.push(`"${a.words}" over "${b.words}" by ${x.toFixed(0)}x${y.toFixed(0)}`);
    }
  }
  // What is to be pressed is there to be pressed.
  for (const key of document.querySelectorAll('.keys-row > .stage, .keys-row > .button, .next .acts > .button')) {
    if (isHidden(key)) continue;
    const r = key.getBoundingClientRect();
    const at = document.elementFromPoint(r.x + r.width / 2, r.y + r.height / 2);
    if (!key.contains(at) && !at?.closest('.compare')) wrong.push(`"${key.innerText.trim().slice(0, 30)}" is covered by ${at?.className?.baseVal ?? at?.className ?? 'nothing'}`);
  }
  const least = innerWidth >= 1900 ? 17.9 : 15.9;
  for (const el of new Set(texts.map((t) => t.el))) {
    const scale = el.closest('svg') ? el.getScreenCTM().a : 1;
    if (parseFloat(getComputedStyle(el).fontSize) * scale < least) wrong.push(`small: "${el.textContent.trim().slice(0, 30)}"`);
  }
  return [...new Set(wrong)];
}

/** Menus that open over the edge of the window, in words. */
export function menus() {
  const wrong = [];
  for (const menu of document.querySelectorAll('details.menu')) {
    if (!menu.checkVisibility()) continue;
    menu.open = true;
    for (const sheet of [...menu.children].filter((c) => !c.matches('summary'))) {
      const r = sheet.getBoundingClientRect();
      if (r.left < 0 || r.right > innerWidth || r.top < 0 || r.bottom > innerHeight) {
        wrong.push(`the menu "${menu.querySelector('summary').textContent.trim()}" leaves the window: ${[r.left, r.top, r.right, r.bottom].map(Math.round)}`);
      }
      const key = menu.querySelector('summary').getBoundingClientRect();
      const covers = innerWidth >= 992 && r.left < key.right - 4 && r.right > key.left + 4 && r.top < key.bottom - 4 && r.bottom > key.top + 4;
      if (covers) wrong.push(`the menu "${menu.querySelector('summary').textContent.trim()}" covers what opened it`);
    }
    menu.open = false;
  }
  return wrong;
}
