// A clip's frames to put cues, windows and boxes on; of a clip without frames, its time. It follows what plays until one
// is chosen.
import { $, EMPTY, SECOND, actorNow, ask, chosen, colorOfRole, colors, edit, fill, known, machine, make, on, pictureOf, pivotOf, reachOf, stretchText, tables, zoomFor } from './base.js';

const pick = make('select', { 'aria-label': 'Clip' }), about = make('span', { class: 'faint' });
const fps = make('input', { type: 'number', min: '0.1', step: '0.5', 'aria-label': 'Frames a second' });
const play = make('input', { type: 'text', 'aria-label': 'Play mode', style: 'width:104px', title: 'once, loop, loop x3, back-and-forth' });
const hold = make('input', { type: 'number', min: '1', step: '1', 'aria-label': 'How many frame times this frame is held', style: 'width:46px' });
const follow = make('button', { title: 'Show what plays' }, 'Follow');
const ghost = make('input', { type: 'checkbox' });
const head = make('div', { class: 'head' }, pick, make('label', {}, 'rate ', fps), make('label', {}, 'plays ', play), make('label', {}, 'hold ', hold), make('label', {}, ghost, ' ghost'), follow, about);
const frames = make('div', { id: 'frames', role: 'listbox', 'aria-label': 'Frames' });
const canvas = make('canvas', { id: 'draw', tabindex: '0', 'aria-label': 'The frame: drag to draw or move a box' });
const marks = make('div', { id: 'marks' });
$('clip').append(head, frames, make('div', { id: 'cliprow' }, canvas, marks));
const paint = canvas.getContext('2d');

let box = null;        // the box that is chosen, by index
let role = 'hit', shapeKind = 'rect', adding = false;
let drag = null, pendingShape = null;
let copied = null;     // a box that is put on other frames and clips
let moment = null;     // that is chosen in a clip without frames; null: what plays
let listKey = '', stripKey = '', marksKey = '';

const clipNow = () => {
  const m = machine(), actor = actorNow();
  if (!m || !actor || actor.gone) return null;
  if (chosen.clip !== null && m.clips[chosen.clip]) return chosen.clip;
  for (const region of actor.regions) if (region.shows[0] && region.shows[0][0] !== null) return region.shows[0][0];
  return m.clips.length ? 0 : null;
};
const playing = clip => { for (const region of actorNow().regions) for (const each of region.shows) if (each[0] === clip) return each; return null; };
const frameNow = clip => {
  if (chosen.frame !== null) return Math.max(0, Math.min(chosen.frame, machine().clips[clip].frames.length - 1));
  const shows = playing(clip);
  return shows && shows[1] >= 0 ? shows[1] : 0;
};
// Of a clip without frames the time in it stands for a frame: in whole milliseconds, as ticks.
const MS = SECOND / 1000, STRETCH = 100;  // ms: how long a new window or box of it is
const timed = def => !def.frames.length;
const momentNow = clip => {
  const def = machine().clips[clip], shows = playing(clip);
  const at = moment !== null ? moment : shows ? shows[2] * SECOND : 0;
  return Math.min(Math.round(at / MS), Math.floor(def.ticks / MS)) * MS;
};
// When each frame begins: counted once a clip.
const begins = new WeakMap();
const beginOf = (def, frame) => {
  if (!begins.has(def)) { let sum = 0; begins.set(def, def.frames.map(each => (sum += each.ticks) - each.ticks)); }
  return begins.get(def)[frame];
};
// From when on a frame shows, and until when; of a clip without frames, the moment.
const spanOf = (def, frame) => {
  const at = timed(def) ? momentNow(machine().clips.indexOf(def)) : beginOf(def, frame);
  return [at, at + (timed(def) ? 1 : def.frames[frame].ticks)];
};
// What is put on a frame, or at a time; and over it, or for a while from then on; and how that is called.
const placeOn = (clip, frame) => timed(machine().clips[clip]) ? momentNow(clip) / SECOND + 's' : String(frame);
const stretchOn = (clip, frame) => {
  const def = machine().clips[clip], end = Math.min(momentNow(clip) + STRETCH * MS, def.ticks);
  return timed(def) ? `${Math.max(0, Math.min(momentNow(clip), end - MS)) / SECOND}s-${end / SECOND}s` : String(frame);
};
const wordsFor = (clip, frame) => timed(machine().clips[clip]) ? `at ${placeOn(clip, frame)}` : `on frame ${frame}`;
const holds = (def, stretches, frame) => {
  const [from, until] = spanOf(def, frame);
  return !stretches.length || stretches.some(each => 'first' in each ? frame >= each.first && frame <= each.last : from < each.end && until > each.begin);
};
const isSpan = cue => cue.at === 'frames' || cue.at === 'times';
const stretchOf = cue => cue.at === 'frames' ? { first: cue.frame, last: cue.last } : { begin: cue.ticks, end: cue.until };
// The spans of a clip: each with all its stretches.
function spansOf(def) {
  const all = new Map();
  for (const cue of def.cues.filter(isSpan)) all.set(cue.cue, { ...cue, name: cue.cue, stretches: [...(all.has(cue.cue) ? all.get(cue.cue).stretches : []), stretchOf(cue)] });
  return [...all.values()];
}
const listText = words => words.includes(',') ? `[${words}]` : words;
// Of frame numbers: `1-3, 5`.
function framesText(numbers) {
  const out = [];
  for (const number of [...numbers].sort((a, b) => a - b)) {
    const last = out[out.length - 1];
    if (last && last[1] === number - 1) last[1] = number; else out.push([number, number]);
  }
  return out.map(([a, b]) => a === b ? String(a) : a + '-' + b).join(', ');
}
// Where something is already, and on what is shown too.
const besides = (def, each, here, frame) => {
  if (!('begin' in each.stretches[0])) return framesText([...framesOf(def, each), frame]);
  const [from, until] = spanOf(def, frame);
  return `${stretchText(each.stretches)}, ${timed(def) ? here : `${from / SECOND}s-${until / SECOND}s`}`;
};
const framesOf = (def, each) => [...def.frames.keys()].filter(frame => holds(def, each.stretches, frame));

