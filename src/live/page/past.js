// What happened and what was written in the stretch of time that the lanes show.
import { SECOND, ask, chosen, get, known, on, tell } from './base.js';

export const past = { from: 0, to: 0, records: [], writes: [], strands: new Map() };
export const view = { from: 0, span: 10 * SECOND, follows: true };

let asked = false, again = false, last = 0;
export async function fetchPast() {
  if (asked) { again = true; return; }
  asked = true;
  const wait = last + 120 - performance.now();
  if (wait > 0) await new Promise(done => setTimeout(done, wait));
  last = performance.now();
  again = false;
  const from = Math.max(0, Math.floor(view.from - view.span * 0.25)), to = Math.ceil(view.from + view.span * 1.25);
  try {
    const got = await get(`past?from=${from}&to=${to}`);
    past.records = got.records;
    past.writes = got.writes;
    past.from = from;
    past.to = to;
    const ids = new Set((known.now ? known.now.strands : []).map(strand => strand.id));
    for (const id of past.strands.keys()) if (!ids.has(id)) past.strands.delete(id);
    for (const id of ids) if (!past.strands.has(id)) past.strands.set(id, (await get('past?strand=' + id)).records);
    tell('pastread');
  } catch (error) { /* the stream says it */ }
  asked = false;
  if (again) fetchPast();
}
// Expressions that are drawn over time: what they give, by their words.
export const plots = new Map();
export function plot(expression) {
  if (plots.has(expression)) plots.delete(expression); else plots.set(expression, []);
  plotted = 0;
  fetchPlots();
  tell('pastread');
}
let plotted = 0, plotting = false;
// Running it again takes the host some time, so no more than four times a second.
async function fetchPlots() {
  if (!plots.size || plotting || performance.now() - plotted < 250 || !known.now || document.hidden) return;
  plotting = true;
  const from = Math.max(known.now.first, Math.floor(view.from)), to = Math.min(known.now.end, Math.ceil(view.from + view.span), from + 60 * SECOND);
  for (const expression of [...plots.keys()]) {
    if (to < from) break;
    const got = await ask([{ do: 'plot', actor: chosen.actor, expression, from, to }]);
    if (!got) plots.delete(expression);
    else if (plots.has(expression)) plots.set(expression, Object.assign(got.plots[expression], { to }));
  }
  plotted = performance.now();
  plotting = false;
  tell('pastread');
}
on('now', fetchPlots);
on('actor', () => { plots.clear(); });
on('past', fetchPast);
on('stretch', fetchPast);
