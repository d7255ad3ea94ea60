// The files: an editor with findings at their places; saving is reloading.
import { $, chosen, fill, get, known, machine, make, notice, on, send, tell, typing } from './base.js';

const bar = make('div', { id: 'filebar' }), box = make('div', { id: 'editor' });
$('files').append(bar, box);
let editor = null, file = null, text = null, hash = null, marks = [], widgets = [];

function names() {
  const m = machine(), out = new Set(['states', 'clip', 'go', 'when', 'pulse', 'at', 'after', 'to', 'during', 'restart', 'start', 'fade', 'do', 'traits', 'vars', 'enter', 'exit', 'speed', 'initial', 'sealed', 'final', 'linger', 'cues', 'marks', 'pivot', 'boxes', 'windows', 'spans', 'frames', 'fps', 'play', 'end', 'loop', 'back', 'true', 'false', 'and', 'or', 'not', 'in', 'abs', 'min', 'max']);
  if (m) {
    for (const each of m.states) out.add(each.path.replace(/.*\//, ''));
    for (const list of [m.inputs, m.cues, m.clips]) for (const each of list) out.add(each.name);
    for (const trait of m.traits) out.add(trait);
    for (const input of m.inputs) for (const choice of input.choices || []) out.add(choice);
  }
  out.delete('');
  return [...out].sort();
}
function complete(cm) {
  const at = cm.getCursor(), line = cm.getLine(at.line);
  let from = at.ch;
  while (from > 0 && /[\w-]/.test(line[from - 1])) from -= 1;
  const word = line.slice(from, at.ch);
  return { list: names().filter(name => name.startsWith(word) && name !== word), from: { line: at.line, ch: from }, to: at };
}

function build() {
  if (editor || !window.CodeMirror) return;
  editor = CodeMirror(box, { mode: 'yaml', lineNumbers: true, indentUnit: 2, tabSize: 2, viewportMargin: 50,
    extraKeys: { 'Ctrl-S': save, 'Cmd-S': save, 'Ctrl-Space': cm => cm.showHint({ hint: complete, completeSingle: false }),
      Tab: cm => cm.execCommand('insertSoftTab'), Esc: () => $('tabs').querySelector('[data-tab=files]').focus() } });
  editor.on('changes', () => { showBar(); keepDraft(); });
}
const dirty = () => editor && text !== null && editor.getValue() !== text;

// What is typed and not saved yet is kept on disk, so that neither a closed tab nor an ended program loses it.
let draftTimer = 0, drafted = false, draft = null;  // draft: the hash of what is kept there
let sending = Promise.resolve();  // one after the other, and none behind what is saved
function sendDraft() {
  clearTimeout(draftTimer);
  sending = sending.then(sendDraftNow);
  return sending;
}
async function sendDraftNow() {
  if (file === null || (!dirty() && !drafted)) return;
  const of = file;
  drafted = dirty();
  const done = await send('file/' + of, { draft: drafted ? editor.getValue() : null, hash }).catch(() => null);
  const kept = done && done.draft || null;
  if (file === of) draft = kept;
  // The list of files says it too, a moment later.
  if (known.files && known.files.files[of]) known.files.files[of].draft = kept;
}
function keepDraft() {
  clearTimeout(draftTimer);
  draftTimer = setTimeout(sendDraft, 400);
}
typing.hold = async () => {
  if (!editor) return;
  editor.setOption('readOnly', true);
  await sendDraft();
};
typing.free = () => { if (editor) editor.setOption('readOnly', false); };
typing.take = done => {
  if (file === null || !known.files || known.files.files[file].name !== done.file) return;
  draft = known.files.files[file].draft = done.draft;
  drafted = true;
  replaceWith(done.text);
};
// What differs is replaced, so that the cursor and what can be undone stay.
function replaceWith(words) {
  const before = editor.getValue();
  let first = 0, end = 0;
  while (first < before.length && first < words.length && before[first] === words[first]) first += 1;
  while (end < before.length - first && end < words.length - first && before[before.length - 1 - end] === words[words.length - 1 - end]) end += 1;
  editor.replaceRange(words.slice(first, words.length - end), editor.posFromIndex(first), editor.posFromIndex(before.length - end));
}

let asked = 0;  // how often a file was asked for: of two that are on their way the later one counts
async function open(number, line) {
  build();
  if (file !== number && dirty() && !confirm('What you typed is not saved. Leave it?')) return;
  const mine = asked += 1;
  if (file !== number || text === null) {
    try {
      const before = editor.getValue(), got = await get('file/' + number);
      if (mine !== asked || editor.getValue() !== before) return;
      file = number; text = got.text; hash = got.hash;
      editor.setOption('mode', 'yaml');
      editor.setValue(text);
      editor.clearHistory();
      if (got.draft !== undefined && got.draft !== null && got.draft !== text) {
        replaceWith(got.draft);
        drafted = true;
        draft = known.files && known.files.files[number].draft || null;
        notice('What you had typed here and not saved is back. Ctrl-Z shows what the file holds.');
      }
    } catch (error) { if (mine === asked) notice(error.message, true); return; }
  }
  showBar();
  mark();
  editor.refresh();
  if (line) {
    editor.setCursor({ line: line - 1, ch: 0 });
    editor.scrollIntoView({ line: line - 1, ch: 0 }, 120);
    const handle = editor.addLineClass(line - 1, 'background', 'line-shown');
    setTimeout(() => editor.removeLineClass(handle, 'background', 'line-shown'), 2500);
    editor.focus();
  }
}

async function save() {
  if (!dirty()) return;
  clearTimeout(draftTimer);
  const of = file;
  await sending;
  if (file !== of) return;
  const now = editor.getValue();
  try {
    const done = await send('file/' + of, { text: now, hash });
    if (file === of) {
      text = now; hash = done.hash;
      if (dirty()) keepDraft();
      else drafted = false, draft = null;
    }
    notice(done.loads ? `Saved ${done.file}; it plays on with it.` : `Saved ${done.file}. It does not load: what was loaded before goes on.`, !done.loads);
  } catch (error) {
    if (error.status !== 409 || !error.answer.now) { notice('Not saved: ' + error.message, true); return; }
    // Both texts are there: whoever typed decides.
    const dialog = $('ask');
    fill(dialog, make('form', { method: 'dialog' }, make('p', {}, error.message + '. Yours is in the editor; this is what stands in the file:'),
      make('textarea', { rows: '14', cols: '70', readonly: true }, error.answer.now), make('p', {},
        make('button', { value: 'mine' }, 'Write mine over it'), ' ', make('button', { value: 'theirs' }, 'Take the file’s'), ' ', make('button', { value: '' }, 'Decide later'))));
    dialog.onclose = () => {
      if (dialog.returnValue === 'mine') { hash = error.answer.hash; text = error.answer.now; save(); }
      if (dialog.returnValue === 'theirs') { text = error.answer.now; hash = error.answer.hash; editor.setValue(text); }
    };
    dialog.returnValue = '';
    dialog.showModal();
  }
  showBar();
}

function showBar() {
  if (!known.files) return;
  fill(bar, known.files.files.map((each, i) => make('button', { class: 'name', 'aria-pressed': String(i === file), onclick: () => open(i) }, each.name + (i === file && dirty() ? ' •' : ''))),
    make('span', { class: 'space' }), make('button', { disabled: !dirty(), onclick: save, title: 'Ctrl-S' }, 'Save and reload'));
}

function mark() {
  if (!editor || !known.findings || file === null) return;
  editor.operation(() => {
    for (const each of marks) editor.removeLineClass(each, 'background');
    for (const each of widgets) each.clear();
    marks = []; widgets = [];
    for (const each of known.findings.list) {
      if (each.file !== file || !each.line || each.line > editor.lineCount()) continue;
      if (each.level !== 'hint') marks.push(editor.addLineClass(each.line - 1, 'background', 'line-' + each.level));
      widgets.push(editor.addLineWidget(each.line - 1, make('div', { class: 'widget ' + each.level }, each.message + '  ', make('span', { class: 'faint' }, each.remedy))));
    }
  });
}

on('files', async () => {
  showBar();
  if (file === null || text === null || !known.files.files[file]) return;
  const of = file, listed = known.files.files[of];
  if (dirty() && listed.draft && draft && listed.draft !== draft && document.activeElement !== editor.getInputField()) {
    // An edit on a frame, made elsewhere, went into what is typed here.
    const got = await get('file/' + of).catch(() => null);
    if (got && got.draft && file === of) { draft = listed.draft; replaceWith(got.draft); }
    return;
  }
  if (listed.hash === hash || dirty()) return;
  // Changed from outside, or by an edit on a frame, and nothing is typed here.
  const at = editor.getScrollInfo(), got = await get('file/' + of).catch(() => null);
  if (!got || dirty() || file !== of) return;
  text = got.text; hash = got.hash;
  editor.setValue(text);
  editor.scrollTo(at.left, at.top);
  mark();
});
on('findings', mark);
on('goto', place => { tell('show', 'files'); open(place.file, place.line); });
on('tab', () => { if (chosen.tab === 'files') { if (file === null) open(0); else if (editor) editor.refresh(); } });
addEventListener('beforeunload', event => { if (dirty()) event.preventDefault(); });
