// The machine as its graph, lit where it is; below, why: a state's rules as they stand, and what leads to it.
import { $, SECOND, actorNow, ask, chosen, dark, fill, get, known, machine, make, notice, on, seconds, stretchText, tell } from './base.js';

const graph = make('div', { id: 'graph', role: 'img', 'aria-label': 'Graph of the machine' });
const why = make('div', { id: 'why', 'aria-live': 'off' });
const tools = make('div', { id: 'graphtools' },
  make('button', { onclick: () => { whole = true; fit(); }, title: 'The whole graph' }, 'Whole'), make('button', { onclick: () => { whole = moved = false; centre(); }, title: 'Follow what is active' }, 'Follow'),
  make('button', { onclick: () => zoom(1.25), 'aria-label': 'Larger' }, '+'), make('button', { onclick: () => zoom(0.8), 'aria-label': 'Smaller' }, '−'));
graph.append(tools);
const counts = make('div', { id: 'counts', 'aria-label': 'Members by state', hidden: true });
$('machine').append(counts, graph, why);

const NEIGHBOURHOOD = 60;  // states: above, only what is around the active one is laid out
let svg = null, shown = '', wantedGraph = '', view = { x: 0, y: 0, k: 1 }, moved = false;
let press = null;  // a press that ran out, and what was considered while it waited
let instant = null;  // an instant whose rounds are shown
let halts = [];

const key = m => {
  const around = m.states.length > NEIGHBOURHOOD ? chosen.state ?? (actorNow().regions[0] || {}).s : null;
  return m.fingerprint + '?dark=' + (dark() ? 1 : 0) + (around === null || around === undefined ? '' : '&around=' + around);
};

async function loadGraph() {
  const m = machine();
  if (!m) return;
  const want = key(m);
  if (want === shown || want === wantedGraph) return;
  wantedGraph = want;
  if (svg) svg.classList.add('stale');
  try {
    const text = await get('graph/' + want);
    if (wantedGraph !== want) return;
    const read = new DOMParser().parseFromString(text, 'image/svg+xml').documentElement;
    if (read.tagName !== 'svg') throw new Error('the graph cannot be shown');
    const same = shown.split('?')[0] === want.split('?')[0];
    if (svg) svg.remove();
    svg = document.importNode(read, true);
    for (const title of [...svg.querySelectorAll('title')]) title.remove();  // of Graphviz's own making
    for (const link of [...svg.querySelectorAll('a')]) link.removeAttributeNS('http://www.w3.org/1999/xlink', 'href');
    svg.setAttribute('width', svg.viewBox.baseVal.width);
    svg.setAttribute('height', svg.viewBox.baseVal.height);
    graph.append(svg);
    shown = want;
    if (!same || !moved) fit(); else place();
    light();
    centre();
  } catch (error) { if (error.status !== 404) notice(error.message, true); }
  if (wantedGraph === want) wantedGraph = '';
}

