// What every part of the page shares: what is known, how to ask for more, how to say something.
export const SECOND = 705600000;

// hello, now, why, files, findings as they came last; tables by stretch; what the page itself has chosen.
export const known = { hello: null, now: null, why: null, files: null, findings: null, tables: new Map(), sheets: new Map() };
export const chosen = { actor: 0, clip: null, frame: null, state: null, tab: 'machine' };

const listeners = new Map();
export function on(what, call) {
  if (!listeners.has(what)) listeners.set(what, []);
  listeners.get(what).push(call);
}
export function tell(what, value) {
  for (const call of listeners.get(what) || []) call(value);
}

export const $ = id => document.getElementById(id);
// An element with a class, attributes and children; text goes in as text, never as HTML.
export function make(tag, attributes = {}, ...children) {
  const out = document.createElement(tag);
  for (const [key, value] of Object.entries(attributes)) {
    if (value === undefined || value === null || value === false) continue;
    if (key.startsWith('on')) out.addEventListener(key.slice(2), value);
    else if (key === 'class') out.className = value;
    else if (key in out && typeof value !== 'string') out[key] = value;
    else out.setAttribute(key, value === true ? '' : value);
  }
  for (const child of children.flat()) if (child !== null && child !== undefined && child !== false) out.append(child);
  return out;
}
// What is pressed is not taken away before it is let go, and what has the focus keeps it: a list that is filled anew ten
// times a second can be clicked and walked through.
let pressed = null;
const waiting = new Map();
addEventListener('pointerdown', event => { pressed = event.target; }, true);
for (const end of ['pointerup', 'pointercancel', 'change', 'keydown'])  // a list that drops down keeps its pointer's end to itself
  addEventListener(end, () => setTimeout(() => {
    pressed = null;
    const all = [...waiting];
    waiting.clear();
    for (const [element, children] of all) put(element, children);
  }), true);
const reached = element => [...element.querySelectorAll('button, input, select, textarea')];
function put(element, children) {
  const at = element.contains(document.activeElement) ? reached(element).indexOf(document.activeElement) : -1;
  element.replaceChildren(...children);
  if (at >= 0 && document.activeElement === document.body) (reached(element)[at] || element).focus({ preventScroll: true });
}
export function fill(element, ...children) {
  const all = children.flat().filter(child => child !== null && child !== undefined && child !== false);
  if (pressed && pressed !== element && element.contains(pressed)) waiting.set(element, all);
  else put(element, all);
}

export const seconds = (ticks, digits = 3) => (ticks / SECOND).toFixed(digits) + ' s';
function color(name) { return getComputedStyle(document.documentElement).getPropertyValue('--' + name).trim(); }
let palette = null;
export function colors() {
  if (!palette) {
    palette = {};
    for (const name of ['paper', 'ink', 'faint', 'line', 'cell', 'cell2', 'cue', 'span', 'window', 'pivot', 'state', 'pale', 'value', 'valuepale', 'wrong'])
      palette[name] = color(name);
  }
  return palette;
}
matchMedia('(prefers-color-scheme: dark)').addEventListener('change', () => { palette = null; tell('theme'); });
// Screen pixels to one of the art where so many would fit, `by` steps nearer or farther: whole ones, and parts of one for
// art that is larger than its room.
export function zoomFor(fits, by = 0, most = 12) {
  const whole = Math.min(most, Math.floor(fits)) + by;
  if (fits >= 1) return whole >= 1 ? whole : Math.max(1 / 64, 2 ** (whole - 1));
  const part = (fits >= 1 / 8 ? Math.floor(fits * 8) / 8 : 1 / Math.ceil(1 / fits)) * 2 ** by;
  return Math.max(1 / 64, part > 1 ? Math.floor(part) : part);
}
// As much of `words` as is no wider than `most` pixels in the font that `paint` has.
export function cutTo(paint, words, most) {
  if (paint.measureText(words).width <= most) return words;
  let cut = words;
  while (cut.length > 1 && paint.measureText(cut + '…').width > most) cut = cut.slice(0, -1);
  return cut.length > 1 || most > 12 ? cut + '…' : '';
}
export const dark = () => matchMedia('(prefers-color-scheme: dark)').matches;
export const colorOfRole = role => colors()[{ hit: 'wrong', hurt: 'span', body: 'state', grab: 'window' }[role] || 'value'];

let noticeTimer = 0;
export function notice(text, bad = false) {
  $('notice').textContent = text;
  $('notice').className = 'shown' + (bad ? ' bad' : '');
  clearTimeout(noticeTimer);
  noticeTimer = setTimeout(() => { $('notice').className = ''; }, bad ? 7000 : 3000);
}

async function answerOf(reply) {
  const type = reply.headers.get('Content-Type') || '';
  const body = type.startsWith('application/json') ? await reply.json() : await reply.text();
  if (reply.ok) return body;
  const error = new Error(body.text || reply.statusText);
  error.answer = body;
  error.status = reply.status;
  throw error;
}
export async function get(path) { return answerOf(await fetch(path)); }
// Does commands in order. What cannot be done is said, and null comes back; `quiet`: it is thrown instead.
export async function ask(commands, quiet = false) {
  try {
    return await answerOf(await fetch('do', { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(commands) }));
  } catch (error) {
    if (quiet) throw error;
    const near = error.answer && error.answer.nearest ? '\n' + error.answer.nearest : '';
    notice(error.message + near, true);
    return null;
  }
}
export async function send(path, body) { return answerOf(await fetch(path, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) })); }

