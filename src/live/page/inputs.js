// Inputs under the fingers: a control for each, and keys of the keyboard where the stage has the focus.
import { $, SECOND, actorNow, ask, chosen, fill, known, machine, make, on } from './base.js';
import { past, plot } from './past.js';

let built = null;       // for which machine and actor the controls stand
let controls = [];
let bound = new Map();  // a key's code: what it does
const down = new Set();

const NAMES = { ArrowLeft: '←', ArrowRight: '→', ArrowUp: '↑', ArrowDown: '↓', Space: 'space', ShiftLeft: 'shift', ControlLeft: 'ctrl' };
const keyName = code => NAMES[code] || code.replace(/^Key|^Digit/, '').toLowerCase();
const isNumber = input => input.kind === 'int' || input.kind === 'float';
const round = value => Math.round(value * 1000) / 1000;

function write(set, press) {
  const one = { do: 'write', actor: chosen.actor };
  if (set) one.set = set;
  if (press) one.press = press;
  return ask([one]);
}

// Keys that the file names, else such as most hands expect.
function bind(m) {
  const out = new Map(), free = ['Space', 'KeyX', 'KeyC', 'KeyV', 'KeyB', 'KeyN', 'KeyM', 'KeyZ', 'KeyQ', 'KeyE', 'KeyR', 'KeyF', 'KeyG'];
  const numbers = [['ArrowLeft', 'ArrowRight'], ['ArrowDown', 'ArrowUp'], ['KeyA', 'KeyD'], ['KeyS', 'KeyW']];
  let digit = 1;
  for (const input of m.inputs) for (const code of m.keys[input.name] || []) out.set(code, input);
  const codes = new Map();
  for (const input of m.inputs) {
    let own = m.keys[input.name];
    if (!own) {
      const take = list => { while (list.length && out.has(list[0])) list.shift(); return list.length ? [list.shift()] : []; };
      if (input.kind === 'pulse') own = take(free);
      else if (input.kind === 'float' && input.min < 0 && input.max > 0) {
        while (numbers.length && numbers[0].some(code => out.has(code))) numbers.shift();
        own = numbers.length ? numbers.shift() : [];
      } else if (input.kind === 'bool' || input.kind === 'choice') own = digit <= 9 ? ['Digit' + digit++] : [];
      else own = [];
      own = own.filter(code => !out.has(code));
      for (const code of own) out.set(code, input);
    }
    codes.set(input.name, own);
  }
  bound = new Map();
  for (const input of m.inputs) codes.get(input.name).forEach((code, i) => bound.set(code, { input, i, keys: codes.get(input.name) }));
  return codes;
}

const ends = input => [Math.max(input.min, -1e6), Math.min(input.max, 1e6)];

function control(input, index, keys) {
  const caps = keys.map(code => make('kbd', {}, keyName(code)));
  const name = make('span', { class: 'name', title: input.name }, input.name);
  const give = make('button', { class: 'give', title: 'Your hand holds it; click to let the tape set it again', onclick: () => ask([{ do: 'give_back', actor: chosen.actor, input: input.name }]) }, 'yours ✕');
  const out = { input, index, give, root: null, show() {} };
  if (input.kind === 'pulse') {
    const button = make('button', { class: 'press', onclick: () => write(null, [input.name]) }, input.name);
    out.root = make('div', { class: 'input' }, button, caps, make('span', { class: 'faint' }, input.buffer ? Math.round(input.buffer / SECOND * 1000) + ' ms' : ''), give);
    out.show = alive => button.classList.toggle('alive', alive);
  } else if (input.kind === 'bool') {
    const box = make('input', { type: 'checkbox', 'aria-label': input.name, onchange: () => write({ [input.name]: box.checked }) });
    out.root = make('label', { class: 'input roomy' }, name, box, caps, give);
    out.show = value => { box.checked = value; };
  } else if (input.kind === 'choice') {
    const each = keys.length > 1;  // a key for each choice stands in its button
    const buttons = input.choices.map((choice, i) => make('button', { onclick: () => write({ [input.name]: choice }) }, choice, each && caps[i] ? [' ', caps[i]] : null));
    out.root = make('div', { class: 'input', role: 'group', 'aria-label': input.name }, name, make('span', { class: 'choices' }, buttons), each ? null : caps, give);
    if (each || input.choices.join('').length > 18) out.root.classList.add('wide', 'roomy');
    out.show = value => buttons.forEach((button, i) => button.setAttribute('aria-pressed', input.choices[i] === value));
  } else {
    const [low, high] = ends(input);
    const bounded = input.min > -1e6 && input.max < 1e6;
    const step = input.kind === 'int' ? 1 : input.grain > 0 ? input.grain : bounded ? (high - low) / 200 : 0.01;
    const value = make('output', {});
    const field = make('input', bounded
      ? { type: 'range', min: String(low), max: String(high), step: String(step), 'aria-label': input.name }
      : { type: 'number', step: String(step), 'aria-label': input.name, style: 'width:76px' });
    field.addEventListener('input', () => { if (field.value !== '') write({ [input.name]: Number(field.value) }); });
    if (bounded && input.min < 0 && input.max > 0) field.addEventListener('dblclick', () => write({ [input.name]: 0 }));
    out.root = make('div', { class: 'input' }, name, field, bounded ? value : null, caps, give);
    out.show = now => {
      value.textContent = String(round(now));
      if (document.activeElement !== field || bounded) field.value = String(now);
    };
  }
  return out;
}