function place() { if (svg) svg.style.transform = `translate(${view.x}px, ${view.y}px) scale(${view.k})`; }
// As large as can be read; where the graph is larger than its place, what is active lies in the middle.
const READABLE = 0.8;
let whole = false;
function centre() {
  if (!svg || moved || whole || drag) return;
  const actor = actorNow(), box = graph.getBoundingClientRect(), w = svg.viewBox.baseVal.width, h = svg.viewBox.baseVal.height;
  const state = actor && !actor.gone && actor.regions.find(region => region.s !== null);
  if (!box.width || !state || Math.min((box.width - 12) / w, (box.height - 12) / h) >= READABLE) return;
  const node = svg.querySelector('.s' + (chosen.state ?? state.s));
  if (!node) return;
  const at = node.getBBox(), matrix = node.getCTM(), origin = svg.getCTM();
  if (!matrix || !origin) return;
  // In the picture's own pixels.
  const x = (at.x + at.width / 2) * matrix.a / origin.a + (matrix.e - origin.e) / origin.a, y = (at.y + at.height / 2) * matrix.d / origin.d + (matrix.f - origin.f) / origin.d;
  view.k = READABLE;
  const within = (middle, room, size) => size * view.k <= room - 12 ? (room - size * view.k) / 2 : Math.min(6, Math.max(room - 6 - size * view.k, room / 2 - middle * view.k));
  view.x = within(x, box.width, w);
  view.y = within(y, box.height, h);
  svg.classList.add('glides');
  place();
}
function fit() {
  if (!svg) return;
  const box = graph.getBoundingClientRect(), w = svg.viewBox.baseVal.width, h = svg.viewBox.baseVal.height;
  if (!box.width || !w) return;
  view.k = Math.min(1.25, (box.width - 12) / w, (box.height - 12) / h);
  view.x = (box.width - w * view.k) / 2;
  view.y = (box.height - h * view.k) / 2;
  moved = false;
  place();
}
function zoom(by, x = graph.clientWidth / 2, y = graph.clientHeight / 2) {
  const k = Math.min(4, Math.max(0.05, view.k * by));
  view.x = x - (x - view.x) * k / view.k;
  view.y = y - (y - view.y) * k / view.k;
  view.k = k;
  svg.classList.remove('glides');
  moved = true;
  place();
}
graph.addEventListener('wheel', event => {
  event.preventDefault();
  const box = graph.getBoundingClientRect();
  zoom(event.deltaY > 0 ? 0.85 : 1.18, event.clientX - box.left, event.clientY - box.top);
}, { passive: false });
let drag = null;
graph.addEventListener('pointerdown', event => { if (!event.target.closest('button')) drag = { x: event.clientX, y: event.clientY, from: { ...view }, far: 0 }; });
addEventListener('pointermove', event => {
  if (!drag) return;
  drag.far = Math.max(drag.far, Math.hypot(event.clientX - drag.x, event.clientY - drag.y));
  if (drag.far < 4) return;
  view.x = drag.from.x + event.clientX - drag.x;
  view.y = drag.from.y + event.clientY - drag.y;
  moved = true;
  if (svg) svg.classList.remove('glides');
  place();
});
addEventListener('pointerup', event => {
  const clicked = drag && drag.far < 4;
  drag = null;
  if (!clicked || !graph.contains(event.target)) return;
  const element = event.target.closest('.node, .cluster');
  const name = element && [...element.classList].find(each => /^s\d+$/.test(each));
  if (!name) return;
  press = instant = null;
  chosen.state = Number(name.slice(1));
  light();
  explain();
});

// Active states, and the last transition's row and arrow.
let lit = [];
function light() {
  const actor = actorNow(), m = machine();
  if (!svg || !actor || !m || actor.gone) return;
  const want = [];
  actor.regions.forEach(region => {
    if (region.s === null) return;
    for (let s = region.s; s !== 0; s = m.states[s].parent) want.push(['.s' + s, 'active']);
  });
  (actor.rules || []).forEach(rule => {
    if (!rule || known.now.t - rule[1] > 3 * SECOND) return;
    want.push(['#a_r' + rule[0], 'lit'], ['#t' + rule[0], 'lit']);
  });
  if (chosen.state !== null) want.push(['.s' + chosen.state, 'chosen']);
  const text = want.join();
  if (text === lit.text && lit.svg === svg) return;
  for (const [element, name] of lit) element.classList.remove(name);
  lit = [];
  for (const [selector, name] of want) {
    const element = svg.querySelector(selector);
    if (element) { element.classList.add(name); lit.push([element, name]); }
  }
  lit.text = text;
  lit.svg = svg;
  centre();
}

// --- why ------------------------------------------------------------------------------------------------------------

const VERDICTS = { guard: 'its guard is false', window: 'the playhead is not in its window', sealed: 'a sealed state lies in between',
  already: 'it asks for what is active already', stands: 'it stands: what it asks for is active, and the rest of its list is passed over', taken: 'would be taken' };
const eventOf = rule => rule.text.split(',')[0] || 'always';
// Why a rule of an active state was not looked at.
const SKIPPED = { above: 'above it decides', around: 'around it, is taken', left: 'elsewhere, is taken and leaves it' };
const isSkipped = seen => seen.is in SKIPPED;
function skipped(seen) {
  const m = machine(), by = m.rules[seen.by], from = by.owner === 0 ? 'anywhere' : m.states[by.owner].path;
  return 'not looked at: ' + (seen.is === 'above' && by.at ? `line ${by.at[1]}` : `${from} → ${by.to}${seen.is === 'above' ? '' : ','}`) + ' ' + SKIPPED[seen.is];
}

