// Findings of the files that play, each leading to its place; a witness can be played.
import { $, ask, chosen, fill, get, known, make, notice, on, tell } from './base.js';

const list = make('div', { class: 'list' });
$('findings').append(list);

async function play(witness) {
  try {
    const text = await get('witness/' + witness);
    await ask([{ do: 'write', actor: chosen.actor, reset: true }]);
    if (await ask([{ do: 'load', actor: chosen.actor, text }])) { notice('Its presses come now, after a reset. What was is kept as a future below.'); ask([{ do: 'play', on: true }]); }
  } catch (error) { notice(error.message, true); }
}

on('findings', () => {
  const all = known.findings.list;
  fill(list, known.findings.broken ? make('p', { class: 'wrong' }, 'The files do not load. What was loaded before goes on.') : null,
    all.map(each => make('div', { class: 'finding ' + each.level },
      make('span', { class: 'level' }, each.level), ' ',
      each.file === null ? make('span', { class: 'faint' }, each.name) : make('button', { class: 'link', onclick: () => tell('goto', { file: each.file, line: each.line }) }, `${each.name}:${each.line}`),
      ' ', make('span', { class: 'code' }, each.code),
      make('div', {}, each.message), make('div', { class: 'faint' }, each.remedy),
      each.witness === undefined ? null : make('button', { onclick: () => play(each.witness) }, 'Play the run that shows it'))),
    all.length ? null : make('p', { class: 'faint' }, known.findings.checking ? 'Checking…' : 'Nothing is wrong, as far as can be told.'));
});