const rate = make('input', { type: 'range', min: '0', max: '2', step: '0.05', value: '1', 'aria-label': 'Rate of this actor' });
rate.addEventListener('input', () => ask([{ do: 'write', actor: chosen.actor, rate: Number(rate.value) }]));
const rateValue = make('output', {});
const vars = make('div', { id: 'vars', class: 'wide' });

// What the game's code has asked for, and of a crowd which member is looked at.
const tickets = make('div', { id: 'tickets', class: 'wide', 'aria-label': 'Tickets' });
const look = place => ask([{ do: 'member', actor: chosen.actor, place }]);
const place = make('input', { type: 'number', min: '0', id: 'place', 'aria-label': 'Place of the member that is looked at', onchange: () => { if (place.value !== '') look(Number(place.value)); } });
const members = make('div', { id: 'members', class: 'wide' }, 'member at place ', place,
  make('button', { 'aria-label': 'The place before', onclick: () => look(Math.max(0, Number(place.value) - 1)) }, '◂'), make('button', { 'aria-label': 'The next place', onclick: () => look(Number(place.value) + 1) }, '▸'),
  make('span', { id: 'ofmembers', class: 'faint' }));

function build(m) {
  const codes = bind(m);
  controls = m.inputs.map((input, i) => control(input, i, codes.get(input.name)));
  const pulses = controls.filter(each => each.input.kind === 'pulse');
  fill($('inputs'), controls.filter(each => each.input.kind !== 'pulse').map(each => each.root),
    make('div', { class: 'input', title: 'Slow motion for this actor alone' }, make('span', { class: 'name' }, 'its rate'), rate, rateValue),
    make('div', { class: 'presses wide' }, pulses.map(each => each.root),
      make('button', { title: 'Hit-stop of 100 ms', onclick: () => ask([{ do: 'write', actor: chosen.actor, freeze: Math.round(0.1 * SECOND) }]) }, 'Freeze'),
      make('button', { title: 'Back to the initial states', onclick: () => ask([{ do: 'write', actor: chosen.actor, reset: true }]) }, 'Reset')),
    vars);
  $('inputs').prepend(members, tickets);
  // Names stand in a column as wide as the longest, as far as a slider beside it allows.
  const box = $('inputs');
  box.style.removeProperty('--names');
  const longest = Math.max(...[...box.querySelectorAll('.input:not(.roomy) > .name')].map(each => each.scrollWidth));
  box.style.setProperty('--names', Math.max(66, Math.min(118, longest)) + 'px');
}

on('now', () => {
  const m = machine(), actor = actorNow();
  if (!m || !actor || actor.gone || !actor.inputs) return;
  const key = m.fingerprint + chosen.actor + known.now.v;
  if (built !== key) { built = key; build(m); }
  for (const each of controls) {
    each.show(actor.inputs[each.index]);
    each.give.hidden = !actor.held.includes(each.index) || (known.now.game && known.now.game.attached) || (known.now.actors.length === 1 && !past.writes.some(write => write.tape));
  }
  rateValue.textContent = String(round(actor.rate));
  if (document.activeElement !== rate) rate.value = String(actor.rate);
  fill(vars, actor.vars.map(([state, name, value]) => [make('button', { class: 'link', title: 'Draw it over time, below', onclick: () => plot(name) }, (state ? state + '/' : '') + name), ' ', make('b', {}, typeof value === 'number' ? String(round(value)) : String(value)), '   ']).flat(),
    actor.traits.length ? 'is ' + actor.traits.join(', ') : null);
  const notes = actor.notes;
  fill(tickets, !notes ? null : !notes.tickets.length ? 'the game’s code holds no ticket' : notes.tickets.map(([status, pulse, state]) => make('span', { class: 'ticket ' + status }, `${pulse === null ? 'follows' : 'asked ' + m.inputs[pulse].name}${state === null ? '' : ' → ' + m.states[state].path}: `, make('b', {}, status))));
  const crowd = notes && notes.crowd;
  tickets.hidden = !notes || !!crowd;
  members.hidden = !crowd;
  if (crowd) {
    $('place').max = String(Math.max(0, crowd.places - 1));
    if (document.activeElement !== $('place') && crowd.place !== null) $('place').value = String(crowd.place);
    $('ofmembers').textContent = crowd.place === null ? `nobody is at this place; ${crowd.members.toLocaleString('en')} members` : `of ${crowd.members.toLocaleString('en')} members`;
  }
});
on('actor', () => { built = null; });