function verdict(rule, seen, waits) {
  if (!seen) return null;
  if (isSkipped(seen)) return skipped(seen);
  if (seen.is === 'event') {
    const event = eventOf(rule), name = event.replace(/^\w+: /, '');
    if (event.startsWith('pulse:')) return name + ' is not pressed';
    if (event === 'at: end') return 'its play has not ended';
    if (event === 'at: loop') return 'its play does not come round now';
    if (event.startsWith('after:')) return `it has not been in it for ${name} yet`;
    if (event.startsWith('cue:')) return name + ' is not told now';
    return event + ' does not hold now';
  }
  if (seen.is === 'window' && seen.plays) {
    const [clip, frame, at] = seen.plays, name = rule.text.replace(/^.*during: /, '').split(',')[0];
    const def = machine().clips[clip], open = def.windows.find(each => each.name === name);
    return `${def.name} is ${frame < 0 ? `at ${at.toFixed(3)} s` : `on frame ${frame}`}` + (open ? `; ${name} is ${stretchText(open.stretches)}` : `, not in ${name}`);
  }
  if (seen.is === 'taken' && !waits) return 'would be taken';
  return VERDICTS[seen.is];
}

function line(rule, index, seen, note) {
  const m = machine();
  const owner = rule.owner === 0 ? 'anywhere' : m.states[rule.owner].path;
  const parts = seen && seen.parts.length ? make('div', { class: 'parts' }, seen.parts.map(([text, value], i) => [i ? ',  ' : '', text + ' is ', make('b', {}, typeof value === 'number' ? String(Math.round(value * 1e4) / 1e4) : String(value))]).flat()) : null;
  const words = note || verdict(rule, seen, known.why && known.why.waits);
  return make('div', { class: 'rule ' + (seen ? seen.is : '') }, make('span', { class: 'dot' }),
    make('div', {}, make('span', {}, `${owner} → ${rule.to}  `), make('b', {}, rule.text || 'always'), '  ',
      rule.at ? make('button', { class: 'link', onclick: () => tell('goto', { file: rule.at[0], line: rule.at[1] }) }, `line ${rule.at[1]}`) : null, '  ',
      make('button', { class: 'link', title: 'Stop time when it is taken', onclick: () => toggleHalt({ on: 'rule', a: chosen.actor, i: index }) }, halts.some(halt => halt.on === 'rule' && halt.i === index && halt.a === chosen.actor) ? 'halts here' : 'halt'),
      words ? make('div', { class: seen && (seen.is === 'taken' || seen.is === 'stands') ? '' : 'no' }, words) : null, parts));
}

const isIn = (m, state, of) => { for (let s = state; ; s = m.states[s].parent) { if (s === of) return true; if (s === 0) return false; } };
function active(m, state) { return actorNow().regions.some(region => region.s !== null && isIn(m, region.s, state)); }

function explain() {
  const m = machine(), actor = actorNow();
  if (!m || !actor || actor.gone) return;
  if (press) return explainPress(m);
  if (instant) return explainInstant(m);
  const mine = known.why && known.why.v === known.now.v ? known.why.of.find(each => each.a === chosen.actor) : null;
  const rules = mine ? mine.rules : [];
  const seen = index => rules.find(each => each.r === index && each.round === 0);
  const leaf = (actor.regions.find(region => region.s !== null) || {}).s;
  const state = chosen.state ?? leaf;
  if (state === undefined || state === null) return;
  const info = m.states[state], now = active(m, state);
  const isHalt = halts.some(halt => halt.on === 'state' && halt.i === state && halt.a === chosen.actor);
  const head = make('h3', {}, info.path || m.name,
    make('span', { class: 'faint' }, [now ? 'active' : 'not active', info.plays, info.final ? 'final' : '', info.sealed ? 'sealed' : '', ...info.traits].filter(Boolean).join(', ')),
    info.leaf && !now ? make('button', { onclick: () => ask([{ do: 'write', actor: chosen.actor, force: info.path }]), title: 'Make it active, whatever the rules say' }, 'Force') : null,
    make('button', { 'aria-pressed': String(isHalt), title: 'Stop time when it is entered', onclick: () => toggleHalt({ on: 'state', a: chosen.actor, i: state }) }, isHalt ? 'Halts here' : 'Halt when entered'),
    info.at ? make('button', { class: 'link', onclick: () => tell('goto', { file: info.at[0], line: info.at[1] }) }, `line ${info.at[1]}`) : null,
    chosen.state !== null ? make('button', { class: 'link', onclick: () => { chosen.state = null; light(); explain(); } }, 'back to what is active') : null,
    make('button', { class: 'link', title: 'Each rule that was looked at, round by round, with the values of then', onclick: () => lookAt(known.now.t) }, 'what was looked at at this instant'));
  const out = [head];
  const noteOf = (rule, index) => seen(index) || active(m, rule.owner) ? null : `no: ${m.states[rule.owner].path} is not active`;
  if (!now) {
    out.push(make('h4', {}, `Why not ${info.path}? What leads to it:`));
    const into = m.rules.map((rule, index) => [rule, index]).filter(([rule]) => isIn(m, rule.target, state) || isIn(m, state, rule.target));
    out.push(...(into.length ? into.map(([rule, index]) => line(rule, index, seen(index), noteOf(rule, index))) : [make('div', { class: 'faint' }, 'no rule; `to: back` may')]));
  } else {
    out.push(make('h4', {}, known.why && known.why.waits ? 'What was written waits. As things stand:' : 'Rules in effect, in their order, as they stand:'));
    const effect = m.rules.map((rule, index) => [rule, index]).filter(([rule]) => active(m, rule.owner) && (isIn(m, state, rule.owner)));
    out.push(...(effect.length ? effect.map(([rule, index]) => line(rule, index, seen(index), noteOf(rule, index))) : [make('div', { class: 'faint' }, 'no rule leads out of it')]));
  }
  const at = why.scrollTop;
  fill(why, out);
  why.scrollTop = at;
}

