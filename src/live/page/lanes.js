// Lanes of time: states, presses, cues, values; click to go there. Futures that were left lie faint below.
import { $, SECOND, actorNow, ask, chosen, colors, cutTo, fill, known, machine, make, notice, on, seconds, tables, tell } from './base.js';
import { fetchPast, past, plot, plots, view } from './past.js';

const canvas = $('lanes'), paint = canvas.getContext('2d');
const LEFT = 76, TOP = 24;
let width = 0, height = 0, hits = [], dragging = false;
let down = 0, hidden = 0;  // how far the lanes are scrolled, and may be

const toX = t => LEFT + (t - view.from) / view.span * (width - LEFT - 12);
const toT = x => view.from + (x - LEFT) / (width - LEFT - 12) * view.span;

function follow() {
  const now = known.now;
  if (!now) return;
  const before = view.from;
  const at = (now.t - view.from) / view.span;
  if (at > 0.86) view.from = now.t - view.span * 0.86;
  if (at < 0.06) view.from = Math.max(0, now.t - view.span * 0.3);
  if (Math.abs(before - view.from) > view.span * 0.2 || view.from + view.span > past.to || view.from < past.from) fetchPast();
}

const FONT = '11px "DejaVu Sans"';

function text(words, x, y, fillWith, most = 1e9, bold = false) {
  paint.font = (bold ? 'bold ' : '') + FONT;
  paint.fillStyle = fillWith;
  const shown = cutTo(paint, words, most);
  paint.fillText(shown, x, y);
  return shown === words ? paint.measureText(words).width : most;
}

function wide(words) {
  paint.font = FONT;
  return paint.measureText(words).width;
}

// States of a region as stretches of time, from the records.
function stretches(records, m, actor, region) {
  const out = [];
  let open = null;
  for (const record of records) {
    if (record.a !== actor || (record.k !== 'enter' && record.k !== 'leave')) continue;
    const state = m.states[record.s];
    if (!state || !state.leaf || state.region !== region) continue;
    if (record.k === 'enter') { if (open) { open.to = record.t; out.push(open); } open = { s: record.s, from: record.t, to: null, r: record.r }; }
    else if (open && open.s === record.s) { open.to = record.t; out.push(open); open = null; }
    else if (!open) out.push({ s: record.s, from: past.from, to: record.t, r: undefined });
  }
  if (open) out.push(open);
  return out;
}