function follows() { chosen.clip = chosen.frame = moment = box = null; refresh(true); }
follow.onclick = follows;
function take(clip, frame, at = 0) {
  if (chosen.clip !== clip) box = null;
  moment = timed(machine().clips[clip]) ? Math.min(at, machine().clips[clip].ticks) : null;
  chosen.clip = clip; chosen.frame = frame;
  if (known.now.playing) ask([{ do: 'play', on: false }]);
  refresh(true);
}
pick.onchange = () => take(Number(pick.value), 0);
const of = () => machine().clips[clipNow()];
fps.onchange = () => edit({ clip: of().name, kind: 'rate', to: fps.value, what: `${of().name} at ${fps.value} frames a second` });
play.onchange = () => edit({ clip: of().name, kind: 'play', to: play.value.trim(), what: `${of().name} plays ${play.value.trim()}` });
hold.onchange = () => edit({ clip: of().name, kind: 'hold', index: frameNow(clipNow()), to: hold.value, what: `frame ${frameNow(clipNow())} of ${of().name} is held ${hold.value}` });
ghost.onchange = () => draw();

// --- the strip --------------------------------------------------------------------------------------------------------

function strip(m, clip) {
  const def = m.clips[clip];
  if (timed(def)) {
    const slide = make('input', { type: 'range', id: 'moment', min: '0', max: String(Math.floor(def.ticks / MS)), 'aria-label': 'Time in the clip, in milliseconds', oninput: () => take(clip, 0, Number(slide.value) * MS) });
    return fill(frames, slide);
  }
  fill(frames, def.frames.map((frame, i) => {
    const starts = beginOf(def, i);
    const small = make('canvas', { width: 56, height: 44 });
    const picture = pictureOf(tables(), frame, actorNow().look);
    if (picture) {
      const size = Math.min(56 / picture.width, 44 / picture.height, 2);
      const p = small.getContext('2d');
      p.imageSmoothingEnabled = false;
      p.drawImage(picture.image, picture.x, picture.y, picture.width, picture.height, (56 - picture.width * size) / 2, 44 - picture.height * size, picture.width * size, picture.height * size);
    }
    const cues = def.cues.filter(cue => isSpan(cue) ? holds(def, [stretchOf(cue)], i) : cue.at === 'time' ? cue.ticks >= starts && cue.ticks < starts + frame.ticks : cue.frame === i);
    const out = make('div', { class: 'frame', role: 'option', tabindex: '-1', 'data-frame': String(i), title: `frame ${i}, picture ${frame.picture}, from ${(starts / SECOND).toFixed(3)} s for ${(frame.ticks / SECOND * 1000).toFixed(1)} ms`, onclick: () => take(clip, i) },
      make('span', { class: 'num' }, String(i)), make('span', { class: 'faint' }, ` ${(starts / SECOND).toFixed(2)}s`), small,
      make('div', { class: 'cues' }, cues.flatMap(cue => [make('span', { class: isSpan(cue) ? 'lasts' : '' }, cue.cue + (cue.at === 'end' ? ' (end)' : '')), ' ']), cues.length ? null : ' '));
    return out;
  }));
}
frames.addEventListener('keydown', event => {
  const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
  if (!by || event.target.id === 'moment') return;
  event.preventDefault();
  const clip = clipNow(), count = machine().clips[clip].frames.length;
  take(clip, (frameNow(clip) + by + count) % count);
  const at = frames.querySelector('[aria-selected=true]');
  if (at) at.focus();
});

