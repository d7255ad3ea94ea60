// Sounds at the head, from the first click on; none while time is dragged or far from its own pace.
import { $, SECOND, known, machineOf, on, tables } from './base.js';
import { past } from './past.js';

let context = null, heard = -1;
const buffers = new Map();
addEventListener('pointerdown', () => { if (!context && window.AudioContext) context = new AudioContext(); }, { once: true });
addEventListener('keydown', () => { if (!context && window.AudioContext) context = new AudioContext(); }, { once: true });

async function bufferOf(number) {
  if (!buffers.has(number))
    buffers.set(number, fetch('sound/' + number).then(reply => reply.ok ? reply.arrayBuffer() : null).then(bytes => bytes ? context.decodeAudioData(bytes) : null).catch(() => null));
  return buffers.get(number);
}

on('pastread', async () => {
  const now = known.now, table = tables();
  if (!context || !now || !table || $('mute').checked) return;
  const runs = now.playing && now.speed >= 0.25 && now.t >= now.end - 0.1 * SECOND;
  const from = runs ? Math.max(heard, now.t - 0.1 * SECOND) : now.t;  // what is 100 ms late is not played
  if (heard > now.t) heard = now.t;
  if (runs)
    for (const record of past.records) {
      if (record.k !== 'cue' || record.t <= from || record.t > now.t || record.e === 'end') continue;
      const actor = now.actors[record.a], cue = actor && machineOf(actor) && machineOf(actor).cues[record.c];
      if (!cue || cue.sound === undefined) continue;
      const buffer = await bufferOf(table.sounds[cue.sound]);
      if (!buffer) continue;
      const source = context.createBufferSource();
      source.buffer = buffer;
      source.connect(context.destination);
      source.start();
    }
  heard = now.t;
});