// A press that ran out: each rule that could have taken it, and what failed.
on('whypress', async one => {
  const got = await ask([{ do: 'considered', actor: chosen.actor, from: one.t, to: one.t + Math.min(one.life, 10 * SECOND) }]);
  if (!got) return;
  instant = null;
  press = { ...one, considered: got.considered };
  tell('show', 'machine');
  explain();
});
// What was looked at at an instant, round by round, with the values of then.
async function lookAt(t) {
  const got = await ask([{ do: 'considered', actor: chosen.actor, from: t, to: t }]);
  if (!got) return;
  press = null;
  instant = { t, considered: got.considered };
  explain();
}
function explainInstant(m) {
  const out = [make('h3', {}, `At ${seconds(instant.t, 6)}`, make('button', { class: 'link', onclick: () => { instant = null; explain(); } }, 'back to what is active'))];
  let round = -1, left = '';
  const gone = new Map();  // pulses that are taken, and by which round
  for (const each of instant.considered) {
    const pulse = m.rules[each.r].pulse;
    if (each.is === 'taken' && pulse !== null && !gone.has(pulse)) gone.set(pulse, each.round);
    if (each.round !== round) out.push(make('h4', {}, `round ${each.round + 1}`));
    round = each.round;
    // Of a state that was left, all rules at once.
    const owner = m.rules[each.r].owner, key = each.is === 'around' || each.is === 'left' ? `${round} ${owner}` : '';
    if (!key) {
      const taken = each.is === 'taken' ? 'taken' : each.is === 'event' && gone.get(pulse) < round ? `${m.inputs[pulse].name} was taken by a round before` : null;
      out.push(line(m.rules[each.r], each.r, each, taken));
    } else if (key !== left) {
      const count = instant.considered.filter(other => other.round === round && other.is === each.is && m.rules[other.r].owner === owner).length;
      out.push(make('div', { class: 'rule ' + each.is }, make('span', { class: 'dot' }),
        make('div', {}, `${m.states[owner].path}: ${count === 1 ? 'its rule' : `its ${count} rules`} `, make('span', { class: 'no' }, skipped(each)))));
    }
    left = key;
  }
  if (!instant.considered.length) out.push(make('div', { class: 'faint' }, 'Nothing was looked at: nothing happened at this very instant.'));
  fill(why, out);
}

function explainPress(m) {
  const input = m.inputs.findIndex(each => each.name === press.name);
  const out = [make('h3', {}, `Why nothing took ${press.name}, pressed at ${seconds(press.t)}`,
    make('span', { class: 'faint' }, press.life ? `it waited ${Math.round(press.life / SECOND * 1000)} ms` : 'it counts at its own instant only; give it a buffer to let it wait: {pulse: 110ms}'),
    make('button', { class: 'link', onclick: () => { press = null; explain(); } }, 'back to what is active'))];
  m.rules.forEach((rule, index) => {
    if (rule.pulse !== input) return;
    const all = press.considered.filter(each => each.r === index);
    if (!all.length) {
      out.push(line(rule, index, null, `no: ${m.states[rule.owner].path} was not active`));
      return;
    }
    const reasons = new Map();
    for (const each of all) reasons.set(each.is + each.by + JSON.stringify(each.parts), each);
    for (const each of reasons.values()) out.push(line(rule, index, each, each.is === 'event' ? 'it had run out' : null));
  });
  if (out.length === 1) out.push(make('div', { class: 'no' }, `no rule of this machine takes ${press.name}`));
  fill(why, out);
}