// --- marks ------------------------------------------------------------------------------------------------------------

function markList(m, clip, frame) {
  const def = m.clips[clip], count = def.frames.length;
  const here = cue => cue.at === 'time' || cue.frame === frame;
  const placeOf = cue => cue.at === 'time' ? cue.ticks / SECOND + 's' : cue.at === 'end' ? cue.frame + '.end' : String(cue.frame);
  // What this clip has already, then what others have, then the rest.
  const names = (label, id, fits) => {
    const has = name => each => each.cues.some(cue => cue.cue === name && fits(cue));
    const used = name => has(name)(def) ? 0 : m.clips.some(has(name)) ? 1 : 2;
    return make('select', { 'aria-label': label, id }, m.cues.map(cue => cue.name).sort((a, b) => used(a) - used(b)).map(name => make('option', {}, name)));
  };
  const pickCue = names('Cue to put here', 'cuename', cue => !isSpan(cue)), pickSpan = names('Cue that lasts, to put here', 'spanname', isSpan);
  const add = make('button', { id: 'addcue', onclick: () => edit({ clip: def.name, kind: 'add_cue', place: placeOn(clip, frame), name: pickCue.value, what: `${pickCue.value} ${wordsFor(clip, frame)} of ${def.name}` }) }, '+');
  const fieldsOf = (cue, place) => {
    const declared = m.cues.find(each => each.name === cue.cue);
    return Object.keys(declared ? declared.fields : {}).map(name => {
      const value = name in cue.fields ? cue.fields[name] : declared.fields[name];
      if (typeof value === 'object') return make('span', { class: 'faint' }, name + ' ' + JSON.stringify(value));
      const field = typeof value === 'boolean' ? make('input', { type: 'checkbox', checked: value }) : make('input', { type: typeof value === 'number' ? 'number' : 'text', step: 'any', value: String(value), style: 'width:64px' });
      field.setAttribute('aria-label', `${cue.cue} ${name}`);
      field.onchange = () => {
        const all = { ...cue.fields, [name]: typeof value === 'boolean' ? field.checked : typeof value === 'number' ? Number(field.value) : field.value };
        if (declared && all[name] === declared.fields[name]) delete all[name];
        const words = Object.entries(all).map(([key, each]) => `${key}: ${typeof each === 'string' ? JSON.stringify(each) : each}`).join(', ');
        edit({ clip: def.name, kind: 'set_fields', place, name: cue.cue, to: `{${words}}`, what: `${name} of ${cue.cue} on ${def.name}` });
      };
      return make('label', { class: name in cue.fields ? '' : 'faint' }, name + ' ', field);
    });
  };
  const cueLine = cue => {
    const place = placeOf(cue);
    const move = to => edit({ clip: def.name, kind: 'move_cue', place, name: cue.cue, to, what: `${cue.cue} of ${def.name} ${to.endsWith('s') ? 'at ' + to : 'to frame ' + to}` });
    const byOne = (by, glyph, words) => make('button', { 'aria-label': `${cue.cue} a frame ${words}`, disabled: cue.frame + by < 0 || cue.frame + by >= count, onclick: () => move((cue.frame + by) + (cue.at === 'end' ? '.end' : '')) }, glyph);
    const time = cue.at === 'time' && make('input', { type: 'number', min: '0', max: String(def.ticks / SECOND), step: 'any', value: String(cue.ticks / SECOND), 'aria-label': `Seconds of ${cue.cue}`, style: 'width:64px',
      onchange: () => move(time.value + 's') });
    return make('div', { class: 'mark' }, make('span', { class: 'swatch', style: `background:${colors().cue}` }),
      make('b', {}, cue.cue), time ? make('label', { class: 'faint' }, time, ' s') : [make('span', { class: 'faint' }, place), byOne(-1, '◂', 'earlier'), byOne(1, '▸', 'later')],
      make('button', { 'aria-label': 'Remove ' + cue.cue, onclick: () => edit({ clip: def.name, kind: 'remove_cue', place, name: cue.cue, what: `no ${cue.cue} on ${place} of ${def.name}` }) }, '✕'), fieldsOf(cue, place));
  };
  // A line for what lasts: its frames or times are typed.
  const lastingLine = (kind, name, stretches, more) => {
    const times = 'begin' in stretches[0];
    const words = make('input', { type: 'text', value: stretchText(stretches), 'aria-label': `${times ? 'Times' : 'Frames'} of the ${kind} ${name}`, style: `width:${times ? 130 : 70}px`,
      onchange: () => set(kind, name, words.value.trim()) });
    return make('div', { class: 'mark' }, make('span', { class: 'swatch', style: `background:${colors()[kind]}` }), make('b', { class: holds(def, stretches, frame) ? '' : 'faint' }, name), words,
      make('button', { 'aria-label': `Remove the ${kind} ${name}`, onclick: () => edit({ clip: def.name, kind: 'remove_' + kind, name, what: `no ${kind} ${name} of ${def.name}` }) }, '✕'), more);
  };
  const set = (kind, name, words) => edit({ clip: def.name, kind: 'set_' + kind, name, to: listText(words), what: `${kind} ${name} of ${def.name} over ${words}` });
  // Put on what is shown, beside where it is already; once.
  const addLasting = (kind, field, all) => make('button', { id: 'add' + kind, 'aria-label': `Put that ${kind} here`, onclick: () => {
    const there = all.find(each => each.name === field.value);
    if (field.value && !(there && holds(def, there.stretches, frame))) set(kind, field.value, there ? besides(def, there, stretchOn(clip, frame), frame) : stretchOn(clip, frame));
  } }, '+');
  const spans = spansOf(def);
  const boxLine = (each, i) => {
    const words = make('input', { type: 'text', value: stretchText(each.stretches), placeholder: 'all', 'aria-label': 'Frames of the box ' + each.name, style: `width:${timed(def) ? 100 : 62}px` });
    words.onchange = () => edit({ clip: def.name, kind: 'set_box', index: i, name: 'frames', to: listText(words.value.trim()), what: `box ${each.name} on frames ${words.value || 'all'}` });
    const on = framesOf(def, each);
    const toggle = !timed(def) && make('button', { title: on.includes(frame) ? 'Not on this frame' : 'On this frame too', onclick: () => {
      const next = on.includes(frame) ? on.filter(one => one !== frame) : [...on, frame];
      edit(next.length ? { clip: def.name, kind: 'set_box', index: i, name: 'frames', to: listText(framesText(next)), what: `box ${each.name} on frames ${framesText(next)}` }
        : { clip: def.name, kind: 'drop_box', index: i, what: `no box ${each.name}` });
    } }, on.includes(frame) ? 'off here' : 'on here');
    return make('div', { class: 'mark' + (box === i ? ' chosen' : ''), onclick: event => { if (!event.target.closest('button, input')) { box = i; refresh(true); } } },
      make('span', { class: 'swatch', style: `background:${colorOfRole(each.role)}` }), make('b', { class: holds(def, each.stretches, frame) ? '' : 'faint' }, each.name), make('span', { class: 'faint' }, each.role), words, toggle,
      box === i && make('button', { 'aria-label': 'Copy the box ' + each.name, title: 'Copy it: then put it on another frame or clip', onclick: () => { copied = { ...each, from: def.name }; refresh(true); } }, 'copy'),
      make('button', { 'aria-label': 'Remove the box ' + each.name, onclick: () => { box = null; edit({ clip: def.name, kind: 'drop_box', index: i, what: `no box ${each.name}` }); } }, '✕'));
  };
  const roles = make('select', { 'aria-label': 'Role of a new box', id: 'boxrole', onchange: event => { role = event.target.value; } }, ['hit', 'hurt', 'body', 'grab'].map(each => make('option', { selected: each === role }, each)));
  const kinds = make('select', { 'aria-label': 'Shape of a new box', onchange: event => { shapeKind = event.target.value; } }, ['rect', 'circle'].map(each => make('option', { selected: each === shapeKind }, each)));
  const startBox = make('button', { id: 'addbox', 'aria-pressed': String(adding), onclick: () => { adding = !adding; box = null; refresh(true); } }, adding ? 'now drag' : '+');
  const paste = copied && make('button', { title: `${copied.name} of ${copied.from}, ${wordsFor(clip, frame)} here`, onclick: () => {
    const [key, words] = shapeText(copied.shape);
    const more = [copied.hits.length ? `hits: [${copied.hits.join(', ')}]` : '', copied.spares.length ? `spares: [${copied.spares.join(', ')}]` : '', copied.every ? `every: ${copied.every / SECOND}s` : ''].filter(Boolean).map(each => ', ' + each).join('');
    edit({ clip: def.name, kind: 'add_box', to: `{name: ${copied.name}, role: ${copied.role}, frames: ${stretchOn(clip, frame)}, ${key}: ${words}${more}}`, what: `box ${copied.name} ${wordsFor(clip, frame)} of ${def.name}` });
  } }, `put ${copied.name} here`);
  const windowName = make('input', { type: 'text', placeholder: 'name', 'aria-label': 'Name of a new window', style: 'width:62px' });
  const points = def.cues.filter(cue => !isSpan(cue)), on = points.filter(here), elsewhere = points.filter(cue => !here(cue));
  fill(marks,
    make('h4', {}, timed(def) ? known.now.playing ? 'At the time shown' : `At ${(momentNow(clip) / SECOND).toFixed(3)} s` : `Frame ${frame}`), make('div', { class: 'mark' }, pickCue, add, make('span', { class: 'faint' }, m.cues.length ? '' : 'declare cues in the file first')),
    on.map(cueLine), elsewhere.length ? make('h4', {}, timed(def) ? 'At other times' : 'On other frames') : null, elsewhere.map(cueLine),
    make('h4', {}, 'Boxes', roles, kinds, startBox, paste), def.boxes.map(boxLine),
    make('h4', {}, 'Spans', pickSpan, addLasting('span', pickSpan, spans)), spans.map(span => lastingLine('span', span.name, span.stretches, fieldsOf(span, ''))),
    make('h4', {}, 'Windows', windowName, addLasting('window', windowName, def.windows)), def.windows.map(each => lastingLine('window', each.name, each.stretches)),
    make('h4', {}, 'Pivot', make('span', { class: 'faint' }, def.pivot ? def.pivot.join(', ') : 'none'), make('span', { class: 'faint' }, '— shift-drag moves it')));
}