// The tables of what is shown; null until they are there.
export function tables() { return known.now ? known.tables.get(known.now.v) || null : null; }
export function actorNow() { return known.now ? known.now.actors[chosen.actor] || null : null; }
export function machineOf(actor) { const t = tables(); return t && actor && t.machines[actor.m] || null; }
export function machine() { return machineOf(actorNow()); }

// Where a frame's picture is; null without one.
export function pictureOf(table, frame, look) {
  const art = frame && (frame.art[look === undefined || look === null ? 0 : look + 1] || frame.art[0]);
  if (!art) return null;
  const number = table.sheets[art[0]];
  let image = known.sheets.get(number);
  if (!image) {
    image = new Image();
    image.onload = () => tell('art');
    image.src = 'art/' + number;
    known.sheets.set(number, image);
  }
  return image.complete && image.naturalWidth ? { image, x: art[1], y: art[2], width: art[3], height: art[4] } : null;
}
// Where a frame's pivot lies on its picture (of a look, else the clip's own): that of the marks, else the middle of the
// lower edge.
export function pivotOf(clip, frame, picture = null) {
  const each = clip.frames[frame], art = each && each.art[0];
  const [width, height] = picture ? [picture.width, picture.height] : art ? [art[3], art[4]] : [EMPTY, EMPTY];
  return (each ? each.pivot : clip.pivot) || [width / 2, height];
}
export const EMPTY = 48;  // pixels of a frame without a picture, so that there is something to draw on
// How far the art of clips reaches around its pivot, in pixels, and at least.
export function reachOf(clips, least) {
  const out = { ...least };
  for (const clip of clips)
    clip.frames.forEach((frame, i) => {
      if (!frame.art[0]) return;
      const [x, y] = pivotOf(clip, i), [, , , width, height] = frame.art[0];
      out.left = Math.max(out.left, x); out.right = Math.max(out.right, width - x);
      out.up = Math.max(out.up, y); out.down = Math.max(out.down, height - y);
    });
  return out;
}

export function choose(actor) {
  if (chosen.actor === actor) return;
  chosen.actor = actor;
  chosen.clip = chosen.frame = chosen.state = null;
  ask([{ do: 'choose', actor }]);
  tell('actor');
}

// One change of a file by its meaning, made on the texts that this page knows.
// Of a character: whose marks are meant, where they are still the machine's.
const forAll = new Set();
async function whose(change) {
  const m = machine(), clip = m.clips.find(each => each.name === change.clip);
  if (!m.own || ['rate', 'play', 'hold', 'reach', 'zone'].includes(change.kind) || !clip || !clip.marks_at || m.own.includes(clip.marks_at[0]) || forAll.has(m.file + clip.name)) return true;
  const dialog = $('ask');
  fill(dialog, make('form', { method: 'dialog' },
    make('p', {}, `The marks of ${clip.name} are those of the machine: all its characters have them.`),
    make('p', {}, make('button', { value: 'all' }, 'Change them for all'), ' ', make('button', { value: 'here' }, `For ${m.name} alone, with these copied`), ' ', make('button', { value: '' }, 'Leave it'))));
  dialog.returnValue = '';
  dialog.showModal();
  await new Promise(done => { dialog.onclose = done; });
  if (dialog.returnValue === 'all') forAll.add(m.file + clip.name);
  if (dialog.returnValue !== 'here') return dialog.returnValue === 'all';
  const newest = known.now.newest;
  if (!await ask([{ do: 'edit', machine: actorNow().m, clip: clip.name, kind: 'copy_marks' }])) return false;
  while (known.now.newest === newest || !known.tables.has(known.now.newest)) await new Promise(done => setTimeout(done, 30));
  return true;
}

// What is being typed into a file takes edits on frames: the editor says what stands in it, waits, and takes it back.
export const typing = { hold: async () => {}, take() {}, free() {} };

export async function edit(change) {
  if (!await whose(change)) return false;
  await typing.hold();
  const hashes = {}, drafts = {};
  for (const file of known.files ? known.files.files : []) { hashes[file.name] = file.hash; if (file.draft) drafts[file.name] = file.draft; }
  try {
    const done = await ask([{ do: 'edit', machine: actorNow().m, hashes, drafts, ...change }], true);
    if (done.text !== undefined) typing.take(done);
    notice(done.text === undefined ? `${change.what || 'Changed'} — written to ${done.file}` : `${change.what || 'Changed'} — put into what is being typed in ${done.file}; it counts once that is saved (Files).`);
    return true;
  } catch (error) {
    const at = error.answer && error.answer.file ? ` (${error.answer.file}${error.answer.line ? ':' + error.answer.line : ''})` : '';
    notice(`Not written: ${error.message}${at}${error.answer && error.answer.nearest ? '\n' + error.answer.nearest : ''}`, true);
    return false;
  } finally { typing.free(); }
}
// Frames or times of a window or a box, as a file writes them.
export const stretchText = stretches => stretches.map(each => 'first' in each ? (each.first === each.last ? String(each.first) : each.first + '-' + each.last) : `${each.begin / SECOND}s-${each.end / SECOND}s`).join(', ');