async function setHalts(list) {
  // What cannot be read is refused, and the others stay.
  if (await ask([{ do: 'halts', list }])) halts = list;
  $('halts').textContent = halts.length ? `${halts.length} halt${halts.length > 1 ? 's' : ''}` : 'Halts…';
  $('halts').setAttribute('aria-pressed', String(halts.length > 0));
  explain();
}
function toggleHalt(halt) {
  const same = each => each.on === halt.on && each.i === halt.i && each.a === halt.a && each.holds === halt.holds;
  setHalts(halts.some(same) ? halts.filter(each => !same(each)) : [...halts, halt]);
}
const textOf = halt => {
  const m = machine();
  if (halt.on === 'state') return m.states[halt.i].path + ' is entered';
  if (halt.on === 'rule') return `${m.rules[halt.i].text || 'always'} → ${m.rules[halt.i].to} is taken`;
  if (halt.on === 'cue') return m.cues[halt.i].name + ' is told';
  return halt.holds + ' becomes true';
};
// All halts, and new ones on a cue or on an expression.
$('halts').onclick = () => {
  const m = machine(), dialog = $('ask');
  const cue = make('select', { 'aria-label': 'Cue' }, m.cues.map((each, i) => make('option', { value: String(i) }, each.name)));
  const words = make('input', { type: 'text', placeholder: 'health < 3 and in(hurt)', 'aria-label': 'Expression', style: 'width:260px' });
  fill(dialog, make('form', { method: 'dialog' },
    make('p', {}, 'Time stops after the instant at which one of these comes about. States and rules are set in the graph’s panel.'),
    halts.map(halt => make('p', {}, textOf(halt), ' ', make('button', { onclick: () => toggleHalt(halt) }, 'Remove'))),
    m.cues.length ? make('p', {}, 'a cue: ', cue, ' ', make('button', { onclick: () => toggleHalt({ on: 'cue', a: chosen.actor, i: Number(cue.value) }) }, 'Halt when told')) : null,
    make('p', {}, 'an expression: ', words, ' ', make('button', { onclick: () => { if (words.value.trim()) toggleHalt({ on: 'holds', a: chosen.actor, i: 0, holds: words.value.trim() }); } }, 'Halt when true')),
    make('p', {}, make('button', { value: '' }, 'Close'))));
  dialog.onclose = null;
  dialog.showModal();
};

let last = 0, haltedAt = null;
on('why', explain);
// Where time halted: what was looked at there. As it goes on, what is active again.
on('now', () => {
  const at = known.now.halted ? known.now.t : null;
  if (at === haltedAt) { if (instant && known.now.playing) { instant = null; explain(); } return; }
  haltedAt = at;
  if (at !== null) lookAt(at);
  else { instant = null; explain(); }
});
on('now', () => {
  if (performance.now() - last < 100) { light(); return; }
  last = performance.now();
  loadGraph();
  light();
});
// Of a crowd that is watched: how many are in which state.
let countKey = '';
on('now', () => {
  const actor = actorNow(), m = machine(), crowd = actor && actor.notes && actor.notes.crowd;
  counts.hidden = !crowd;
  if (!crowd || !m) return;
  const key = m.fingerprint + JSON.stringify(crowd.counts);
  if (key === countKey) return;
  countKey = key;
  const most = Math.max(1, ...crowd.counts.map(each => each[1]));
  fill(counts, [...crowd.counts].sort((a, b) => b[1] - a[1]).map(([state, count]) => make('button', { title: 'Show this state', onclick: () => { press = instant = null; chosen.state = state; light(); explain(); } },
    m.states[state].path + ' ', make('b', {}, count.toLocaleString('en')), make('span', { class: 'bar', style: `width:${Math.round(60 * count / most)}px` }))));
});
on('actor', () => { press = instant = null; loadGraph(); explain(); });
on('tables', () => { loadGraph(); explain(); });
on('stretch', () => { press = null; chosen.state = null; loadGraph(); });
on('theme', loadGraph);
on('tab', () => { if (svg && !moved) { fit(); centre(); } });
addEventListener('resize', () => { if (!moved) { fit(); centre(); } });
