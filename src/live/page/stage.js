// The stage: who is there, what they show, their boxes; cues flash where they happen.
import { $, SECOND, actorNow, ask, choose, chosen, colorOfRole, colors, cutTo, edit, fill, known, machine, machineOf, make, on, pictureOf, pivotOf, reachOf, tables, zoomFor } from './base.js';
import { past } from './past.js';
import { cornersOf, dragged, shapeAt } from './shapes.js';

const canvas = $('stage'), paint = canvas.getContext('2d');
const WIDTH = 560, HEIGHT = 420;
let zoomBy = 0, extent = null, drawn = [];

function scale() {
  const ratio = Math.max(1, Math.round(devicePixelRatio));
  if (canvas.width !== WIDTH * ratio) { canvas.width = WIDTH * ratio; canvas.height = HEIGHT * ratio; }
  paint.setTransform(ratio, 0, 0, ratio, 0, 0);
}

const reached = new Map();
function reachOfMachine(machine) {
  if (!reached.has(machine.fingerprint)) reached.set(machine.fingerprint, reachOf(machine.clips, { left: 8, right: 8, up: 16, down: 4 }));
  return reached.get(machine.fingerprint);
}

// The world that is shown: pixels to a world unit, zoom, and where the middle of the world's x and the ground lie.
const camera = { zoom: 1, unit: 32, x: 0, y: 0 };
function look(now, table) {
  const machines = now.actors.filter(actor => !actor.gone && !actor.unseen).map(machineOf).filter(Boolean);
  camera.unit = Math.max(1, ...machines.map(machine => machine.unit));
  if (table.alone && machines[0]) {
    const reach = reachOfMachine(machines[0]);
    const side = Math.max(reach.left, reach.right);
    const fits = Math.min((WIDTH - 30) / (2 * side), (HEIGHT - 60) / (reach.up + reach.down));
    camera.zoom = zoomFor(fits, zoomBy);
    camera.x = 0;
    camera.y = -(HEIGHT / 2 - 24 - reach.down * camera.zoom) / (camera.unit * camera.zoom);
    camera.y = -camera.y;
    return;
  }
  for (const actor of now.actors) {
    if (actor.gone || actor.unseen) continue;
    if (!extent) extent = { left: actor.x, right: actor.x, up: actor.y, down: Math.min(actor.y, table.ground) };
    const machine = machineOf(actor), reach = machine && reachOfMachine(machine), art = machine ? actor.scale / machine.unit : 0;
    const side = reach ? Math.max(1, Math.max(reach.left, reach.right) * art) : 1;
    extent.left = Math.min(extent.left, actor.x - side); extent.right = Math.max(extent.right, actor.x + side);
    extent.up = Math.max(extent.up, actor.y + (reach ? Math.max(1.3, reach.up * art) : 1.3)); extent.down = Math.min(extent.down, actor.y - 0.3);
  }
  if (!extent) return;
  const fits = Math.min(WIDTH / ((extent.right - extent.left) * camera.unit), (HEIGHT - 20) / ((extent.up - extent.down) * camera.unit));
  camera.zoom = zoomFor(fits, zoomBy, 1e3);
  camera.x = (extent.left + extent.right) / 2;
  // The ground low on the stage, where everybody fits.
  const room = HEIGHT / (camera.unit * camera.zoom);
  camera.y = Math.max((extent.up + extent.down) / 2, table.ground + 0.3 * room, extent.up - room / 2);
  if (camera.y - room / 2 > extent.down) camera.y = extent.down + room / 2;
}
const toX = world => WIDTH / 2 + (world - camera.x) * camera.unit * camera.zoom;
const toY = world => HEIGHT / 2 - (world - camera.y) * camera.unit * camera.zoom;