// --- the picture, and drawing on it -------------------------------------------------------------------------------------

let zoom = 6, origin = { x: 0, y: 0 };  // where the image's top left lies
const artOf = (def, frame) => def.frames[frame] ? pictureOf(tables(), def.frames[frame], actorNow().look) : null;
// All frames of a clip stand with their pivots at one place and in one size, however large each is.
function layout(def, frame, picture) {
  const w = canvas.clientWidth, h = canvas.clientHeight, pivot = pivotOf(def, frame, picture);
  const empty = { left: pivot[0], right: EMPTY - pivot[0], up: pivot[1], down: EMPTY - pivot[1] };
  const all = def.frames.some(each => each.art[0]) ? reachOf([def], { left: 0, right: 0, up: 0, down: 0 }) : empty;
  const width = all.left + all.right, height = all.up + all.down;
  zoom = zoomFor(Math.min((w - 20) / width, (h - 20) / height), 0, 16);
  origin = { x: Math.floor((w - width * zoom) / 2 + (all.left - pivot[0]) * zoom), y: Math.floor((h - height * zoom) / 2 + (all.up - pivot[1]) * zoom) };
  return pivot;
}
// A shape relative to the pivot, as pixels of the canvas.
function onCanvas(shape, pivot) {
  const x = value => origin.x + (pivot[0] + value) * zoom, y = value => origin.y + (pivot[1] - value) * zoom;
  if (shape.rect) { const [l, b, w, h] = shape.rect; return { x: x(l), y: y(b + h), w: w * zoom, h: h * zoom }; }
  const [cx, cy, r] = shape.circle;
  return { cx: x(cx), cy: y(cy), r: r * zoom };
}