function laneOfStates(records, m, actor, region, y, tall, faint, to) {
  const c = colors(), now = known.now;
  const all = stretches(records, m, actor, region);
  const here = now.actors[actor];
  if (!faint && !all.length && here && here.regions[region] && here.regions[region].s !== null)
    all.push({ s: here.regions[region].s, from: past.from, to: null });
  for (const each of all) {
    const end = each.to === null ? to : each.to;
    const x = Math.max(LEFT, toX(each.from)), right = Math.min(width, toX(end));
    if (right < LEFT || x > width) continue;
    paint.globalAlpha = faint ? 0.4 : 1;
    paint.fillStyle = c.pale;
    paint.fillRect(x, y, Math.max(1, right - x - 1), tall);
    paint.fillStyle = c.state;
    paint.fillRect(x, y, 2, tall);
    if (right - x > 14) text(m.states[each.s].path.replace(/.*\//, ''), x + 5, y + tall - 4, faint ? c.faint : c.ink, right - x - 8);
    paint.globalAlpha = 1;
    if (!faint) hits.push({ x, y, w: Math.max(4, right - x), h: tall, kind: 'state', each, m });
  }
}

function presses(m, actor) {
  const out = [];
  for (const write of past.writes)
    for (const name of write.a === actor && write.press || []) {
      const input = m.inputs.findIndex(each => each.name === name);
      const life = m.inputs[input].buffer;
      const taken = past.records.find(record => record.a === actor && (record.k === 'enter' || record.k === 'leave') && record.t >= write.t && record.t <= write.t + life &&
        record.r !== undefined && m.rules[record.r] && m.rules[record.r].pulse === input);
      out.push({ name, t: write.t, life, taken, ranOut: !taken && write.t + life < known.now.end });
    }
  return out;
}

function draw() {
  const now = known.now, m = machine(), actor = actorNow();
  const ratio = devicePixelRatio || 1;
  width = canvas.clientWidth; height = canvas.clientHeight;
  if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) { canvas.width = Math.round(width * ratio); canvas.height = Math.round(height * ratio); }
  paint.setTransform(ratio, 0, 0, ratio, 0, 0);
  const c = colors();
  paint.fillStyle = c.paper;
  paint.fillRect(0, 0, width, height);
  hits = [];
  if (!now || !m || !actor) return;
  if (view.follows) follow();
  // The axis.
  const steps = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 30, 60, 120];
  const step = steps.find(each => each * SECOND / view.span * (width - LEFT) > 62) || 300;
  paint.fillStyle = c.line;
  for (let s = Math.ceil(Math.max(0, view.from) / SECOND / step); ; ++s) {
    const x = toX(s * step * SECOND);
    if (x > width) break;
    paint.fillStyle = c.line;
    paint.fillRect(Math.round(x), TOP - 4, 1, height);
    text((s * step).toFixed(step < 0.1 ? 2 : step < 1 ? 1 : 0) + ' s', x + 3, 13, c.faint);
  }
  paint.save();
  paint.beginPath(); paint.rect(0, TOP - 2, width, height); paint.clip();
  let y = TOP - down;
  const lane = (name, tall, call) => {
    const top = y;
    y += tall + 5;
    if (y < TOP || top > height) return;
    text(name, 6, top + 13, c.faint, LEFT - 10);
    paint.save();
    paint.beginPath(); paint.rect(LEFT, top - 2, width - LEFT, tall + 4); paint.clip();
    call(top, tall);
    paint.restore();
  };
  const regions = actor.regions || [];
  regions.forEach((region, r) => lane((regions.length > 1 ? (known.tables.get(now.v).machines[actor.m].regions[r] || 'state') : 'state'), 18,
    (top, tall) => laneOfStates(past.records, m, chosen.actor, r, top, tall, false, now.end)));
  const all = presses(m, chosen.actor);
  // Who comes while another waits stands below it.
  let busy = -1;
  const ends = press => press.taken ? press.taken.t : press.t + press.life;
  const rows = all.map(press => { const row = press.t <= busy ? 1 : 0; if (!row) busy = ends(press); return row; });
  lane('presses', rows.includes(1) ? 32 : 16, first => {
    all.forEach((press, i) => {
      const x = toX(press.t), end = toX(ends(press)), top = first + 16 * rows[i];
      const shade = press.taken ? c.value : press.ranOut ? c.wrong : c.value;
      paint.fillStyle = shade;
      paint.fillRect(x, top + 7, Math.max(2, end - x), 2);
      paint.beginPath();
      if (press.ranOut) { paint.strokeStyle = shade; paint.lineWidth = 2; paint.moveTo(end - 4, top + 4); paint.lineTo(end + 4, top + 12); paint.moveTo(end + 4, top + 4); paint.lineTo(end - 4, top + 12); paint.stroke(); }
      paint.beginPath(); paint.arc(x, top + 8, 4, 0, 7); paint.fill();
      // As many words as there is room for before the next one; all of them where it is clicked.
      const next = rows.indexOf(rows[i], i + 1), room = (next < 0 ? 1e9 : toX(all[next].t) - 6) - end - 8;
      const words = [press.name + (press.ranOut ? ' — why not?' : ''), press.name].find(each => wide(each) <= room);
      hits.push({ x: x - 5, y: top - 2, w: end - x + 14 + (words ? text(words, end + 8, top + 12, shade) : 0), h: 16, kind: 'press', press });
    });
  });
  lane('cues', 40, top => {
    let last = [-1e9, -1e9];
    for (const record of past.records) {
      if (record.a !== chosen.actor || record.k !== 'cue' || record.v !== now.v || !m.cues[record.c]) continue;
      const x = toX(record.t);
      paint.globalAlpha = record.e === 'end' ? 0.5 : 1;
      paint.fillStyle = record.e ? c.span : c.cue;
      paint.beginPath(); paint.moveTo(x, top + 1); paint.lineTo(x + 4, top + 6); paint.lineTo(x, top + 11); paint.lineTo(x - 4, top + 6); paint.fill();
      hits.push({ x: x - 5, y: top, w: 10, h: 14, kind: 'cue', record, m });
      const row = x > last[0] + 4 ? 0 : x > last[1] + 4 ? 1 : -1;
      if (row >= 0 && record.e !== 'end') last[row] = x + text(m.cues[record.c].name, x - 3, top + 23 + 13 * row, record.e ? c.span : c.cue);
      paint.globalAlpha = 1;
    }
  });
  const things = past.records.filter(record => ['hit', 'zone', 'spawn', 'gone', 'done', 'fault'].includes(record.k) && (record.a === chosen.actor || record.o === chosen.actor));
  if (things.length) lane('meets', 16, top => {
    let last = -1e9;
    for (const record of things) {
      const x = toX(record.t), other = now.actors[record.a === chosen.actor ? record.o : record.a];
      const words = { hit: record.a === chosen.actor ? 'hits ' : 'hit by ', zone: record.in ? 'zone: ' : 'leaves zone: ', spawn: 'spawned', gone: 'gone', done: 'done', fault: 'runaway' }[record.k] + (other && record.o !== undefined && record.k !== 'gone' ? other.name : '');
      paint.fillStyle = record.k === 'fault' || record.k === 'hit' ? c.wrong : c.window;
      paint.fillRect(x - 1, top, 3, 14);
      if (x > last) last = x + 12 + text(words, x + 5, top + 12, paint.fillStyle);
    }
  });
  for (const [expression, points] of plots) {
    if (!points.length) continue;
    const low = Math.min(0, ...points.map(each => each[1])), high = Math.max(low + 1e-9, ...points.map(each => each[1]));
    text(`${Math.round(low * 100) / 100} to ${Math.round(high * 100) / 100}`, 6, y + 26, c.faint, LEFT - 10);
    lane(expression, 28, (top, tall) => {
      const at = value => top + tall - 2 - (value - low) / (high - low) * (tall - 4);
      paint.strokeStyle = c.value;
      paint.lineWidth = 1.5;
      paint.beginPath();
      points.forEach(([t, value], i) => {
        if (i) paint.lineTo(toX(t), at(points[i - 1][1]));
        paint[i ? 'lineTo' : 'moveTo'](toX(t), at(value));
      });
      paint.lineTo(toX(points.to), at(points[points.length - 1][1]));
      paint.stroke();
      const here = [...points].reverse().find(each => each[0] <= now.t);
      if (here) text(String(Math.round(here[1] * 1000) / 1000), Math.max(LEFT + 3, toX(now.t) + 5), top + 11, c.value);
      hits.push({ x: LEFT, y: top, w: width - LEFT, h: tall, kind: 'plot', expression, points });
    });
  }
  for (const input of m.inputs) {
    if (input.kind === 'pulse' || !past.writes.some(write => write.a === chosen.actor && write.set && input.name in write.set)) continue;
    lane(input.name, 14, top => {
      let value = null, from = past.from;
      const put = to => {
        if (value === null) return;
        const x = Math.max(LEFT, toX(from)), right = Math.min(width, toX(to));
        paint.fillStyle = c.valuepale;
        const part = typeof value === 'number' && input.max < 1e6 && input.min > -1e6 ? (value - input.min) / (input.max - input.min) : 1;
        if (value !== false) paint.fillRect(x, top + 13 - 12 * Math.max(0.08, part), Math.max(1, right - x), 12 * Math.max(0.08, part));
        text(typeof value === 'number' ? String(Math.round(value * 100) / 100) : String(value), x + 3, top + 11, c.value, right - x - 4);
      };
      for (const write of past.writes) {
        if (write.a !== chosen.actor || !write.set || !(input.name in write.set)) continue;
        put(write.t);
        value = write.set[input.name];
        from = write.t;
      }
      put(now.end);
    });
  }
  // Reloads, and what the hand wrote to the machine as a whole.
  for (const write of past.writes) {
    const words = write.reload ? 'new file' : write.placed ? 'placed' : write.a !== chosen.actor ? null : write.force ? 'force ' + write.force : write.place != null ? 'place ' + write.place : write.reset ? 'reset' : write.freeze ? 'freeze' : null;
    if (!words) continue;
    paint.strokeStyle = c.window; paint.setLineDash([4, 3]); paint.beginPath(); paint.moveTo(toX(write.t), TOP); paint.lineTo(toX(write.t), height); paint.stroke(); paint.setLineDash([]);
    if (toX(write.t) > LEFT) text(words, toX(write.t) + 3, height - 4, c.window);
  }
  // Futures that were left.
  for (const strand of now.strands.slice(0, 3)) {
    const records = past.strands.get(strand.id);
    if (!records || toX(strand.to) < LEFT || toX(strand.from) > width) continue;
    const top = y;
    lane('left', 14, (at, tall) => { if (records.every(record => record.v === now.v)) laneOfStates(records, m, chosen.actor, 0, at, tall, true, strand.to); });
    hits.push({ x: Math.max(LEFT, toX(strand.from)), y: top, w: toX(strand.to) - Math.max(LEFT, toX(strand.from)), h: 14, kind: 'strand', strand });
  }
  paint.restore();
  scrollable(y + down - TOP, c);
  // What is not played yet, and the head.
  const end = toX(now.end);
  paint.fillStyle = c.cell2; paint.globalAlpha = 0.45;
  if (end < width) paint.fillRect(Math.max(LEFT, end), TOP - 2, width, height);
  paint.globalAlpha = 1;
  if (toX(now.t) >= LEFT) {
    paint.fillStyle = c.pivot;
    paint.fillRect(Math.round(toX(now.t)) - 1, 14, 2, height);
    paint.beginPath(); paint.moveTo(toX(now.t) - 6, 14); paint.lineTo(toX(now.t) + 6, 14); paint.lineTo(toX(now.t), 22); paint.fill();
  }
}