function drawActor(actor, table, index) {
  const machine = machineOf(actor);
  if (!machine) return;
  const size = camera.zoom * actor.scale * camera.unit / machine.unit;
  let top = toY(actor.y), any = false;
  for (const region of actor.regions)
    for (const [clip, frame, , weight, mirrored] of [...region.shows].reverse()) {
      if (clip === null || frame < 0) continue;
      const def = machine.clips[clip], picture = pictureOf(table, def.frames[frame], actor.look);
      const pivot = pivotOf(def, frame, picture);
      const left = actor.left !== mirrored;
      paint.save();
      paint.translate(Math.round(toX(actor.x)), Math.round(toY(actor.y)));
      if (left) paint.scale(-1, 1);
      paint.globalAlpha = region.shows.length > 1 ? Math.max(0.15, weight) : 1;
      paint.imageSmoothingEnabled = size < 1;
      if (picture) {
        paint.drawImage(picture.image, picture.x, picture.y, picture.width, picture.height,
          -pivot[0] * size, -pivot[1] * size, picture.width * size, picture.height * size);
        top = Math.min(top, toY(actor.y) - pivot[1] * size);
        any = true;
      }
      paint.restore();
    }
  const plain = machine.clips.every(clip => clip.frames.every(frame => !frame.art[0]));
  if (!any && plain) {  // no art: a figure of lines, so that there is something to see
    const x = toX(actor.x), y = toY(actor.y), h = 26 * size;
    paint.strokeStyle = colors().state;
    paint.setLineDash([4, 3]);
    paint.strokeRect(x - h / 4, y - h, h / 2, h);
    paint.setLineDash([]);
    top = y - h;
  }
  drawn.push({ index, x: toX(actor.x), y: toY(actor.y), top });
}

function drawBoxes(actor) {
  for (const [name, role, shape] of actor.boxes) {
    const c = colorOfRole(role), px = camera.unit * camera.zoom;
    paint.strokeStyle = c;
    paint.fillStyle = c;
    paint.lineWidth = 1.5;
    paint.beginPath();
    if (shape.length === 3) paint.arc(toX(shape[0]), toY(shape[1]), shape[2] * px, 0, 2 * Math.PI);
    else paint.rect(toX(shape[0] - shape[2]), toY(shape[1] + shape[3]), 2 * shape[2] * px, 2 * shape[3] * px);
    paint.globalAlpha = 0.15; paint.fill();
    paint.globalAlpha = 1; paint.stroke();
    if (role === 'hit') label(name, toX(shape[0]), toY(shape[1] + (shape[3] || shape[2])) - 4, c);
  }
}

function label(text, x, y, fillWith, bold = false) {
  paint.font = (bold ? 'bold ' : '') + '11px "DejaVu Sans"';
  const wide = paint.measureText(text).width;
  x = Math.max(4, Math.min(WIDTH - wide - 4, x - wide / 2));
  y = Math.max(12, Math.min(HEIGHT - 4, y));
  paint.fillStyle = colors().paper;
  paint.globalAlpha = 0.75;
  paint.fillRect(x - 3, y - 11, wide + 6, 15);
  paint.globalAlpha = 1;
  paint.fillStyle = fillWith;
  paint.fillText(text, x, y);
}

// Pixels of an actor's art, from its pivot, x forward and y up, on the stage.
export function onStage(actor, machine) {
  const size = camera.zoom * actor.scale * camera.unit / machine.unit, side = actor.left ? -1 : 1;
  return { size, side, x: value => toX(actor.x) + side * value * size, y: value => toY(actor.y) - value * size,
    back: (x, y) => [(x - toX(actor.x)) / side / size, (toY(actor.y) - y) / size] };
}
// Shapes around an actor: zones, and reaches for a moment after their blow.
function drawShape(shape, actor, machine, c) {
  const { size, side, x, y } = onStage(actor, machine);
  paint.strokeStyle = paint.fillStyle = c;
  paint.lineWidth = 1.5;
  paint.beginPath();
  if (shape.rect) paint.rect(Math.min(x(shape.rect[0]), x(shape.rect[0] + shape.rect[2])), y(shape.rect[1] + shape.rect[3]), shape.rect[2] * size, shape.rect[3] * size);
  if (shape.circle) paint.arc(x(shape.circle[0]), y(shape.circle[1]), shape.circle[2] * size, 0, 2 * Math.PI);
  if (shape.cone) {
    const [cx, cy, length, angle] = shape.cone, half = angle / 2 * Math.PI / 180, ahead = side > 0 ? 0 : Math.PI;
    paint.moveTo(x(cx), y(cy));
    paint.arc(x(cx), y(cy), length * size, ahead - half, ahead + half);
    paint.closePath();
  }
  paint.globalAlpha = 0.08; paint.fill();
  paint.globalAlpha = 1; paint.setLineDash([5, 4]); paint.stroke(); paint.setLineDash([]);
}
function drawReaches(now) {
  for (const record of past.records) {
    if (record.k !== 'cue' || record.t > now.t || record.t < now.t - 0.15 * SECOND || record.v !== now.v || record.e === 'end') continue;
    const actor = now.actors[record.a], machine = actor && !actor.gone && machineOf(actor), cue = machine && machine.cues[record.c];
    const reach = cue && cue.kind === 'damage' && machine.reaches.find(each => each.name === cue.fields.reach);
    if (reach) drawShape(reach.shape, actor, machine, colors().wrong);
  }
}