function draw() {
  const m = machine(), clip = clipNow();
  if (chosen.tab !== 'clip' || !m || clip === null) return;
  const ratio = devicePixelRatio || 1, w = canvas.clientWidth, h = canvas.clientHeight;
  if (canvas.width !== Math.round(w * ratio) || canvas.height !== Math.round(h * ratio)) { canvas.width = Math.round(w * ratio); canvas.height = Math.round(h * ratio); }
  paint.setTransform(ratio, 0, 0, ratio, 0, 0);
  const c = colors(), def = m.clips[clip], frame = frameNow(clip);
  paint.fillStyle = c.cell;
  paint.fillRect(0, 0, w, h);
  const art = artOf(def, frame);
  const pivot = layout(def, frame, art);
  paint.imageSmoothingEnabled = zoom < 1;
  const before = def.frames[frame - 1];
  if (ghost.checked && before) {
    const old = pictureOf(tables(), before, actorNow().look);
    if (old) { const p = pivotOf(def, frame - 1, old); paint.globalAlpha = 0.3; paint.drawImage(old.image, old.x, old.y, old.width, old.height, origin.x + (pivot[0] - p[0]) * zoom, origin.y + (pivot[1] - p[1]) * zoom, old.width * zoom, old.height * zoom); paint.globalAlpha = 1; }
  }
  if (art) {
    paint.fillStyle = c.paper;
    paint.fillRect(origin.x, origin.y, art.width * zoom, art.height * zoom);
    paint.drawImage(art.image, art.x, art.y, art.width, art.height, origin.x, origin.y, art.width * zoom, art.height * zoom);
  }
  def.boxes.forEach((each, i) => {
    if (!holds(def, each.stretches, frame)) return;
    shape(drag && drag.box === i && pendingShape ? pendingShape : each.shape, pivot, colorOfRole(each.role), box === i, each.name);
  });
  if (drag && drag.fresh && pendingShape) shape(pendingShape, pivot, colorOfRole(role), true, role);
  const p = drag && drag.pivot ? drag.at : pivot;
  paint.strokeStyle = c.pivot; paint.lineWidth = 2; paint.beginPath();
  paint.moveTo(origin.x + p[0] * zoom - 9, origin.y + p[1] * zoom); paint.lineTo(origin.x + p[0] * zoom + 9, origin.y + p[1] * zoom);
  paint.moveTo(origin.x + p[0] * zoom, origin.y + p[1] * zoom - 9); paint.lineTo(origin.x + p[0] * zoom, origin.y + p[1] * zoom + 9); paint.stroke();
}
function shape(of, pivot, c, strong, name) {
  const at = onCanvas(of, pivot);
  paint.strokeStyle = paint.fillStyle = c; paint.lineWidth = strong ? 2.5 : 1.5;
  paint.beginPath();
  if (of.rect) paint.rect(at.x, at.y, at.w, at.h); else paint.arc(at.cx, at.cy, at.r, 0, 2 * Math.PI);
  paint.globalAlpha = 0.14; paint.fill(); paint.globalAlpha = 1; paint.stroke();
  if (strong && of.rect) for (const [x, y] of [[at.x, at.y], [at.x + at.w, at.y], [at.x, at.y + at.h], [at.x + at.w, at.y + at.h]]) paint.fillRect(x - 4, y - 4, 8, 8);
  if (strong && of.circle) paint.fillRect(at.cx + at.r - 4, at.cy - 4, 8, 8);
  const words = of.rect ? `${name} [${of.rect.join(', ')}]` : `${name} [${of.circle.join(', ')}]`;
  paint.font = '11px "DejaVu Sans"';
  const x = of.rect ? at.x : at.cx - at.r, y = (of.rect ? at.y : at.cy - at.r) - 4;
  paint.fillStyle = colors().paper; paint.globalAlpha = 0.8; paint.fillRect(x - 1, y - 10, paint.measureText(strong ? words : name).width + 4, 13); paint.globalAlpha = 1;
  paint.fillStyle = c;
  paint.fillText(strong ? words : name, x + 1, y);
}