// Lanes of more height than there is room for: how far they may go up, and a bar that says where one is.
function scrollable(tall, c) {
  const room = height - TOP, most = tall > room ? tall + 26 - room : 0;  // 26: the buttons
  if (most !== hidden) { hidden = most; $('lanesup').hidden = $('lanesdown').hidden = !most; }
  $('lanesup').disabled = down <= 0;
  $('lanesdown').disabled = down >= most;
  if (down > most) scroll(0);
  if (!most) return;
  paint.fillStyle = c.faint;
  paint.fillRect(0, TOP + room * down / (room + most), 3, room * room / (room + most));
}
function scroll(by) {
  down = Math.max(0, Math.min(hidden, down + by));
  redraw();
}
$('lanesup').onclick = () => scroll(-46);
$('lanesdown').onclick = () => scroll(46);

let wanted = false;
function redraw() {
  if (wanted) return;
  wanted = true;
  requestAnimationFrame(() => { wanted = false; draw(); });
}
for (const what of ['now', 'pastread', 'theme', 'actor', 'tables']) on(what, redraw);
addEventListener('resize', redraw);

// --- going there ----------------------------------------------------------------------------------------------------

let jumping = false, wish = null;
async function jump(ticks) {
  wish = Math.max(0, Math.round(ticks));
  if (jumping) return;
  jumping = true;
  while (wish !== null) { const to = wish; wish = null; await ask([{ do: 'jump', ticks: to }]); }
  jumping = false;
}
const at = event => { const box = canvas.getBoundingClientRect(); return [event.clientX - box.left, event.clientY - box.top]; };
const under = (x, y) => y < TOP ? undefined : [...hits].reverse().find(hit => x >= hit.x && x <= hit.x + hit.w && y >= hit.y && y <= hit.y + hit.h);
canvas.addEventListener('pointerdown', event => {
  const [x, y] = at(event), hit = under(x, y);
  if (hit && hit.kind === 'press' && hit.press.ranOut) { tell('whypress', hit.press); return; }
  if (hit && hit.kind === 'strand') { ask([{ do: 'take_up', strand: hit.strand.id, ticks: Math.round(toT(x)) }]); notice('That future is taken up again; the other one is kept below.'); return; }
  if (x < LEFT) return;
  dragging = true;
  view.follows = false;
  canvas.setPointerCapture(event.pointerId);
  jump(toT(x));
});
canvas.addEventListener('pointermove', event => {
  const [x, y] = at(event);
  if (dragging) { jump(toT(x)); return; }
  const hit = under(x, y);
  canvas.title = !hit ? '' : hit.kind === 'press' ? (hit.press.ranOut ? `${hit.press.name}, pressed at ${seconds(hit.press.t)}, ran out untaken: click to see why` : `${hit.press.name} at ${seconds(hit.press.t)}${hit.press.taken ? ', taken ' + Math.round((hit.press.taken.t - hit.press.t) / SECOND * 1000) + ' ms later' : ''}`)
    : hit.kind === 'plot' ? `${hit.expression} is ${([...hit.points].reverse().find(each => each[0] <= toT(x)) || [0, '…'])[1]} at ${seconds(toT(x))}`
    : hit.kind === 'strand' ? 'A future that was left: click to take it up again'
    : hit.kind === 'cue' ? `${hit.m.cues[hit.record.c].name} at ${seconds(hit.record.t)}${hit.record.clip === undefined ? '' : ', ' + hit.m.clips[hit.record.clip].name + ' frame ' + hit.record.f}`
    : `${hit.m.states[hit.each.s].path} from ${seconds(hit.each.from)}${hit.each.r === undefined ? '' : ', by ' + (hit.m.rules[hit.each.r].text || 'always')}`;
});
canvas.addEventListener('pointerup', () => { dragging = false; view.follows = true; });
canvas.addEventListener('wheel', event => {
  event.preventDefault();
  if (hidden && at(event)[0] < LEFT) { scroll(event.deltaY); return; }
  if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) { view.follows = false; view.from = Math.max(0, view.from + (event.deltaX || event.deltaY) / 800 * view.span); }
  else zoom(event.deltaY > 0 ? 1.25 : 0.8, toT(at(event)[0]));
  fetchPast();
  redraw();
}, { passive: false });
function zoom(by, around) {
  const before = view.span;
  view.span = Math.min(600 * SECOND, Math.max(0.2 * SECOND, view.span * by));
  view.from = Math.max(0, around - (around - view.from) * view.span / before);
}
$('closer').onclick = () => { zoom(0.5, known.now.t); fetchPast(); redraw(); };
$('farther').onclick = () => { zoom(2, known.now.t); fetchPast(); redraw(); };
// Any expression over the machine's values, drawn over time.
$('plot').onclick = () => {
  const dialog = $('ask'), words = make('input', { type: 'text', placeholder: 'health, abs(move) or in(hurt)', 'aria-label': 'Expression', style: 'width:260px' });
  fill(dialog, make('form', { method: 'dialog' },
    make('p', {}, 'Draw over time what an expression gives, as guards are written: numbers, or 1 where it is true.'),
    [...plots.keys()].map(each => make('p', {}, each, ' ', make('button', { onclick: () => plot(each) }, 'Remove'))),
    make('p', {}, words, ' ', make('button', { onclick: () => { const what = words.value.trim(); if (what && !plots.has(what)) plot(what); } }, 'Draw')),
    make('p', {}, make('button', { value: '' }, 'Close'))));
  dialog.onclose = null;
  dialog.showModal();
  words.focus();
};
$('tohead').onclick = () => { view.follows = true; jump(known.now.end); };
canvas.addEventListener('keydown', event => {
  const lanes = { ArrowUp: -23, ArrowDown: 23 }[event.key];
  if (lanes) { event.preventDefault(); scroll(lanes); return; }
  const by = { ArrowLeft: -1, ArrowRight: 1, PageUp: -10, PageDown: 10 }[event.key];
  if (!by) return;
  event.preventDefault();
  jump(known.now.t + by * SECOND / 60);
});