// --- keys: with the focus on the stage they go to the game ------------------------------------------------------------

function turn(code, pressed) {
  const key = bound.get(code);
  if (!key) return false;
  const { input, i, keys } = key;
  if (input.kind === 'pulse') { if (pressed) write(null, [input.name]); return true; }
  if (input.kind === 'bool') { if (pressed) write({ [input.name]: !actorNow().inputs[machine().inputs.indexOf(input)] }); return true; }
  if (input.kind === 'choice') {
    if (!pressed) return true;
    const at = input.choices.indexOf(actorNow().inputs[machine().inputs.indexOf(input)]);
    write({ [input.name]: input.choices[keys.length > 1 ? i : (at + 1) % input.choices.length] });
    return true;
  }
  if (isNumber(input)) {
    // Of two keys the one pressed last counts; none held: the middle, or the lower end.
    const [low, high] = ends(input);
    const rest = low < 0 && high > 0 ? 0 : low;
    const held = [...keys].filter(each => down.has(each));
    const last = pressed ? code : held[held.length - 1];
    const value = last === undefined ? rest : keys.length === 1 ? high : keys.indexOf(last) === 0 ? low : high;
    write({ [input.name]: value });
  }
  return true;
}
$('stagebox').addEventListener('keydown', event => {
  if (event.key === 'Escape') { $($('play').disabled ? 'step' : 'play').focus(); return; }
  if (event.ctrlKey || event.metaKey || event.altKey || event.repeat && bound.has(event.code)) { if (event.repeat) event.preventDefault(); return; }
  if (!bound.has(event.code) || down.has(event.code)) return;
  event.preventDefault();
  down.add(event.code);
  turn(event.code, true);
});
$('stagebox').addEventListener('keyup', event => {
  if (!down.delete(event.code)) return;
  event.preventDefault();
  turn(event.code, false);
});
function release() { for (const code of [...down]) { down.delete(code); turn(code, false); } }
$('stagebox').addEventListener('blur', () => { release(); note(); });
addEventListener('blur', release);
$('stagebox').addEventListener('focus', note);
function note() {
  $('focusnote').textContent = document.activeElement === $('stagebox') ? 'Keys go to the game. Esc leaves.' : 'Click here, and keys go to the game.';
}
note();

// --- game pads: while the stage has the focus, the first stick writes numbers with two ends, buttons press pulses --------

const held = new Map();
function pads() {
  requestAnimationFrame(pads);
  const pad = navigator.getGamepads ? [...navigator.getGamepads()].find(Boolean) : null, m = machine();
  if (!pad || !m || document.activeElement !== $('stagebox')) return;
  const sticks = m.inputs.filter(input => input.kind === 'float' && input.min < 0 && input.max > 0).slice(0, 2);
  sticks.forEach((input, axis) => {
    const raw = pad.axes[axis] || 0, part = Math.abs(raw) < 0.15 ? 0 : Math.round(raw * 50) / 50 * (axis === 1 ? -1 : 1);
    if (held.get(input.name) === part || (part === 0 && !held.has(input.name))) return;
    held.set(input.name, part);
    write({ [input.name]: part < 0 ? -part * Math.max(input.min, -1e6) : part * Math.min(input.max, 1e6) });
  });
  m.inputs.filter(input => input.kind === 'pulse').forEach((input, i) => {
    const pressed = !!(pad.buttons[i] && pad.buttons[i].pressed);
    if (pressed && !held.get(input)) write(null, [input.name]);
    held.set(input, pressed);
  });
}
if (navigator.getGamepads) requestAnimationFrame(pads);
