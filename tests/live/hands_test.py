#!/usr/bin/env python3
"""The live page in a browser: boxes and shapes by hand, typing and drawing at once, plots, sounds, game pads."""
import io
import os
import sys
import time
import unittest
import wave

from selenium.common.exceptions import StaleElementReferenceException
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

sys.path.insert(0, os.path.dirname(os.path.abspath(__file__)))
from browse import SECOND, PageCase  # noqa: E402
from serve import Stream  # noqa: E402

EDITOR = "document.querySelector('#editor .CodeMirror').CodeMirror"


def sound():
    out = io.BytesIO()
    with wave.open(out, "wb") as stream:
        stream.setparams((1, 2, 8000, 0, "NONE", ""))
        stream.writeframes(bytes(1600))
    return out.getvalue()


class Hands(PageCase):
    def test_a_box_is_copied_to_another_clip(self):
        self.open()
        before = self.served.read("keeper.marks.yaml")
        self.click("[data-tab=clip]")
        self.pick("#clip .head select", "net")
        self.click(".frame[data-frame='3']")
        self.js("[...document.querySelectorAll('#marks .mark')].find(each => each.textContent.startsWith('nethit')).click()")
        self.click("[aria-label='Copy the box net']")
        self.pick("#clip .head select", "idle")
        self.click(".frame[data-frame='1']")
        self.click_on("#marks h4 button", "put net here")
        boxes = "mobrin.machine().clips.find(c => c.name === 'idle').boxes"
        self.until(f"return mobrin.known.now.newest === 1 && {boxes}.some(b => b.name === 'net')")
        copy = self.js(f"return {boxes}.find(b => b.name === 'net')")
        first = self.js("return mobrin.machine().clips.find(c => c.name === 'net').boxes.find(b => b.name === 'net')")
        self.assertEqual((copy["stretches"], copy["shape"], copy["role"], copy["hits"]), ([{"first": 1, "last": 1}], first["shape"], first["role"], first["hits"]))
        self.click("#undo")
        self.until("return mobrin.known.now.newest === 2")
        self.assertEqual(self.served.read("keeper.marks.yaml"), before)

    def test_a_reach_is_dragged_on_the_stage(self):
        self.open()
        self.pick("#shape", "reach net_reach")
        # Where its handles lie: the machine stands alone, its pivot at the stage's middle.
        place = """const actor = mobrin.actorNow(), m = mobrin.machine();
            const at = mobrin.onStage(actor, m), [x, y, length] = m.reaches[0].shape.cone;
            return [at.x(x + length) - 280, at.y(y) - 210, at.x(x + length / 2) - 280, at.size];"""
        x, y, middle, size = self.js(place)
        stage = self.find("#stage")
        ActionChains(self.driver).move_to_element_with_offset(stage, round(x), round(y)).click_and_hold().move_by_offset(round(4 * size), 0).release().perform()
        self.until("return mobrin.known.now.newest === 1")
        self.assertIn("{tip: [0, 12], length: 30, angle: 75}", self.served.read("keeper.yaml"))
        ActionChains(self.driver).move_to_element_with_offset(stage, round(middle), round(y)).click_and_hold().move_by_offset(round(2 * size), round(-3 * size)).release().perform()
        self.until("return mobrin.known.now.newest === 2")
        self.assertIn("{tip: [2, 15], length: 30, angle: 75}", self.served.read("keeper.yaml"))

    def test_of_two_files_asked_for_the_later_one_is_shown(self):
        self.open()
        marks = self.served.read("keeper.marks.yaml")
        # The answer with the first file takes its time.
        self.js("""const ask = window.fetch;
            window.fetch = async (url, ...more) => {
              if (String(url).endsWith('file/0')) { await new Promise(later => setTimeout(later, 900)); window.answeredLate = true; }
              return ask(url, ...more);
            };""")
        self.click("[data-tab=files]")
        self.until("return document.querySelector('#editor .CodeMirror')")
        self.click_on("#filebar .name", "keeper.marks.yaml")
        self.until(f"return {EDITOR}.getValue() === arguments[0]", marks)
        self.until("return window.answeredLate")
        self.js("return new Promise(done => setTimeout(done, 400))")
        self.assertEqual(self.js(f"return [{EDITOR}.getValue(), document.querySelector('#filebar .name[aria-pressed=true]').textContent]"), [marks, "keeper.marks.yaml"])

    def test_an_edit_on_a_frame_and_typing_meet(self):
        self.open()
        before = self.served.read("keeper.marks.yaml")
        self.click("[data-tab=files]")
        self.until("return document.querySelector('#editor .CodeMirror')")
        self.click_on("#filebar .name", "keeper.marks.yaml")
        self.until(f"return {EDITOR}.getValue() === arguments[0]", before)
        self.js(f"{EDITOR}.replaceRange('# mine\\n', {{line: 0, ch: 0}}); {EDITOR}.setCursor({{line: 1, ch: 3}})")
        self.click("[data-tab=clip]")
        self.pick("#clip .head select", "net")
        self.click(".frame[data-frame='3']")
        self.pick("#cuename", "step")
        self.click("#addcue")
        self.until("return document.getElementById('notice').textContent.includes('is being typed')")
        typed = "# mine\n" + before.replace("3: net_out}", "3: [net_out, step]}")
        self.assertEqual(self.js(f"return {EDITOR}.getValue()"), typed)
        self.assertEqual(self.js(f"return {EDITOR}.getCursor().line"), 1)
        self.assertEqual(self.served.read("keeper.marks.yaml"), before)
        self.js(f"{EDITOR}.undo()")
        self.assertEqual(self.js(f"return {EDITOR}.getValue()"), "# mine\n" + before, "as if it had been typed")
        self.js(f"{EDITOR}.redo()")
        self.click("[data-tab=files]")
        self.click("#filebar > button:last-child")
        self.until("return mobrin.known.now.newest === 1")
        self.assertEqual(self.served.read("keeper.marks.yaml"), typed)
        self.until("return mobrin.known.files.files.every(f => !f.draft)")

    def test_what_an_expression_gives_is_drawn(self):
        self.open()
        self.advance(0.5)
        self.js("return mobrin.ask([{do: 'write', actor: 0, set: {move: 0.5}}])")
        self.advance(0.5)
        self.click("#plot")
        field = self.find("#ask input")
        field.send_keys("abs(move) * 4")
        self.click_on("#ask button", "Draw")
        self.until("return (mobrin.plots.get('abs(move) * 4') || []).length === 2")
        self.assertEqual(self.js("return mobrin.plots.get('abs(move) * 4').map(each => each[1])"), [0, 2])
        number = self.js("return mobrin.known.now.past")
        self.js("return new Promise(done => setTimeout(done, 600))")
        self.assertEqual(self.js("return mobrin.known.now.past"), number, "drawing it moves nothing")
        self.click("#plot")
        self.find("#ask input").send_keys("mov")
        self.click_on("#ask button", "Draw")
        self.until("return document.getElementById('notice').className.includes('bad')")
        self.assertIn("mov", self.js("return document.getElementById('notice').textContent"))
        self.assertEqual(self.js("return [...mobrin.plots.keys()]"), ["abs(move) * 4"])

    def test_sounds_are_heard_at_the_head_and_nowhere_else(self):
        self.open(files={"grass.wav": sound(), "swish.wav": b"no sound at all"}, still=False)
        self.js("""window.heard = 0; const make = AudioContext.prototype.createBufferSource;
            AudioContext.prototype.createBufferSource = function () {
              const out = make.call(this), start = out.start.bind(out);
              out.start = (...more) => { window.heard += 1; start(...more); };
              return out;
            };""")
        self.click("#stagebox")
        self.js("return mobrin.ask([{do: 'write', actor: 0, set: {move: 1}}])")
        self.until("return window.heard >= 2")
        # Neither when time is dragged, nor when it stands, nor when it is mute.
        self.js("return mobrin.ask([{do: 'jump', ticks: 0}])")
        heard = self.js("return window.heard")
        for step in range(8):
            self.js("return mobrin.ask([{do: 'jump', ticks: arguments[0]}])", step * SECOND // 8)
        self.js("return new Promise(done => setTimeout(done, 400))")
        self.assertEqual(self.js("return window.heard"), heard)
        self.click("#mute")
        told = self.js("return mobrin.ask([{do: 'jump', ticks: mobrin.known.now.end}, {do: 'play', on: true}]).then(() => mobrin.known.now.end)")
        self.until("return mobrin.known.now.end > arguments[0] + 1.5 * mobrin.SECOND", told)
        self.assertEqual(self.js("return window.heard"), heard)

    def test_a_game_pad_writes_while_the_stage_has_the_focus(self):
        self.open()
        self.js("""window.pad = { axes: [0, 0], buttons: [0, 1, 2].map(() => ({ pressed: false })) };
            navigator.getGamepads = () => [window.pad];""")
        self.click("#stagebox")
        self.js("window.pad.axes[0] = 0.5")
        self.until("return mobrin.actorNow().inputs[0] === 0.5")
        self.js("window.pad.axes[0] = 0.04")
        self.until("return mobrin.actorNow().inputs[0] === 0")
        hop = "mobrin.machine().inputs.filter(i => i.kind === 'pulse').findIndex(i => i.name === 'hop')"
        self.js(f"window.pad.buttons[{hop}].pressed = true")
        self.until("return mobrin.known.now.waits && mobrin.actorNow().inputs[mobrin.machine().inputs.findIndex(i => i.name === 'hop')]")
        self.advance(0.1)
        self.assertEqual(self.state(), "air/leap")
        # Held down it is one press; without the focus it is none.
        self.advance(2)
        self.assertEqual(self.js("return fetch('past?from=0&to=' + mobrin.known.now.end).then(r => r.json()).then(p => p.writes.filter(w => w.press).length)"), 1)
        self.find("#tabs button").click()
        self.js("window.pad.axes[0] = 1")
        self.js("return new Promise(done => setTimeout(done, 300))")
        self.assertEqual(self.js("return mobrin.actorNow().inputs[0]"), 0)

    def test_a_page_that_nobody_sees_keeps_no_connection(self):
        self.open()
        see = "Object.defineProperty(document, 'hidden', { value: %s, configurable: true }); document.dispatchEvent(new Event('visibilitychange'))"
        self.js(see % "true")
        others = []
        for attempt in range(100):  # its end is noticed at the next heartbeat
            others.append(Stream(self.served))
            self.addCleanup(others[-1].close)
            with others[-1].changed:
                others[-1].changed.wait_for(lambda: others[-1].newest, 5)
            if "full" in others[-1].newest:
                others.pop().close()
                self.js("return new Promise(done => setTimeout(done, 100))")
            if len(others) == 4:
                break
        self.assertEqual(len(others), 4)
        self.served.press("hop")
        self.js("return new Promise(done => setTimeout(done, 200))")
        self.assertFalse(self.js("return mobrin.known.now.waits"), "it hears nothing")
        others.pop().close()
        self.js(see % "false")
        self.until("return mobrin.known.now.waits")

    def test_an_old_graph_is_marked_until_the_new_one_is_there(self):
        self.open()
        self.until("return document.querySelector('#graph svg .s3')")
        self.js("""const get = window.fetch, wait = new Promise(done => { window.letGo = done; });
            window.fetch = async (path, ...more) => { if (String(path).startsWith('graph/')) await wait; return get(path, ...more); };""")
        self.served.write("keeper.yaml", self.served.read("keeper.yaml").replace("      stand:\n", "      rest:\n").replace("initial: stand", "initial: rest").replace("to: stand}", "to: rest}").replace("in(stand)", "in(rest)"))
        self.until("return mobrin.known.now.newest === 1 && document.querySelector('#graph svg.stale')")
        self.js("window.letGo()")
        self.until("return document.querySelector('#graph svg:not(.stale)') && document.querySelector('#graph').textContent.includes('rest')")
        self.assertEqual(self.js("return document.querySelectorAll('#graph svg').length"), 1)

    def find_by_text(self, selector, text):
        return next(each for each in self.driver.find_elements("css selector", selector) if each.text.strip().startswith(text))

    def click_on(self, selector, text):
        """The page may draw what is named anew just then: it is looked for again."""
        for attempt in range(5):
            try:
                return self.find_by_text(selector, text).click()
            except (StaleElementReferenceException, StopIteration):
                if attempt == 4:
                    raise
                time.sleep(0.2)


if __name__ == "__main__":
    unittest.main(argv=[sys.argv[0], *sys.argv[3:]])