// Image pixel = floor((mouse - origin) / zoom); relative to the pivot: x forward, y up.
const pixel = event => { const r = canvas.getBoundingClientRect(); return [Math.floor((event.clientX - r.left - origin.x) / zoom), Math.floor((event.clientY - r.top - origin.y) / zoom)]; };
// The frame is drawn as it is in the file, so it faces right.
function local(at, pivot) { return [Math.round(at[0] - pivot[0]), Math.round(pivot[1] - at[1])]; }
function spanned(a, b) {  // whole pixels, both corners' included
  const left = Math.min(a[0], b[0]), right = Math.max(a[0], b[0]) + 1, top = Math.max(a[1], b[1]), bottom = Math.min(a[1], b[1]) - 1;
  if (shapeKind === 'circle') return { circle: [a[0], a[1], Math.max(1, Math.round(Math.hypot(b[0] - a[0], b[1] - a[1])))] };
  return { rect: [left, bottom, right - left, top - bottom] };
}

canvas.addEventListener('pointerdown', event => {
  const m = machine(), clip = clipNow();
  if (!m || clip === null) return;
  const def = m.clips[clip], frame = frameNow(clip), pivot = pivotOf(def, frame, artOf(def, frame));
  if (chosen.frame === null) take(clip, frame, momentNow(clip));
  canvas.setPointerCapture(event.pointerId);
  const r = canvas.getBoundingClientRect(), px = event.clientX - r.left, py = event.clientY - r.top;
  const start = local(pixel(event), pivot);
  if (event.shiftKey) { drag = { pivot: true, at: pixel(event), old: pivot, trim: timed(def) ? [0, 0] : def.frames[frame].trim, def }; draw(); return; }
  if (adding) { drag = { fresh: true, start, pivot0: pivot, def, clip, frame }; pendingShape = spanned(start, start); draw(); return; }
  // The chosen box first, by its handles; then whatever lies under the mouse.
  const order = [...def.boxes.keys()].sort((a, b) => (b === box) - (a === box) || b - a);
  for (const i of order) {
    const each = def.boxes[i];
    if (!holds(def, each.stretches, frame)) continue;
    const at = onCanvas(each.shape, pivot);
    let grip = null;
    if (each.shape.rect) {
      const near = (x, y) => Math.hypot(px - x, py - y) < 9;
      if (i === box) grip = near(at.x, at.y) ? 'lt' : near(at.x + at.w, at.y) ? 'rt' : near(at.x, at.y + at.h) ? 'lb' : near(at.x + at.w, at.y + at.h) ? 'rb' : null;
      if (!grip && px >= at.x && px <= at.x + at.w && py >= at.y && py <= at.y + at.h) grip = 'all';
    } else {
      if (i === box && Math.hypot(px - at.cx - at.r, py - at.cy) < 9) grip = 'radius';
      else if (Math.hypot(px - at.cx, py - at.cy) <= at.r) grip = 'all';
    }
    if (!grip) continue;
    box = i;
    drag = { box: i, grip, start, shape: each.shape, def, frame, alone: event.altKey, pivot0: pivot };
    pendingShape = null;
    refresh(true);
    return;
  }
  box = null;
  refresh(true);
});
canvas.addEventListener('pointermove', event => {
  if (!drag) return;
  if (drag.pivot) { drag.at = pixel(event); draw(); return; }
  const at = local(pixel(event), drag.pivot0);
  if (drag.fresh) { pendingShape = spanned(drag.start, at); draw(); return; }
  const dx = at[0] - drag.start[0], dy = at[1] - drag.start[1];
  if (drag.shape.rect) {
    let [l, b, w, h] = drag.shape.rect;
    if (drag.grip === 'all') { l += dx; b += dy; }
    if (drag.grip.includes('l') && drag.grip !== 'all') { const x = Math.min(dx, w - 1); l += x; w -= x; }
    if (drag.grip.includes('r')) w = Math.max(1, w + dx);
    if (drag.grip.includes('t')) h = Math.max(1, h + dy);
    if (drag.grip.includes('b')) { const y = Math.min(dy, h - 1); b += y; h -= y; }
    pendingShape = { rect: [l, b, w, h] };
  } else {
    const [cx, cy, radius] = drag.shape.circle;
    pendingShape = { circle: drag.grip === 'radius' ? [cx, cy, Math.max(1, radius + dx)] : [cx + dx, cy + dy, radius] };
  }
  draw();
});
const shapeText = of => of.rect ? ['rect', `[${of.rect.join(', ')}]`] : ['circle', `[${of.circle.join(', ')}]`];
canvas.addEventListener('pointerup', async event => {
  const was = drag, made = pendingShape;
  if (!was) return;
  if (was.pivot) {
    drag = null;
    const def = was.def;
    // The clip's pivot moves by as much as the frame's was dragged.
    const base = def.pivot || [0, 0], frame = was.old;
    const to = def.pivot ? [base[0] + was.at[0] - frame[0], base[1] + was.at[1] - frame[1]] : was.at.map((at, i) => at + was.trim[i]);
    await edit({ clip: def.name, kind: 'set_pivot', to: `[${to.join(', ')}]`, what: `pivot of ${def.name} at ${to.join(', ')}` });
    return draw();
  }
  if (was.fresh) {
    const [key, words] = shapeText(made);
    const names = was.def.boxes.filter(each => each.role === role).map(each => each.name);
    const name = names[0] || (role === 'hit' ? 'strike' : role);
    adding = false;
    const count = was.def.boxes.length;
    const done = await edit({ clip: was.def.name, kind: 'add_box', to: `{name: ${name}, role: ${role}, frames: ${stretchOn(was.clip, was.frame)}, ${key}: ${words}}`, what: `box ${name} ${wordsFor(was.clip, was.frame)} of ${was.def.name}` });
    if (done) box = count;
  } else if (made) {
    const [key, words] = shapeText(made);
    const each = was.def.boxes[was.box], on = framesOf(was.def, each);
    if (event.altKey && on.length > 1)
      await edit({ clip: was.def.name, kind: 'split_box', index: was.box, place: String(was.frame), name: listText(framesText(on.filter(one => one !== was.frame))), to: words, what: `box ${each.name} on frame ${was.frame} alone` });
    else await edit({ clip: was.def.name, kind: 'set_box', index: was.box, name: key, to: words, what: `box ${each.name} of ${was.def.name}` });
  }
  drag = pendingShape = null;
  refresh(true);
});