function flashes(now, table) {
  const since = now.t - 0.4 * SECOND;
  const rows = new Map();
  for (const record of past.records) {
    if (record.t < since || record.t > now.t || record.v !== now.v) continue;
    const actor = now.actors[record.a], where = drawn.find(each => each.index === record.a);
    if (!actor || actor.gone || !where) continue;
    let text = null, c = colors().cue;
    if (record.k === 'cue' && record.e !== 'end') text = machineOf(actor).cues[record.c].name;
    if (record.k === 'hit') { text = 'hits ' + (now.actors[record.o] || {}).name; c = colors().wrong; }
    if (!text) continue;
    const row = rows.get(record.a) || 0;
    rows.set(record.a, row + 1);
    paint.globalAlpha = 1 - (now.t - record.t) / (0.4 * SECOND);
    label(text, where.x + 62, where.y - 26 - 16 * row, c, true);
    paint.globalAlpha = 1;
  }
}

function draw() {
  const now = known.now, table = tables();
  if (!now || !table) return;
  scale();
  look(now, table);
  const c = colors();
  paint.fillStyle = c.cell;
  paint.fillRect(0, 0, WIDTH, HEIGHT);
  const ground = toY(table.ground);
  paint.fillStyle = c.cell2;
  paint.fillRect(0, ground, WIDTH, HEIGHT - ground);
  paint.fillStyle = c.line;
  paint.fillRect(0, ground, WIDTH, 1);
  drawn = [];
  now.actors.forEach((actor, index) => { if (!actor.gone && !actor.unseen) drawActor(actor, table, index); });
  now.actors.forEach((actor, index) => {
    if (actor.gone || actor.unseen) return;
    if ($('showboxes').checked && actor.alive && actor.boxes) drawBoxes(actor);
    if ($('showzones').checked) {
      const machine = machineOf(actor);
      for (const zone of machine ? machine.zones : []) drawShape(zone.shape, actor, machine, c.window);
    }
    if ($('showpivot').checked) {
      paint.strokeStyle = c.pivot;
      paint.lineWidth = 1.5;
      paint.beginPath();
      const x = Math.round(toX(actor.x)) + 0.5, y = Math.round(toY(actor.y)) + 0.5;
      paint.moveTo(x - 7, y); paint.lineTo(x + 7, y); paint.moveTo(x, y - 7); paint.lineTo(x, y + 7);
      paint.stroke();
    }
    if (table.alone) return;
    const where = drawn.find(each => each.index === index);
    if (where) label(actor.name, where.x, Math.max(34, where.top - 5), index === chosen.actor ? c.pivot : c.ink, index === chosen.actor);
  });
  if ($('showboxes').checked) drawReaches(now);
  drawHeld();
  flashes(now, table);
  caption(now, c);
}

// What is shown, in words: in one line if it fits beside the note of whose the keys are, else a line a region.
function caption(now, c) {
  const actor = actorNow(), machine = machineOf(actor);
  if (!actor || actor.gone || !machine) return;
  const unseen = now.actors.filter(each => each.unseen).length;
  const words = actor.regions.map(region => {
    if (region.s === null) return null;
    const first = region.shows[0];
    const clip = first && first[0] !== null ? `${machine.clips[first[0]].name} ${first[1] >= 0 ? 'frame ' + first[1] : ''}` : 'nothing';
    return `${machine.states[region.s].path}: ${clip}`;
  }).filter(Boolean);
  if (actor.done) words.push('done');
  paint.font = 'bold 12px "DejaVu Sans"';
  paint.fillStyle = c.ink;
  const fits = line => paint.measureText(line).width <= WIDTH - 30 - $('focusnote').offsetWidth;
  const lines = fits(words.join('   ')) ? [words.join('   ')] : words;
  if (unseen) lines.push(`${unseen} more are not drawn: choose one to see it`);
  const top = !lines.length || fits(lines[0]) ? 18 : 34;
  lines.forEach((each, i) => paint.fillText(cutTo(paint, each, WIDTH - 20), 10, top + 16 * i));
}

// --- reaches and zones by hand ----------------------------------------------------------------------------------------