// --- futures and tapes ------------------------------------------------------------------------------------------------

let strandKey = '';
on('now', () => {
  const strands = known.now.strands, key = strands.map(strand => strand.id).join();
  canvas.setAttribute('aria-valuenow', String(known.now.t));
  canvas.setAttribute('aria-valuetext', seconds(known.now.t));
  if (key === strandKey) return;
  strandKey = key;
  $('strands').hidden = !strands.length;
  fill($('strands'), make('option', { value: '' }, `${strands.length} future${strands.length > 1 ? 's' : ''} left`),
    strands.map(strand => make('option', { value: String(strand.id) }, `from ${seconds(strand.from, 2)} to ${seconds(strand.to, 2)}`)));
});
$('strands').onchange = async () => {
  const id = Number($('strands').value), strand = known.now.strands.find(each => each.id === id);
  if (strand) await ask([{ do: 'take_up', strand: id, ticks: strand.to }]);
};
$('strands').hidden = true;

$('keep').onclick = async () => {
  const now = known.now, t = tables();
  const name = make('input', { type: 'text', value: 'played', 'aria-label': 'Name' });
  const from = make('input', { type: 'number', step: '0.1', min: '0', value: (now.first / SECOND).toFixed(1), 'aria-label': 'From' });
  const to = make('input', { type: 'number', step: '0.1', value: (now.end / SECOND).toFixed(1), 'aria-label': 'To' });
  const dialog = $('ask');
  fill(dialog, make('form', { method: 'dialog' },
    make('p', {}, 'Keep what was done as a tape: ', name, '.tape.yaml'),
    make('p', {}, 'from ', from, ' s to ', to, ' s'),
    make('p', { class: 'faint' }, 'A tape from 0 replays exactly. One from the middle begins with the values that the inputs had then.'),
    make('button', { value: 'keep' }, 'Keep'), ' ', make('button', { value: '' }, 'Leave it')));
  dialog.onclose = async () => {
    if (dialog.returnValue !== 'keep') return;
    const machineFile = t.machines[actorNow().m].file.replace(/.*\//, '');
    const got = await ask([{ do: 'tape', actor: chosen.actor, from: Math.round(Number(from.value) * SECOND), to: Math.min(now.end, Math.round(Number(to.value) * SECOND)), machine: machineFile }]);
    if (!got) return;
    const done = await ask([{ do: 'keep', name: name.value, text: got.tape }]);
    if (done) notice(`Kept as ${done.file}. Run it: mobrin run ${done.file}`);
  };
  dialog.returnValue = '';
  dialog.showModal();
};