// --- all of it --------------------------------------------------------------------------------------------------------

function refresh(force = false) {
  const m = machine(), clip = clipNow();
  if (chosen.tab !== 'clip' || !m || clip === null || (drag && !force)) return;
  const def = m.clips[clip], frame = frameNow(clip);
  const list = m.fingerprint + m.clips.length;
  if (list !== listKey) { listKey = list; fill(pick, m.clips.map((each, i) => make('option', { value: String(i) }, each.name))); }
  pick.value = String(clip);
  const base = known.now.v + ' ' + chosen.actor + ' ' + clip + ' ' + [...known.sheets.values()].filter(image => image.complete).length + (actorNow().look ?? '');
  if (base !== stripKey) { stripKey = base; strip(m, clip); }
  const shows = playing(clip);
  for (const each of frames.children) {
    const i = Number(each.dataset.frame);
    each.setAttribute('aria-selected', String(i === frame && chosen.frame !== null));
    each.tabIndex = i === frame ? 0 : -1;
    each.classList.toggle('now', shows !== null && shows[1] === i);
  }
  const slide = $('moment'), at = timed(def) ? momentNow(clip) : 0;
  if (slide) slide.value = String(at / MS);
  const key = [known.now.v, chosen.actor, clip, frame, box, adding, role, known.now.playing ? 'plays' : at].join(' ');
  if ((key !== marksKey || force) && !(marks.contains(document.activeElement) && document.activeElement.matches('input[type=text], input[type=number]') && key === marksKey)) { marksKey = key; markList(m, clip, frame); }
  if (document.activeElement !== fps) { fps.value = def.fps === null ? '' : String(Math.round(def.fps * 1000) / 1000); fps.disabled = def.fps === null; }
  if (document.activeElement !== play) play.value = def.play;
  if (document.activeElement !== hold) { hold.value = def.frames[frame] ? String(def.frames[frame].hold) : '1'; hold.disabled = def.fps === null; }
  follow.setAttribute('aria-pressed', String(chosen.frame === null && chosen.clip === null));
  about.textContent = `${timed(def) ? 'no' : def.frames.length} frames, ${(def.ticks / SECOND).toFixed(3)} s`;
  draw();
}
for (const what of ['now', 'art', 'tables', 'tab', 'actor', 'theme']) on(what, () => refresh(what === 'tables' || what === 'tab'));
addEventListener('resize', () => draw());