let held = null;  // the one that is edited: { kind, name, drag }
const shapeNow = () => {
  const m = machine(), list = m && held && (held.kind === 'reach' ? m.reaches : m.zones);
  const one = list && list.find(each => each.name === held.name);
  return one ? held.drag && held.drag.shape || one.shape : null;
};
let shapeKey = '';
function listShapes() {
  const m = machine(), pick = $('shape');
  if (!m) return;
  const key = m.name + m.reaches.map(each => each.name) + m.zones.map(each => each.name);
  if (key === shapeKey) return;
  shapeKey = key;
  held = null;  // a changed file with the same names keeps it
  pick.hidden = !m.reaches.length && !m.zones.length;
  fill(pick, make('option', { value: '' }, 'shape…'), m.reaches.map(each => make('option', { value: 'reach ' + each.name }, 'reach ' + each.name)), m.zones.map(each => make('option', { value: 'zone ' + each.name }, 'zone ' + each.name)));
}
$('shape').onchange = () => {
  const [kind, ...name] = $('shape').value.split(' ');
  held = kind ? { kind, name: name.join(' '), drag: null } : null;
  if (held && known.now.playing) ask([{ do: 'play', on: false }]);
  redraw();
};
function drawHeld() {
  const shape = shapeNow(), actor = actorNow(), m = machine();
  if (!shape || !actor || actor.gone || !m) return;
  const on = onStage(actor, m), c = colors().pivot;
  drawShape(shape, actor, m, c);
  paint.fillStyle = c;
  for (const [, x, y] of cornersOf(shape)) paint.fillRect(on.x(x) - 4, on.y(y) - 4, 8, 8);
  const [key, numbers] = Object.entries(shape)[0], [lx, ly] = cornersOf(shape)[0].slice(1);
  label(`${held.kind} ${held.name}: ${key} [${numbers.map(each => Math.round(each * 100) / 100).join(', ')}]`, on.x(lx), on.y(ly) - 10, c, true);
}
const stagePoint = event => { const box = canvas.getBoundingClientRect(); return [event.clientX - box.left, event.clientY - box.top]; };
canvas.addEventListener('pointerdown', event => {
  const shape = shapeNow(), actor = actorNow();
  if (!shape || !actor || actor.gone) return;
  const on = onStage(actor, machine()), [px, py] = stagePoint(event);
  const grip = cornersOf(shape).find(([, x, y]) => Math.hypot(on.x(x) - px, on.y(y) - py) < 10);
  const name = grip ? grip[0] : shapeAt(shape, ...on.back(px, py)) ? 'all' : null;
  if (!name) return;
  canvas.setPointerCapture(event.pointerId);
  held.drag = { grip: name, start: on.back(px, py), from: shape, shape };
});
canvas.addEventListener('pointermove', event => {
  if (!held || !held.drag) return;
  const at = onStage(actorNow(), machine()).back(...stagePoint(event));
  held.drag.shape = dragged(held.drag.from, held.drag.grip, at[0] - held.drag.start[0], at[1] - held.drag.start[1], at);
  redraw();
});
canvas.addEventListener('pointerup', async () => {
  const drag = held && held.drag;
  if (!drag) return;
  if (JSON.stringify(drag.shape) !== JSON.stringify(drag.from)) await edit({ kind: held.kind, name: held.name, shape: drag.shape, what: `${held.kind} ${held.name}` });
  if (held) held.drag = null;
  redraw();
});

let wanted = false;
function redraw() {
  if (wanted) return;
  wanted = true;
  requestAnimationFrame(() => { wanted = false; draw(); });
}
for (const what of ['now', 'art', 'pastread', 'theme', 'actor', 'tables']) on(what, redraw);
on('stretch', () => { extent = null; });
$('showboxes').onchange = $('showpivot').onchange = $('showzones').onchange = redraw;
$('smaller').onclick = () => { zoomBy -= 1; redraw(); };
$('larger').onclick = () => { zoomBy += 1; redraw(); };
for (const what of ['tables', 'stretch', 'actor']) on(what, listShapes);
canvas.addEventListener('click', event => {
  if (held) return;
  const box = canvas.getBoundingClientRect();
  const x = event.clientX - box.left, y = event.clientY - box.top;
  let best = null;
  for (const each of drawn) {
    const far = Math.hypot(each.x - x, (each.y + each.top) / 2 - y);
    if (far < 60 && (!best || far < best.far)) best = { ...each, far };
  }
  if (best) choose(best.index);
});
