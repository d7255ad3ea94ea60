// The page begins: the stream of what is so, the top bar, the tabs, keys of the page.
import { $, SECOND, actorNow, ask, choose, chosen, fill, get, known, machine, make, notice, on, seconds, tables, tell } from './base.js';
import { onStage } from './stage.js';
import { plots } from './past.js';
import './inputs.js';
import './lanes.js';
import './machine.js';
import './clip.js';
import './files.js';
import './findings.js';
import './sound.js';

// --- the stream -----------------------------------------------------------------------------------------------------

const fetching = new Set();
async function needTables(stretch) {
  if (known.tables.has(stretch) || fetching.has(stretch)) return;
  fetching.add(stretch);
  try {
    known.tables.set(stretch, await get('tables/' + stretch));
    tell('tables');
    if (known.now) tell('now');
  } catch (error) { notice(error.message, true); }
  fetching.delete(stretch);
}

function listen() {
  const stream = new EventSource('events');
  const take = (name, call) => stream.addEventListener(name, event => call(JSON.parse(event.data)));
  take('hello', hello => {
    if (known.hello && known.hello.session !== hello.session) return location.reload();  // another program serves now
    known.hello = hello;
    document.title = hello.file.replace(/.*\//, '') + ' — Mobrin live';
    needTables(hello.stretch);
    ask([{ do: 'choose', actor: chosen.actor }]);
  });
  take('now', now => {
    const before = known.now;
    known.now = now;
    needTables(now.v);
    if (chosen.actor >= now.actors.length) choose(0);
    if (!before || before.v !== now.v) tell('stretch');
    if (!before || before.past !== now.past) tell('past');
    tell('now');
  });
  for (const name of ['why', 'files', 'findings']) take(name, value => { known[name] = value; tell(name); });
  take('full', full => {
    stream.close();
    notice(`${full.viewers} pages look on already. This one comes in once another is closed.`, true);
    setTimeout(() => { if (!document.hidden && current() === stream) again(); }, 2000);
  });
  stream.onerror = () => { if (stream.readyState === EventSource.CONNECTING) $('next').textContent = 'the program does not answer…'; };
  return stream;
}
let stream = listen();
function current() { return stream; }
function again() { stream = listen(); }
// Browsers allow few connections to a host: a page that nobody sees keeps none.
document.addEventListener('visibilitychange', () => {
  if (document.hidden) stream.close();
  else again();
});

// --- the top bar ----------------------------------------------------------------------------------------------------

const speeds = [4, 2, 1, 1 / 2, 1 / 4, 1 / 8, 1 / 16, 1 / 32, 1 / 64];
fill($('speed'), speeds.map(speed => make('option', { value: String(speed) }, speed >= 1 ? speed + '×' : '1/' + 1 / speed)));
$('speed').onchange = () => ask([{ do: 'speed', value: Number($('speed').value) }]);
const playing = () => known.now && known.now.playing;
$('play').onclick = () => ask([{ do: 'play', on: !playing() }]);
$('step').onclick = () => ask([{ do: 'step' }]);
$('back').onclick = () => ask([{ do: 'step', back: true }]);
$('again').onclick = async () => { if (await ask([{ do: 'again' }])) notice('The same presses, with the newest file. What was is kept below.'); };
$('undo').onclick = async () => { const done = await ask([{ do: 'undo' }]); if (done) notice('Taken back: ' + done.what); };
$('redo').onclick = async () => { const done = await ask([{ do: 'redo' }]); if (done) notice('Made again: ' + done.what); };
$('takeout').onclick = async () => { if (await ask([{ do: 'take_out' }])) notice('This instant is yours now: play it, write, go back. The game goes on by itself.'); };
$('count').onclick = () => show('findings');
$('actor').onchange = () => {
  const value = $('actor').value;
  if (value.startsWith('clock ')) ask([{ do: 'clock', name: value.slice(6) }]); else choose(Number(value));
};

let actorNames = '';
on('now', () => {
  const now = known.now;
  $('play').textContent = now.playing ? 'Pause' : 'Play';
  $('play').setAttribute('aria-pressed', now.playing);
  $('play').disabled = known.hello && known.hello.still;
  if (document.activeElement !== $('speed')) $('speed').value = String(now.speed);
  fill($('clock'), make('b', {}, seconds(now.t)), make('span', { class: 'faint' }, ' ' + now.t.toLocaleString('en').replaceAll(',', ' ')));
  $('clock').title = 'Seconds, and ticks of 1/705,600,000 s';
  let next = now.next === null ? 'nothing is due' : now.next <= now.t ? 'due now' : 'next in ' + seconds(now.next - now.t);
  if (now.t < now.end) next = `in the past: ${seconds(now.end - now.t, 2)} before the newest`;
  if (now.waits) next = 'a write waits for time to go on';
  if (now.halted) next = 'halted: ' + haltText(now.halted);
  const game = now.game;
  if (game && game.attached) next = game.ended ? 'the game has ended' : now.t < now.end ? `looking back: ${seconds(now.end - now.t, 2)} before the game’s now` : 'a running game' + (game.gaps > 1 ? `, ${game.gaps - 1} gaps` : '');
  $('takeout').hidden = !game || !game.attached;
  for (const id of ['play', 'again', 'speed']) $(id).hidden = !!game && game.attached;
  $('next').textContent = next;
  $('next').title = next;
  const others = game && game.attached ? game.elsewhere : [];
  const names = now.actors.map(actor => actor.name + (actor.gone ? ' (gone)' : '')).join('\n') + others.map(each => '\n' + each[0]);
  if (names !== actorNames) {
    actorNames = names;
    fill($('actor'), now.actors.map((actor, i) => actor.gone ? null : make('option', { value: String(i) }, actor.name)),
      others.map(([name]) => make('option', { value: 'clock ' + name }, `${name} (another clock)`)));
  }
  $('actor').value = String(chosen.actor);
});
function haltText(halt) {
  const m = tables() && known.now.actors[halt.a] && tables().machines[known.now.actors[halt.a].m];
  if (!m) return '';
  if (halt.on === 'state') return m.states[halt.i].path + ' was entered';
  if (halt.on === 'rule') return (m.rules[halt.i].text || 'always') + ' → ' + m.rules[halt.i].to;
  if (halt.on === 'cue') return m.cues[halt.i].name + ' was told';
  return halt.holds;
}
on('files', () => {
  $('undo').disabled = !known.files.undo;
  $('undo').title = known.files.undo ? 'Take back: ' + known.files.undo : 'Nothing was changed here yet';
  $('redo').disabled = !known.files.redo;
});
on('findings', () => {
  const list = known.findings.list, count = level => list.filter(each => each.level === level).length;
  const worst = ['error', 'warning', 'hint'].find(count);
  const text = worst ? `${count(worst)} ${worst}${count(worst) > 1 ? 's' : ''}` : 'no findings';
  $('count').textContent = known.findings.checking ? 'checking…' : text;
  $('count').className = worst === 'error' || worst === 'warning' ? 'wrong' : '';
  if (known.findings.broken) notice('The file does not load; what was loaded before goes on.\n' + (list[0] ? `${list[0].name}:${list[0].line}: ${list[0].message}` : ''), true);
});

// --- tabs -----------------------------------------------------------------------------------------------------------

const tabs = [...document.querySelectorAll('#tabs button')];
function show(name) {
  chosen.tab = name;
  for (const tab of tabs) {
    const is = tab.dataset.tab === name;
    tab.setAttribute('aria-selected', is);
    tab.tabIndex = is ? 0 : -1;
    $(tab.dataset.tab).classList.toggle('shown', is);
    $(tab.dataset.tab).classList.toggle('beside', tab.dataset.tab === 'machine' && !is);
  }
  tell('tab');
}
for (const tab of tabs) {
  tab.onclick = () => show(tab.dataset.tab);
  tab.onkeydown = event => {
    const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    if (!by) return;
    const next = tabs[(tabs.indexOf(tab) + by + tabs.length) % tabs.length];
    show(next.dataset.tab);
    next.focus();
  };
}
on('show', show);
show('machine');
if (matchMedia('(min-width: 2000px)').matches) show('clip');

// --- keys of the page, where neither the stage nor a field has them --------------------------------------------------

document.addEventListener('keydown', event => {
  const at = document.activeElement;
  if (event.ctrlKey || event.altKey || event.metaKey) return;
  if (at === $('stagebox') || at.closest('input, select, textarea, .CodeMirror, dialog')) return;
  const now = known.now;
  if (!now) return;
  const does = {
    p: () => $('play').click(), '.': () => $('step').click(), ',': () => $('back').click(),
    End: () => ask([{ do: 'jump', ticks: now.end }]), Home: () => ask([{ do: 'jump', ticks: now.first }]),
    s: () => $('stagebox').focus(), u: () => $('undo').click(),
    1: () => show('machine'), 2: () => show('clip'), 3: () => show('files'), 4: () => show('findings'),
  }[event.key];
  if (!does) return;
  event.preventDefault();
  does();
});
$('stagebox').focus();
window.mobrin = { known, chosen, ask, SECOND, machine, actorNow, onStage, plots };  // for tests and the curious
