#!/usr/bin/env python3
"""The live page in a browser: what somebody does in the first five minutes, by mouse and by keyboard."""
import os
import struct
import sys
import unittest
import zlib

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

sys.path.insert(0, os.path.dirname(os.path.abspath(__file__)))
from browse import SECOND, PageCase  # noqa: E402


def plain_png(width, height):
    part = lambda kind, data: struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
    rows = zlib.compress((b"\0" + b"\x80\x60\x40\xff" * width) * height)
    return b"\x89PNG\r\n\x1a\n" + part(b"IHDR", struct.pack(">IIBBBBB", width, height, 8, 6, 0, 0, 0)) + part(b"IDAT", rows) + part(b"IEND", b"")


class Page(PageCase):
    # --- the five minutes ---

    def test_the_first_five_minutes(self):
        self.open()
        before = self.served.read("keeper.marks.yaml")
        # A cue on the frame where the blow lands.
        self.click("[data-tab=clip]")
        self.pick("#clip .head select", "net")
        self.click(".frame[data-frame='3']")
        self.pick("#cuename", "step")
        self.click("#addcue")
        self.until("return mobrin.known.now.newest === 1 && mobrin.machine().clips.find(c => c.name === 'net').cues.some(c => c.cue === 'step')")
        self.assertLessEqual(self.clicks, 5)
        after = before.replace("3: net_out}", "3: [net_out, step]}")
        self.assertEqual(self.served.read("keeper.marks.yaml"), after)
        # A box over two frames.
        self.clicks = 0
        self.click("#addbox")
        self.clicks += 1
        canvas = self.find("#draw")
        ActionChains(self.driver).move_to_element_with_offset(canvas, 60, -60).click_and_hold().move_by_offset(70, 50).release().perform()
        boxes = "mobrin.machine().clips.find(c => c.name === 'net').boxes"
        self.until(f"return mobrin.known.now.newest === 2 && {boxes}.length === 4")
        drawn = self.js(f"return {boxes}[3]")
        self.assertEqual((drawn["role"], drawn["stretches"]), ("hit", [{"first": 3, "last": 3}]))
        self.click(".frame[data-frame='4']")
        self.until("return document.querySelectorAll('#marks .mark.chosen button').length > 0")
        self.click("#marks .mark.chosen button")
        self.until(f"return mobrin.known.now.newest === 3 && {boxes}[3].stretches[0].last === 4")
        self.assertLessEqual(self.clicks, 4)
        rect = drawn["shape"]["rect"]
        line = f"      - {{name: net, role: hit, frames: 3-4, rect: [{', '.join(str(round(each)) for each in rect)}]}}\n"
        circle = "      - {name: net, role: hit, frames: 4, circle: [17, 6, 6]}\n"
        self.assertEqual(self.served.read("keeper.marks.yaml"), after.replace(circle, circle + line))
        # Why does it not strike?
        self.clicks = 0
        self.advance(0.5)
        self.click("#stagebox")
        self.key(Keys.SPACE)
        self.until("return mobrin.known.now.waits")
        self.advance(2.5)
        self.assertEqual(self.state(), "ground/stand")
        self.on_lanes(0.5 + 0.05, "presses")
        self.until("return document.querySelector('#why').textContent.includes('Why nothing took swing')")
        self.assertIn("carrying is nothing", self.find("#why").text)
        self.assertLessEqual(self.clicks, 2)
        # Two seconds back, and another press.
        self.clicks = 0
        self.on_lanes(1.0, "state")
        self.until("return Math.abs(mobrin.known.now.t - mobrin.SECOND) < mobrin.SECOND * 0.02")
        self.click("#stagebox")
        self.key(Keys.ARROW_UP)
        self.until("return mobrin.known.now.strands.length === 1")
        self.advance(0.1)
        self.assertEqual(self.state(), "air/leap")
        self.assertLessEqual(self.clicks, 2)
        # And everything back as it was.
        for _ in range(3):
            count = self.js("return mobrin.known.now.newest")
            self.click("#undo")
            self.until("return mobrin.known.now.newest > arguments[0] && mobrin.known.files", count)
        self.assertEqual(self.served.read("keeper.marks.yaml"), before)

    def test_a_box_is_moved_on_all_its_frames_or_on_one(self):
        self.open()
        self.click("[data-tab=clip]")
        self.pick("#clip .head select", "net")
        self.click(".frame[data-frame='3']")
        place = """const def = mobrin.machine().clips.find(c => c.name === 'net'), frame = def.frames[3], art = frame.art[0];
            const canvas = document.getElementById('draw'), w = canvas.clientWidth, h = canvas.clientHeight;
            const zoom = Math.max(1, Math.floor(Math.min((w - 20) / art[3], (h - 20) / art[4], 16)));
            const left = Math.floor((w - art[3] * zoom) / 2), top = Math.floor((h - art[4] * zoom) / 2), box = def.boxes[arguments[0]].shape.rect;
            return [left + (frame.pivot[0] + box[0] + box[2] / 2) * zoom - w / 2, top + (frame.pivot[1] - box[1] - box[3] / 2) * zoom - h / 2, zoom];"""
        canvas = self.find("#draw")
        x, y, zoom = self.js(place, 1)
        ActionChains(self.driver).move_to_element_with_offset(canvas, round(x), round(y)).click_and_hold().move_by_offset(round(2 * zoom), round(-3 * zoom)).release().perform()
        self.until("return mobrin.known.now.newest === 1")
        self.assertIn("{name: net, role: hit, frames: 3, rect: [10, 11, 17, 10]}", self.served.read("keeper.marks.yaml"))
        # The body is there on all frames: with Alt on this one alone.
        x, y, zoom = self.js(place, 0)
        ActionChains(self.driver).key_down(Keys.ALT).move_to_element_with_offset(canvas, round(x), round(y + 30)).click_and_hold().move_by_offset(round(-zoom), 0).release().key_up(Keys.ALT).perform()
        self.until("return mobrin.known.now.newest === 2")
        text = self.served.read("keeper.marks.yaml")
        self.assertIn("      - {name: body, role: hurt, rect: [-6, 0, 12, 26], frames: [0-2, 4-5]}\n"
                      "      - {name: body, role: hurt, frames: 3, rect: [-7, 0, 12, 26]}\n", text)

    def test_a_characters_marks_are_its_own_if_wanted(self):
        self.open("marsh_hornet.yaml")
        hornet, marsh = self.served.read("hornet.marks.yaml"), self.served.read("marsh_hornet.yaml")
        self.click("[data-tab=clip]")
        self.pick("#clip .head select", "hover")
        self.click(".frame[data-frame='1']")
        self.pick("#cuename", "buzz")
        own = "mobrin.machine().own.includes(mobrin.machine().clips.find(c => c.name === 'hover').marks_at[0])"
        self.assertFalse(self.js("return " + own))
        self.click("#addcue")
        self.until("return document.getElementById('ask').open")
        self.click("#ask button[value=here]")
        self.until(f"return mobrin.known.now.newest === 2 && {own}")
        self.assertEqual(self.served.read("hornet.marks.yaml"), hornet)
        self.assertTrue(self.served.read("marsh_hornet.yaml").startswith(marsh.rstrip("\n")), "what was there stays")
        self.assertIn("buzz", self.served.read("marsh_hornet.yaml").replace(marsh, ""))
        self.until("return mobrin.machine().clips.find(c => c.name === 'hover').cues.some(c => c.frame === 1 && c.cue === 'buzz')")

    # --- machine, files ---

    def test_a_rule_says_by_whom_it_was_not_looked_at(self):
        self.open()
        self.served.do({"do": "write", "actor": 0, "set": {"carrying": "net"}})
        self.advance(0.5)
        self.served.press("swing")
        self.served.press("stung")
        around = "not looked at: anywhere → hurt, around it, is taken"
        self.until(f"return document.getElementById('why').textContent.includes('{around}')")
        self.advance(1.5)
        self.served.do({"do": "jump", "ticks": SECOND // 2})
        self.until("return mobrin.known.now.t === arguments[0]", SECOND // 2)
        self.js("[...document.querySelectorAll('#why button')].find(each => each.textContent.startsWith('what was looked at')).click()")
        self.until("return document.getElementById('why').textContent.includes('round 2')")
        told = self.find("#why").text
        self.assertIn("ground/stand: its 3 rules " + around, told)
        self.assertIn("stung was taken by a round before", told)
        # The press that ran out: it came when the keeper was hurt, and no rule of that state takes it.
        self.on_lanes(0.5 + 0.1, "presses")
        self.until("return document.getElementById('why').textContent.includes('Why nothing took swing')")
        told = self.find("#why").text
        self.assertIn(around, told)
        self.assertIn("no: ground/walk was not active", told)

    def test_a_state_says_why_it_is_not_active_and_can_be_forced(self):
        self.open()
        self.until("return document.querySelector('#graph svg .s3')")
        self.find("#graph svg .s3").click()
        self.until("return document.querySelector('#why').textContent.includes('Why not ground/walk?')")
        self.assertIn("abs(move) is 0", self.find("#why").text)
        self.click("#why h3 button")
        self.until("return mobrin.known.now.waits")
        self.advance(0.2)
        self.assertEqual(self.state(), "ground/stand", "abs(move) <= 0.1 leads back at once")
        active = self.js("return [...document.querySelectorAll('#graph svg .active')].map(each => each.id)")
        self.assertEqual(sorted(active), ["ground", "ground/stand"])
        self.assertEqual(self.js("return [...document.querySelectorAll('#graph svg .lit')].map(each => each.id).sort()"), ["a_r8", "t8"])

    def test_what_is_pressed_stays_until_it_is_let_go(self):
        self.open()
        self.until("return document.querySelector('#why .rule .link')")
        link = self.find("#why h3 button")
        ActionChains(self.driver).move_to_element(link).click_and_hold().perform()
        for i in range(5):  # what is shown there changes all the while
            self.js("return mobrin.ask([{do: 'write', actor: 0, set: {move: arguments[0]}}])", i / 100)
        self.js("return new Promise(done => setTimeout(done, 200))")
        ActionChains(self.driver).release().perform()
        self.until("return document.getElementById('halts').textContent === '1 halt'")
        # And the focus stays where it is.
        self.js("document.querySelectorAll('#why button')[2].focus()")
        self.js("return mobrin.ask([{do: 'write', actor: 0, set: {move: 0.07}}])")
        self.until("return document.getElementById('why').textContent.includes('0.07')")
        self.assertEqual(self.js("return [...document.querySelectorAll('#why button')].indexOf(document.activeElement)"), 2)

    def test_a_rules_line_opens_and_saving_reloads(self):
        self.open()
        self.until("return document.querySelector('#why .rule .link')")
        self.find("#why .rule .link").click()
        self.until("return document.querySelector('#editor .CodeMirror') && document.querySelector('#editor .CodeMirror').CodeMirror.getValue().length > 100")
        editor = "document.querySelector('#editor .CodeMirror').CodeMirror"
        self.assertIn("health <= 0", self.js(f"return {editor}.getLine({editor}.getCursor().line)"))
        self.js(f"{editor}.setValue({editor}.getValue().replace('to: faint', 'to: fiant'))")
        self.click("#filebar > button:last-child")
        self.until("return mobrin.known.findings.broken")
        self.until("return document.querySelector('#editor .widget.error')")
        self.assertIn('"fiant"', self.find("#editor .widget.error").text)
        self.assertIn('Did you mean "faint"?', self.find("#editor .widget.error").text)
        self.js(f"{editor}.setValue({editor}.getValue().replace('fiant', 'faint'))")
        self.click("#filebar > button:last-child")
        self.until("return !mobrin.known.findings.broken && mobrin.known.now.newest === 1")

    def test_what_is_typed_is_not_lost_to_a_change_from_outside(self):
        self.open()
        self.click("[data-tab=files]")
        editor = "document.querySelector('#editor .CodeMirror').CodeMirror"
        self.until(f"return document.querySelector('#editor .CodeMirror') && {editor}.getValue().length > 100")
        theirs = self.served.read("keeper.yaml") + "# theirs\n"
        self.js(f"{editor}.setValue({editor}.getValue() + '# mine\\n')")
        self.served.write("keeper.yaml", theirs)
        self.until("return mobrin.known.now.newest === 1")
        self.assertIn("# mine", self.js(f"return {editor}.getValue()"))
        self.click("#filebar > button:last-child")
        self.until("return document.getElementById('ask').open")
        self.assertIn("# theirs", self.find("#ask textarea").get_attribute("value"))
        self.assertEqual(self.served.read("keeper.yaml"), theirs)
        self.click("#ask button[value=theirs]")
        self.until(f"return {editor}.getValue() === arguments[0]", theirs)

    def test_what_is_typed_comes_back_with_the_page(self):
        self.open()
        self.click("[data-tab=files]")
        editor = "document.querySelector('#editor .CodeMirror').CodeMirror"
        self.until(f"return document.querySelector('#editor .CodeMirror') && {editor}.getValue().length > 100")
        text = self.served.read("keeper.yaml")
        self.js(f"{editor}.setValue({editor}.getValue() + '# mine\\n')")
        self.until("return fetch('file/0').then(r => r.json()).then(f => (f.draft || '').endsWith('# mine\\n'))")
        self.js("onbeforeunload = null; window.addEventListener('beforeunload', e => e.stopImmediatePropagation(), true)")
        self.driver.get("about:blank")
        self.driver.get(self.served.address)
        self.until("return mobrin.known.files && mobrin.machine()")
        self.click("[data-tab=files]")
        self.until(f"return document.querySelector('#editor .CodeMirror') && {editor}.getValue().endsWith('# mine\\n')")
        self.assertEqual(self.served.read("keeper.yaml"), text)

    def test_time_halts_where_it_is_asked_to(self):
        self.open()
        self.click("#halts")
        self.find("#ask input[type=text]").send_keys("health < 3")
        self.driver.find_elements(By.CSS_SELECTOR, "#ask button")[-2].click()
        self.until("return document.getElementById('halts').textContent === '1 halt'")
        self.js("return mobrin.ask([{do: 'write', actor: 0, set: {health: 2}}])")
        self.advance(1)
        self.assertEqual(self.js("return mobrin.known.now.t"), 0)
        self.until("return document.getElementById('next').textContent === 'halted: health < 3'")
        # What was looked at there, with the values of then.
        self.until("return document.getElementById('why').textContent.includes('round 1')")
        self.assertIn("health is 2", self.find("#why").text)

    def test_the_same_presses_with_the_new_file(self):
        self.open()
        self.advance(0.5)
        self.click("#stagebox")
        self.key(Keys.ARROW_UP)
        self.until("return mobrin.known.now.waits")
        self.advance(0.05)
        self.assertEqual(self.state(), "air/leap")
        self.served.write("keeper.yaml", self.served.read("keeper.yaml").replace("{pulse: hop, to: air}", "{pulse: hop, to: net}"))
        self.until("return mobrin.known.now.newest === 1")
        self.click("#again")
        self.until("return mobrin.known.now.strands.length === 1")
        self.assertEqual(self.state(), "ground/net")

    # --- everybody ---

    def test_the_keyboard_alone_does(self):
        self.open()
        self.assertEqual(self.js("return document.activeElement.id"), "stagebox", "keys go to the game at once")
        self.key(Keys.ARROW_RIGHT)
        self.until("return mobrin.known.now.waits")
        self.key(Keys.ESCAPE)
        self.assertNotEqual(self.js("return document.activeElement.id"), "stagebox")
        self.key(".")
        self.until("return mobrin.known.now.t > 0")
        self.key("2")
        self.until("return document.getElementById('clip').classList.contains('shown')")
        # Every control can be reached, and shows that it has the focus.
        seen = set()
        for _ in range(80):
            self.key(Keys.TAB)
            at, shown = self.js("const e = document.activeElement; return [e.id || e.getAttribute('aria-label') || e.textContent, "
                                "getComputedStyle(e).outlineStyle !== 'none' || e.id === 'stagebox' || e === document.body]")
            self.assertTrue(shown, at)
            seen.add(at)
        for wanted in ("step", "speed", "again", "count", "lanes", "keep", "addcue", "draw", "cuename"):
            self.assertIn(wanted, seen)
        # A frame is chosen and gets a cue.
        self.js("document.querySelector('.frame').focus()")
        at = self.js("return mobrin.actorNow().regions[0].shows[0][1]")
        for i in (1, 2):
            self.key(Keys.ARROW_RIGHT)
            self.until("return mobrin.chosen.frame === arguments[0]", at + i)
        self.js("document.getElementById('addcue').focus()")
        self.key(Keys.ENTER)
        self.until("return mobrin.known.now.newest === 1")

    def test_everything_has_a_name_for_screen_readers(self):
        self.open("dusk.scene.yaml")
        for tab in ("machine", "clip", "files", "findings"):
            self.click(f"[data-tab={tab}]")
            self.js("return new Promise(done => setTimeout(done, 150))")
            nameless = []
            for element in self.driver.find_elements(By.CSS_SELECTOR, "button, select, input, canvas[tabindex], [role=tab], [role=listbox]"):
                if element.is_displayed() and not element.accessible_name:
                    nameless.append(element.get_attribute("outerHTML")[:120])
            self.assertEqual(nameless, [], tab)

    def test_dark_and_wide(self):
        self.open(width=2560, height=1440, scheme="dark")
        self.assertEqual(self.js("return getComputedStyle(document.body).backgroundColor"), "rgb(30, 31, 36)")
        self.assertTrue(self.find("#machine").is_displayed() and self.find("#clip").is_displayed(), "two at once")
        for width, height in ((1280, 800), (960, 1000), (2560, 1440)):
            self.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False})
            self.assertEqual(self.js("return [document.documentElement.scrollWidth <= innerWidth, document.documentElement.scrollHeight <= innerHeight, document.getElementById('count').getBoundingClientRect().right <= innerWidth]"), [True, True, True])

    def test_art_of_any_size_fits_and_boxes_lie_where_they_are_drawn(self):
        """Without a pivot a frame stands on the middle of its lower edge, for the hand as for the engine."""
        text = "mobrin: 1\nmachine: m\nclips: {c: {sheet: SHEET, tile: TILE, frames: [0], fps: 5}}\nmarks: {c: {}}\nstates: {a: {clip: c}}\n"
        large = text.replace("SHEET", "large.png").replace("TILE", "[900, 1200]")
        for name, width, height, files in (("small.yaml", 48, 40, {"small.yaml": text.replace("SHEET", "keeper.png").replace("TILE", "[48, 40]")}),
                                           ("large.yaml", 900, 1200, {"large.yaml": large, "large.png": plain_png(900, 1200)})):
            self.open(name, files=files)
            self.advance(0.05)
            self.click("[data-tab=clip]")
            self.until("return [...mobrin.known.sheets.values()].every(image => image.complete && image.naturalWidth)")
            self.click(".frame[data-frame='0']")
            room = self.find("#draw").size
            fits = min((room["width"] - 20) / width, (room["height"] - 20) / height)
            zoom = min(16, int(fits)) if fits >= 1 else int(fits * 8) / 8
            self.assertLessEqual(zoom * height, room["height"])
            self.click("#addbox")
            part = 1 if zoom >= 1 else 20  # so many pixels of the art to a step of the hand
            step = zoom * part
            ActionChains(self.driver).move_to_element_with_offset(self.find("#draw"), round(-4.5 * step), round(-4.5 * step)) \
                .click_and_hold().move_by_offset(round(8 * step), round(8 * step)).release().perform()
            self.until("return mobrin.known.now.newest === 1 && mobrin.machine().clips[0].boxes.length === 1")
            left, bottom, wide, high = self.js("return mobrin.machine().clips[0].boxes[0].shape.rect")
            wanted = (-4.5 * part, height / 2 - 3.5 * part, 8 * part, 8 * part)
            for is_, should in zip((left, bottom, wide, high), wanted):
                self.assertAlmostEqual(is_, should, delta=1.5 + part / step * 1.5)

    def test_a_clip_without_frames_takes_marks_by_its_time(self):
        text = ("mobrin: 1\nmachine: m\ninputs: {go: pulse}\ncues: {hum: sound, trail: {kind: effect, hue: 1}}\nclips: {fly: {length: 400ms, play: loop}}\nmarks: {fly: {spans: {trail: {frames: 0.1s-0.2s, hue: 2}}, boxes: [{name: sting, role: hit, frames: 0.1s-0.2s, rect: [0, 0, 9, 9]}]}}\n"
                "initial: a\nstates: {a: {clip: fly, go: [{pulse: go, to: b}]}, b: {}}\n")
        self.open("m.yaml", files={"m.yaml": text})
        self.advance(0.15)
        self.click("[data-tab=clip]")
        self.until("return document.querySelector('#marks h4').textContent === 'At 0.150 s'")
        slide = lambda ms: self.js("const it = document.getElementById('moment'); it.value = arguments[0]; it.dispatchEvent(new Event('input'))", ms)
        slide(300)
        self.until("return document.querySelector('#marks h4').textContent === 'At 0.300 s'")
        self.pick("#cuename", "hum")
        self.click("#addcue")
        self.until("return mobrin.known.now.newest === 1")
        self.assertIn("cues: {0.3s: hum}", self.served.read("m.yaml"))
        self.find("#marks input[aria-label='Name of a new window']").send_keys("free")
        self.js("[...document.querySelectorAll('#marks h4')].find(each => each.textContent.startsWith('Windows')).querySelector('button').click()")
        self.until("return mobrin.known.now.newest === 2")
        self.assertIn("windows: {free: 0.3s-0.4s}", self.served.read("m.yaml"))
        # A cue's time is typed.
        self.js("const it = document.querySelector('[aria-label=\"Seconds of hum\"]'); it.value = '0.05'; it.dispatchEvent(new Event('change'))")
        self.until("return mobrin.known.now.newest === 3")
        self.assertIn("cues: {0.05s: hum}", self.served.read("m.yaml"))
        # So are the times of a span, and its fields; it is faint where it is not.
        away = "[...document.querySelectorAll('#marks b')].find(each => each.textContent === 'trail').className === 'faint'"
        self.assertTrue(self.js("return " + away))
        slide(150)
        self.until("return !(" + away + ")")
        slide(300)
        self.until("return " + away)
        self.js("const it = document.querySelector('[aria-label=\"Times of the span trail\"]'); it.value = '0.25s-0.35s'; it.dispatchEvent(new Event('change'))")
        self.until("return mobrin.known.now.newest === 4")
        self.assertIn("spans: {trail: {frames: 0.25s-0.35s, hue: 2}}", self.served.read("m.yaml"))
        self.until("return !(" + away + ")")
        self.js("const it = document.querySelector('[aria-label=\"trail hue\"]'); it.value = '5'; it.dispatchEvent(new Event('change'))")
        self.until("return mobrin.known.now.newest === 5")
        self.assertIn("spans: {trail: {frames: 0.25s-0.35s, hue: 5}}", self.served.read("m.yaml"))
        # What is drawn is there for a while from then on; the other box is not there at this time and is not taken hold of.
        self.click("#addbox")
        ActionChains(self.driver).move_to_element_with_offset(self.find("#draw"), 0, 0).click_and_hold().move_by_offset(30, 30).release().perform()
        self.until("return mobrin.machine().clips[0].boxes.length === 2")
        self.assertEqual(self.js("return mobrin.machine().clips[0].boxes[1].stretches"), [{"begin": round(0.3 * SECOND), "end": round(0.4 * SECOND)}])
        ActionChains(self.driver).key_down(Keys.SHIFT).move_to_element_with_offset(self.find("#draw"), -40, 40).click_and_hold() \
            .move_by_offset(8, 0).release().key_up(Keys.SHIFT).perform()
        self.until("return mobrin.machine().clips[0].pivot")
        # It follows what plays again.
        self.js("[...document.querySelectorAll('#clip button')].find(each => each.textContent === 'Follow').click()")
        self.until("return document.querySelector('#marks h4').textContent === 'At 0.150 s'")

    def test_what_lasts_is_put_on_the_frame_shown_and_beside_where_it_is(self):
        text = ("mobrin: 1\nmachine: m\ncues: {hum: sound, trail: {kind: effect, hue: 1}}\nclips: {fly: {images: [a.png, b.png, a.png, b.png], fps: 5}}\n"
                "marks: {fly: {cues: {1: hum}}}\nstates: {a: {clip: fly}}\n")
        self.open("m.yaml", files={"m.yaml": text, "a.png": plain_png(8, 8), "b.png": plain_png(8, 9)})
        self.click("[data-tab=clip]")
        self.click(".frame[data-frame='2']")
        self.pick("#spanname", "trail")
        self.click("#addspan")
        self.until("return mobrin.known.now.newest === 1")
        self.assertIn("spans: {trail: 2}", self.served.read("m.yaml"))
        self.until("return document.querySelector('[aria-label=\"Frames of the span trail\"]').value === '2'")
        self.js("const it = document.querySelector('[aria-label=\"trail hue\"]'); it.value = '4'; it.dispatchEvent(new Event('change'))")
        self.until("return mobrin.known.now.newest === 2")
        # Once more, of the same name: it lasts over both, and keeps its fields.
        self.click(".frame[data-frame='0']")
        self.pick("#spanname", "trail")
        self.click("#addspan")
        self.until("return mobrin.known.now.newest === 3")
        self.assertIn("spans: {trail: {frames: [0, 2], hue: 4}}", self.served.read("m.yaml"))
        # Where it is already it is not put twice: the next change is the window's.
        self.pick("#spanname", "trail")
        self.click("#addspan")
        self.find("#marks input[aria-label='Name of a new window']").send_keys("free")
        self.click("#addwindow")
        self.until("return mobrin.known.now.newest === 4")
        self.assertIn("windows: {free: 0}", self.served.read("m.yaml"))
        self.click("[aria-label='hum a frame later']")
        self.until("return mobrin.known.now.newest === 5")
        self.assertIn("cues: {2: hum}", self.served.read("m.yaml"))
        self.click("[aria-label='Remove the span trail']")
        self.until("return mobrin.known.now.newest === 6 && !document.querySelector('[aria-label=\"Frames of the span trail\"]')")
        self.assertNotIn("trail: {frames", self.served.read("m.yaml"))

    def test_frames_of_other_sizes_stand_on_the_same_place(self):
        """What is drawn at one place of the panel lies at one place against the pivot, whichever frame is shown."""
        self.open("two.yaml", files={"two.yaml": "mobrin: 1\nmachine: m\nclips: {c: {images: [tall.png, wide.png], fps: 5}}\nmarks: {c: {}}\nstates: {a: {clip: c}}\n",
                                     "tall.png": plain_png(20, 60), "wide.png": plain_png(50, 30)})
        self.advance(0.05)
        self.click("[data-tab=clip]")
        self.until("return [...mobrin.known.sheets.values()].every(image => image.complete && image.naturalWidth)")
        for frame in (0, 1):
            self.click(f".frame[data-frame='{frame}']")
            self.click("#addbox")
            ActionChains(self.driver).move_to_element_with_offset(self.find("#draw"), -20, 30).click_and_hold().move_by_offset(40, 40).release().perform()
            self.until(f"return mobrin.known.now.newest === {frame + 1} && mobrin.machine().clips[0].boxes.length === {frame + 1}")
        shapes = self.js("return mobrin.machine().clips[0].boxes.map(each => each.shape.rect)")
        self.assertEqual(shapes[0], shapes[1])

    def test_lanes_below_the_others_can_be_reached(self):
        regions = "".join(f"  r{i}: {{initial: a, states: {{a: {{}}, b: {{}}}}}}\n" for i in range(10))
        self.open("many.yaml", files={"many.yaml": "mobrin: 1\nmachine: many\ninputs: {p: {pulse: 200ms}}\nregions:\n" + regions})
        self.served.press("p")
        self.advance(1)
        self.until("return !document.getElementById('lanesdown').hidden && document.getElementById('lanesup').disabled")
        for _ in range(5):
            if self.find("#lanesdown").is_enabled():
                self.click("#lanesdown")
        self.until("return document.getElementById('lanesdown').disabled")
        # At the end: the cues, 45 high, above the buttons; and the presses above them.
        lanes = self.find("#lanes").size["height"]
        self.on_lanes(0.05, lanes - 24 - 26 - 45 - 10)
        self.until("return document.querySelector('#why').textContent.includes('Why nothing took p')")
        self.on_lanes(0.05, -10)  # the axis
        self.until("return mobrin.known.now.t < 0.1 * 705600000")

    def test_long_names_have_room(self):
        """What fits is shown whole; what does not pushes nothing off the page."""
        cut = "return [...document.querySelectorAll('#inputs .name')].filter(e => e.scrollWidth > e.clientWidth).map(e => e.textContent)"
        self.open("hive.yaml")
        self.until("return document.querySelectorAll('#inputs .name').length > 2")
        self.assertEqual(self.js(cut), [])
        hints = self.js("return mobrin.known.findings.list.length")
        self.assertEqual(self.find("#count").text, f"{hints} hints" if hints > 1 else "1 hint" if hints else "no findings")
        name, number = "a_keeper_whose_name_is_longer_than_most_are", "the_way_to_the_nearest_hornet_in_pixels"
        self.open("long.yaml", files={"long.yaml": f"mobrin: 1\nmachine: {name}\ninputs: {{{number}: {{float: 0, min: -1, max: 1}}, p: pulse}}\n"
                                      f"initial: {name}\nstates: {{{name}: {{go: [{{when: {number} > 0, to: b}}]}}, b: {{go: [{{pulse: p, to: {name}}}]}}}}\n"})
        self.until("return document.querySelectorAll('#inputs .name').length")
        self.assertEqual(self.js(cut), [number])
        self.assertEqual(self.js("return ['bar', 'inputs'].filter(id => $$(id).scrollWidth > $$(id).clientWidth)".replace("$$", "document.getElementById")), [])

    def test_a_lost_connection_is_said(self):
        self.open()
        self.served.process.terminate()
        self.served.process.wait(5)
        self.until("return document.getElementById('next').textContent.includes('does not answer')")
        self.driver.get("about:blank")  # or it goes on asking
        self.driver.get_log("browser")  # that is what they say

    def test_two_hundred_states_show_what_is_around_the_active_one(self):
        states = "".join(f"  s{i}: {{go: [{{pulse: p, to: s{(i + 1) % 200}}}]}}\n" for i in range(200))
        self.open("many.yaml", files={"many.yaml": "mobrin: 1\nmachine: many\ninputs: {p: pulse}\ninitial: s0\nstates:\n" + states})
        self.until("return document.querySelector('#graph svg .s1')")
        self.assertLess(self.js("return document.querySelectorAll('#graph svg .node').length"), 10)
        self.key(Keys.SPACE)
        self.until("return mobrin.known.now.waits")
        self.advance(0.1)
        self.until("return document.querySelector('#graph svg .s3')")
        self.assertEqual(self.state(), "s1")

    def test_text_of_files_is_never_html(self):
        bad = "<img src=x onerror=document.title=1>"
        self.open("m.yaml", files={"m.yaml": "mobrin: 1\nmachine: m\ninputs: {p: pulse}\ninitial: a\nstates:\n"
                                   "  a: {go: [{pulse: p, to: b}]}\n  b: {}\n"})
        self.served.write("m.yaml", self.served.read("m.yaml").replace("to: b", f"to: '{bad}'"))
        self.until("return mobrin.known.findings.broken")
        self.click("[data-tab=findings]")
        self.assertIn(bad, self.find("#findings").text)
        self.assertEqual(self.js("return document.querySelectorAll('img').length"), 0)
        self.assertIn("Mobrin", self.js("return document.title"))


if __name__ == "__main__":
    unittest.main(argv=[sys.argv[0], *sys.argv[3:]])
