// What happened and what was written in the stretch of time that the lanes show.
import { SECOND, get, known, on, tell } from './base.js';

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
on('past', fetchPast);
on('stretch', fetchPast);
