#!/usr/bin/env python3
"""The live page's protocol, over the tool as a process: time, edits, files."""
import json
import os
import random
import sys
import time
import unittest

sys.path.insert(0, os.path.dirname(os.path.abspath(__file__)))
from serve import SECOND, Served, Stream  # noqa: E402
from served_case import DEMO, ServedCase, TOOL  # noqa: E402


class Time(ServedCase):
    def test_a_thousand_jumps_over_ten_minutes_find_the_same_hashes(self):
        served, stream = self.serve()
        pick = random.Random(3)
        was = {}
        texts = [served.read("keeper.yaml").replace("{pulse: 110ms}", f"{{pulse: {each}ms}}") for each in (90, 70)]
        for i in range(300):
            commands = []
            if pick.random() < 0.4:
                commands.append({"do": "write", "actor": 0, "press": [pick.choice(["swing", "hop", "stung"])]})
            if pick.random() < 0.4:
                commands.append({"do": "write", "actor": 0,
                                 "set": {"move": pick.choice([-1, 0, 0.5, 1]), "grounded": pick.random() < 0.8}})
            if i == 50:
                commands.append({"do": "write", "actor": 0, "force": "ground/net"})
            if i == 60:
                commands.append({"do": "write", "actor": 0, "place": "air/leap", "played": SECOND // 5})
            commands.append({"do": "advance", "ticks": pick.randrange(SECOND, 3 * SECOND)})
            now = stream.at(served.do(*commands))
            was[now["t"]] = (now["actors"][0]["hash"], now["v"])
            if i in (100, 200):
                served.write("keeper.yaml", texts.pop(0))
                stream.wait("now", lambda now: now["newest"] == (1 if i == 100 else 2))
        self.assertGreater(max(was), 570 * SECOND)
        self.assertEqual({v for _, v in was.values()}, {0, 1, 2})
        first = stream.newest["now"]["first"]
        instants = [at for at in was if at >= first]
        for _ in range(1000):
            at = pick.choice(instants)
            now = stream.at(served.jump(at))
            self.assertEqual((now["t"], now["actors"][0]["hash"], now["v"]), (at, *was[at]))

    def test_a_press_in_the_past_begins_a_strand_that_can_be_taken_up(self):
        served, stream = self.serve()
        first = stream.at(served.advance(3))
        served.jump(1 * SECOND)
        now = stream.at(served.press("hop"))
        self.assertTrue(now["waits"])
        self.assertEqual([(each["from"], each["to"]) for each in now["strands"]], [(SECOND, 3 * SECOND)])
        now = stream.at(served.advance(0.1))
        self.assertEqual(now["end"], SECOND + SECOND // 10)
        now = stream.at(served.do({"do": "take_up", "strand": now["strands"][0]["id"], "ticks": 3 * SECOND}))
        self.assertEqual(now["actors"][0]["hash"], first["actors"][0]["hash"])

    def test_the_past_tells_what_happened_and_what_was_written(self):
        served, _ = self.serve()
        served.set("move", 1)
        served.advance(1)
        past = served.get(f"past?from=0&to={SECOND}")
        self.assertEqual(past["writes"], [{"t": 0, "a": 0, "set": {"move": 1}}])
        cues = [record["t"] for record in past["records"] if record["k"] == "cue"]
        self.assertEqual(cues[0], SECOND // 12)
        walked = [record for record in past["records"] if record["k"] == "enter" and record.get("r") is not None]
        tables = served.get("tables/0")
        self.assertEqual(tables["machines"][0]["rules"][walked[0]["r"]]["text"], "when: abs(move) > 0.1")

    def test_time_halts_after_the_instant(self):
        served, stream = self.serve()
        states = served.get("tables/0")["machines"][0]["states"]
        leap = next(i for i, state in enumerate(states) if state["path"] == "air/leap")
        served.do({"do": "halts", "list": [{"on": "state", "a": 0, "i": leap}]})
        served.advance(1)
        served.press("hop")
        now = stream.at(served.advance(1))
        self.assertEqual((now["t"], now["halted"]["i"]), (SECOND, leap))
        refused = served.do({"do": "halts", "list": [{"on": "holds", "a": 0, "holds": "in(groud)"}]})
        self.assertEqual(refused["status"], 400)
        self.assertIn("groud", refused["text"])
        refused = served.do({"do": "halts", "list": [{"on": "holds", "a": 0, "holds": "health"}]})
        self.assertEqual((refused["status"], refused["code"]), (400, "wrong-operand"))

    def test_why_a_press_was_not_taken(self):
        served, stream = self.serve()
        served.press("swing")
        waiting = stream.wait("why", lambda why: why["waits"])
        rules = served.get("tables/0")["machines"][0]["rules"]
        told = {rules[each["r"]]["text"]: each for each in waiting["of"][0]["rules"]}
        self.assertEqual(told["pulse: swing, when: carrying == net"]["is"], "guard")
        self.assertIn(["carrying", "nothing"], told["pulse: swing, when: carrying == net"]["parts"])
        served.advance(1)
        answer = served.do({"do": "considered", "actor": 0, "from": 0, "to": SECOND // 5})
        self.assertTrue(any(rules[each["r"]]["text"].startswith("pulse: swing") and each["is"] == "guard"
                            for each in answer["considered"]))

    def test_a_rule_says_by_whom_it_was_not_looked_at_and_what_played(self):
        served, _ = self.serve()
        served.do({"do": "write", "actor": 0, "set": {"carrying": "net"}})
        served.press("swing")
        served.advance(0.1)
        served.press("swing")
        served.advance(0.1)
        served.press("stung")
        served.advance(0.1)
        machine = served.get("tables/0")["machines"][0]
        rules, clips = machine["rules"], machine["clips"]
        looked = served.do({"do": "considered", "actor": 0, "from": SECOND // 10, "to": SECOND // 5})["considered"]
        missed = [each for each in looked if each["is"] == "window"]
        self.assertEqual([(rules[each["r"]]["text"], clips[each["plays"][0]]["name"], each["plays"][1]) for each in missed[:1]],
                         [("pulse: swing, during: again, restart", "net", 2)])
        around = [each for each in looked if each["is"] == "around"]
        self.assertEqual({machine["states"][rules[each["r"]]["owner"]]["path"] for each in around}, {"ground", "ground/net"})
        self.assertEqual({rules[each["by"]]["text"] for each in around}, {"pulse: stung"})

    def test_a_tape_that_is_kept_does_the_same(self):
        served, stream = self.serve()
        served.set("carrying", "net")
        served.advance(0.4)
        served.press("swing")
        now = stream.at(served.advance(1))
        text = served.do({"do": "tape", "actor": 0, "from": 0, "to": now["end"], "machine": "keeper.yaml"})["tape"]
        kept = served.do({"do": "keep", "name": "mine", "text": text})
        self.assertEqual(kept["file"], "mine.tape.yaml")
        self.assertEqual(served.read("mine.tape.yaml"), text)
        again = served.do({"do": "keep", "name": "mine", "text": text})
        self.assertEqual(again["code"], "there")
        self.assertEqual(served.do({"do": "keep", "name": "../mine", "text": text})["code"], "name")
        other, other_stream = self.serve("keeper.yaml", "--tape", os.path.join(served.folder, "mine.tape.yaml"))
        then = other_stream.at(other.do({"do": "advance", "ticks": now["t"]}))
        self.assertEqual(then["actors"][0]["hash"], now["actors"][0]["hash"])

    def test_what_an_expression_gives_is_drawn_over_time(self):
        served, stream = self.serve()
        served.advance(0.5)
        served.set("move", 0.75)
        now = stream.at(served.advance(0.5))
        served.do({"do": "write", "actor": 0, "set": {"carrying": "net"}})
        now = stream.at(served.advance(0.25))

        def plot(expression, begin=0, end=2):
            return served.do({"do": "plot", "actor": 0, "expression": expression, "from": round(begin * SECOND), "to": round(end * SECOND)})

        points = plot("abs(move) * 2")["plots"]["abs(move) * 2"]
        self.assertEqual([value for _, value in points], [0, 1.5])
        self.assertLess(abs(points[1][0] - SECOND // 2), SECOND // 50)
        self.assertEqual([value for _, value in plot("carrying")["plots"]["carrying"]], [0, 1])
        self.assertEqual([value for _, value in plot("in(walk)", 0.4)["plots"]["in(walk)"]], [0, 1])
        after = stream.at(served.do({"do": "choose", "actor": 0}))
        self.assertEqual((after["t"], after["past"], after["actors"][0]["hash"]), (now["t"], now["past"], now["actors"][0]["hash"]), "nothing moved")
        self.assertEqual(plot("mov")["code"], "bad-expression")
        self.assertEqual(plot("abs(")["code"], "bad-expression")
        self.assertIn("at most a minute", plot("move", 0, 61)["text"])

    def test_what_is_told_of_many_stays_small(self):
        names = "\n".join(f"  bee_{i:03}: {{machine: keeper.yaml, at: [{i / 2}, 0]}}" for i in range(150))
        served, stream = self.serve("many.scene.yaml", files={"many.scene.yaml": f"mobrin: 1\nscene: many\nactors:\n{names}\nuntil: 1s\n"})
        for actor in (149, 77):
            now = stream.at(served.do({"do": "choose", "actor": actor}))
            self.assertLessEqual(len(json.dumps(now, separators=(",", ":"), ensure_ascii=False)), 16 * 1024)
            self.assertEqual(len(now["actors"]), 150)
            self.assertEqual(len(now["actors"][actor]["inputs"]), 7)
        self.assertEqual([len(now["actors"][77]["inputs"]), len(now["actors"][149]["inputs"])], [7, 7], "both are looked at")
        less = [actor for actor in now["actors"] if "less" in actor]
        unseen = [actor for actor in now["actors"] if "unseen" in actor]
        self.assertTrue(less and unseen)
        self.assertTrue(all("regions" in actor and "inputs" not in actor for actor in less))
        self.assertTrue(all("regions" not in actor for actor in unseen))

    def test_in_a_scene_an_input_is_the_hands(self):
        served, stream = self.serve("dusk.scene.yaml")
        names = [actor["name"] for actor in stream.newest["now"]["actors"]]
        keeper = names.index("keeper")
        served.advance(0.2)
        served.set("move", -0.5, actor=keeper)
        now = stream.at(served.advance(1))
        inputs = [each["name"] for each in served.get("tables/0")["machines"][now["actors"][keeper]["m"]]["inputs"]]
        move = inputs.index("move")
        self.assertEqual(now["actors"][keeper]["inputs"][move], -0.5)
        self.assertEqual(now["actors"][keeper]["held"], [move])
        served.do({"do": "give_back", "actor": keeper, "input": "move"})
        now = stream.at(served.advance(1))
        self.assertEqual((now["actors"][keeper]["inputs"][move], now["actors"][keeper]["held"]), (0, []))


ODD = """# Odd, and kept.
mobrin: 1
marks:
  net:   # the swing
      pivot: [22,   38]
      cues:   {2: swish,   3: net_out}      # here
      windows: {again: 4-5}
      boxes:
         - {name: net, role: hit,   frames: 3-4, rect: [8, 8, 17, 10]}   # both
         - name: body
           role: hurt
           rect: [-6, 0, 12, 26]
"""


class Edits(ServedCase):
    def edit(self, served, **edit):
        return served.do({"do": "edit", "machine": 0, "clip": "net", **edit})

    def test_each_edit_changes_what_it_says_and_no_other_byte(self):
        served, stream = self.serve(files={"keeper.marks.yaml": ODD})
        rows = [
            (dict(kind="add_cue", place="5", name="step"), "3: net_out}", "3: net_out, 5: step}"),
            (dict(kind="set_fields", place="5", name="step", to="{foot: right}"), "5: step", "5: {step: {foot: right}}"),
            (dict(kind="set_fields", place="5", name="step", to="{}"), "5: {step: {foot: right}}", "5: step"),
            (dict(kind="set_box", index=0, name="rect", to="[9, 8, 17, 10]"), "rect: [8, 8, 17, 10]", "rect: [9, 8, 17, 10]"),
            (dict(kind="set_box", index=0, name="frames", to="2-4"), "frames: 3-4", "frames: 2-4"),
            (dict(kind="set_box", index=0, name="circle", to="[9, 8, 5]"), "rect: [9, 8, 17, 10]", "circle: [9, 8, 5]"),
            (dict(kind="set_box", index=1, name="rect", to="[-5, 0, 10, 26]"), "rect: [-6, 0, 12, 26]", "rect: [-5, 0, 10, 26]"),
            (dict(kind="split_box", index=0, place="3", name="[2, 4]", to="[1, 2, 3]"),
             "         - {name: net, role: hit,   frames: 2-4, circle: [9, 8, 5]}   # both\n",
             "         - {name: net, role: hit, frames: [2, 4], circle: [9, 8, 5]}   # both\n"
             "         - {name: net, role: hit, frames: 3, circle: [1, 2, 3]}\n"),
            (dict(kind="drop_box", index=1), "         - {name: net, role: hit, frames: 3, circle: [1, 2, 3]}\n", ""),
            (dict(kind="set_pivot", to="[21, 38]"), "[22,   38]", "[21, 38]"),
        ]
        texts = [served.read("keeper.marks.yaml")]
        for edit, before, after in rows:
            answer = self.edit(served, **edit)
            self.assertNotIn("status", answer, (edit, answer))
            self.assertEqual(texts[-1].count(before), 1, before)
            texts.append(texts[-1].replace(before, after))
            self.assertEqual(served.read("keeper.marks.yaml"), texts[-1], edit)
        # And back again, byte for byte.
        for text in reversed(texts[:-1]):
            self.assertNotIn("status", served.do({"do": "undo"}))
            self.assertEqual(served.read("keeper.marks.yaml"), text)
        self.assertEqual(served.do({"do": "undo"})["code"], "undo")
        self.assertNotIn("status", served.do({"do": "redo"}))
        self.assertEqual(served.read("keeper.marks.yaml"), texts[1])
        stream.wait("files", lambda files: files["undo"] is not None)

    def test_rate_play_and_holds(self):
        served, stream = self.serve()
        before = served.read("keeper.clips.yaml")
        line = next(each for each in before.splitlines() if each.lstrip().startswith("walk:"))
        for edit, is_so in ((dict(kind="rate", to="10"), lambda clip: clip["fps"] == 10),
                            (dict(kind="play", to="loop x2"), lambda clip: clip["play"] == "loop x2"),
                            (dict(kind="hold", index=2, to="3"), lambda clip: [f["hold"] for f in clip["frames"]][1:4] == [1, 3, 1])):
            newest = stream.newest["now"]["newest"]
            answer = served.do({"do": "edit", "machine": 0, "clip": "walk", **edit})
            self.assertNotIn("status", answer, answer)
            now = stream.wait("now", lambda now: now["newest"] > newest)
            clips = served.get(f"tables/{now['newest']}")["machines"][0]["clips"]
            self.assertTrue(is_so(next(clip for clip in clips if clip["name"] == "walk")), edit)
        changed = [(a, b) for a, b in zip(before.splitlines(), served.read("keeper.clips.yaml").splitlines()) if a != b]
        self.assertEqual([a for a, _ in changed], [line])
        self.assertIn("status", served.do({"do": "edit", "machine": 0, "clip": "walk", "kind": "hold", "index": 99, "to": "2"}))

    def test_what_would_not_load_is_not_written(self):
        served, _ = self.serve()
        before = served.read("keeper.marks.yaml")
        answer = self.edit(served, kind="add_cue", place="77", name="step")
        self.assertEqual((answer["status"], answer["code"]), (400, "outside-clip"))
        answer = self.edit(served, kind="add_cue", place="3", name="stepp")
        self.assertEqual((answer["code"], answer["nearest"]), ("unknown-name", 'Did you mean "step"?'))
        self.assertEqual(self.edit(served, kind="add_cue", place="3", name="step\nx: y")["code"], "edit")
        self.assertEqual(self.edit(served, kind="paint")["code"], "edit")
        self.assertEqual(served.read("keeper.marks.yaml"), before)

    def test_an_edit_made_on_another_text_is_refused(self):
        served, stream = self.serve()
        hashes = {each["name"]: each["hash"] for each in stream.wait("files")["files"]}
        theirs = served.read("keeper.marks.yaml") + "# theirs\n"
        served.write("keeper.marks.yaml", theirs)
        answer = self.edit(served, kind="add_cue", place="5", name="step", hashes=hashes)
        self.assertEqual((answer["status"], answer["code"]), (409, "changed"))
        self.assertEqual(served.read("keeper.marks.yaml"), theirs)
        # An undo of a file that somebody else has changed since takes nothing from them.
        self.assertNotIn("status", self.edit(served, kind="add_cue", place="5", name="step"))
        served.write("keeper.marks.yaml", served.read("keeper.marks.yaml") + "# more\n")
        mine = served.read("keeper.marks.yaml")
        self.assertEqual(served.do({"do": "undo"})["status"], 409)
        self.assertEqual(served.read("keeper.marks.yaml"), mine)

    def test_files_are_saved_by_who_saw_them_last(self):
        served, stream = self.serve()
        file = served.get("file/0")
        self.assertEqual(file["text"], served.read("keeper.yaml"))
        text = file["text"].replace("abs(move) > 0.1, to: walk", "abs(move) > 0.6, to: walk")
        status, data = served.request("POST", "file/0", json.dumps({"text": text, "hash": file["hash"]}))
        self.assertEqual((status, json.loads(data)["loads"]), (200, True))
        stream.wait("now", lambda now: now["newest"] == 1)
        served.set("move", 0.5)
        now = stream.at(served.advance(0.1))
        self.assertEqual(now["actors"][0]["regions"][0]["s"], 2)
        status, data = served.request("POST", "file/0", json.dumps({"text": "x", "hash": file["hash"]}))
        self.assertEqual((status, json.loads(data)["now"]), (409, text))
        self.assertEqual(served.read("keeper.yaml"), text)

    def test_what_is_typed_is_kept_until_it_is_saved(self):
        served, _ = self.serve()
        file = served.get("file/3")
        self.assertEqual(file["name"], "keeper.marks.yaml")
        typed = file["text"] + "# not yet\n"

        def post(**body):
            status, data = served.request("POST", "file/3", json.dumps(body))
            return status, json.loads(data)

        self.assertEqual(post(draft=typed, hash=file["hash"])[0], 200)
        self.assertEqual(served.get("file/3")["draft"], typed)
        self.assertEqual(served.read("keeper.marks.yaml"), file["text"])
        self.assertEqual(post(text=typed, hash=file["hash"])[0], 200)
        self.assertNotIn("draft", served.get("file/3"))
        self.assertEqual(post(draft=typed, hash=file["hash"])[0], 200, "it was on its way when it was saved")
        self.assertNotIn("draft", served.get("file/3"))
        self.assertNotIn("status", self.edit(served, kind="add_cue", place="5", name="step"))
        self.assertEqual(post(draft=typed, hash="")[0], 200)
        self.assertEqual(post(draft=None)[0], 200)
        self.assertNotIn("draft", served.get("file/3"))

    def test_an_edit_on_a_frame_goes_into_what_is_being_typed(self):
        served, stream = self.serve(files={"keeper.marks.yaml": ODD})
        file = served.get("file/3")

        def typed(text):
            return json.loads(served.request("POST", "file/3", json.dumps({"draft": text, "hash": file["hash"]}))[1])["draft"]

        draft = typed(ODD + "# not yet\n")
        stream.wait("files", lambda files: files["files"][3].get("draft") == draft)
        answer = self.edit(served, kind="add_cue", place="5", name="step", drafts={"keeper.marks.yaml": draft})
        text = ODD.replace("3: net_out}", "3: net_out, 5: step}") + "# not yet\n"
        self.assertEqual((answer["file"], answer["text"]), ("keeper.marks.yaml", text))
        self.assertEqual(served.get("file/3")["draft"], text)
        self.assertEqual(served.read("keeper.marks.yaml"), ODD)
        stream.wait("files", lambda files: files["files"][3].get("draft") == answer["draft"] and not files["undo"])
        # Made on other words than are there; of what does not exist; of a box that may be another one by now.
        self.assertEqual(self.edit(served, kind="add_cue", place="4", name="step", drafts={"keeper.marks.yaml": draft})["status"], 409)
        self.assertEqual(self.edit(served, kind="add_cue", place="4", name="stepp")["code"], "unknown-name")
        self.assertNotIn("status", self.edit(served, kind="set_box", index=0, name="frames", to="2-4"))
        first = "         - {name: net, role: hit,   frames: 3-4, rect: [8, 8, 17, 10]}   # both\n"
        typed(ODD.replace(first, ""))
        self.assertEqual(self.edit(served, kind="set_box", index=0, name="frames", to="2-4")["code"], "draft")
        # What does not load takes it all the same, if it can be read at all.
        typed(ODD + "  nett: {}\n")
        self.assertNotIn("status", self.edit(served, kind="set_pivot", to="[20, 38]"))
        self.assertIn("[20, 38]", served.get("file/3")["draft"])
        typed(ODD + "  : [\n")
        self.assertEqual(self.edit(served, kind="set_pivot", to="[21, 38]")["code"], "edit")
        self.assertEqual(served.read("keeper.marks.yaml"), ODD)
        # Saved, it counts.
        self.assertEqual(served.request("POST", "file/3", json.dumps({"text": text, "hash": file["hash"]}))[0], 200)
        stream.wait("now", lambda now: now["newest"] > 0)
        self.assertEqual(served.read("keeper.marks.yaml"), text)

    def test_reaches_and_zones_change_their_numbers_only(self):
        served, stream = self.serve()
        before = served.read("keeper.yaml")
        rows = [
            (dict(kind="reach", name="net_reach", shape={"cone": [1, 12, 30, 80]}), "{tip: [0, 12], length: 26, angle: 75}", "{tip: [1, 12], length: 30, angle: 80}"),
            (dict(kind="reach", name="net_reach", shape={"cone": [1, 12, 30.5, 80]}), "length: 30,", "length: 30.5,"),
        ]
        text = before
        for edit, old, new in rows:
            answer = served.do({"do": "edit", "machine": 0, **edit})
            self.assertEqual(answer.get("file"), "keeper.yaml", answer)
            self.assertEqual(text.count(old), 1)
            text = text.replace(old, new)
            self.assertEqual(served.read("keeper.yaml"), text)
        now = stream.wait("now", lambda now: now["newest"] == 2)
        self.assertEqual(served.get(f"tables/{now['v']}")["machines"][0]["reaches"], [{"name": "net_reach", "shape": {"cone": [1.0, 12.0, 30.5, 80.0]}}])
        for edit, words in ((dict(kind="reach", name="net_reach", shape={"rect": [0, 0, 1, 1]}), "has no `rect:`"),
                            (dict(kind="reach", name="net", shape={"rect": [0, 0, 1, 1]}), "has no reach"),
                            (dict(kind="zone", name="net_reach", shape={"circle": [0, 0, 1]}), "has no zone"),
                            (dict(kind="reach", name="net_reach", shape={"cone": [0, 0, 1]}), "a shape is"),
                            (dict(kind="reach", name="net_reach", shape={"cone": [0, 12, -3, 75]}), "has no size"),
                            (dict(kind="reach", name="net_reach", shape="cone"), "a shape is")):
            answer = served.do({"do": "edit", "machine": 0, **edit})
            self.assertEqual(answer["status"], 400, edit)
            self.assertIn(words, answer["text"])
        self.assertEqual(served.read("keeper.yaml"), text)
        served.do({"do": "undo"})
        served.do({"do": "undo"})
        self.assertEqual(served.read("keeper.yaml"), before)

    def test_a_zone_in_a_scene_is_one_of_its_machines(self):
        served, _ = self.serve("dusk.scene.yaml")
        tables = served.get("tables/0")
        machine = next(i for i, each in enumerate(tables["machines"]) if each["zones"])
        before = served.read("hive.yaml")
        answer = served.do({"do": "edit", "machine": machine, "kind": "zone", "name": "near", "shape": {"rect": [-50, 0, 100, 60]}})
        self.assertEqual(answer.get("file"), "hive.yaml", answer)
        self.assertEqual(served.read("hive.yaml"), before.replace("[-40, 0, 80, 60]", "[-50, 0, 100, 60]"))

    def test_a_file_that_does_not_load_leaves_the_old_machine_running(self):
        served, stream = self.serve()
        good = served.read("keeper.yaml")
        served.write("keeper.yaml", good.replace("to: walk", "to: wlak"))
        findings = stream.wait("findings", lambda findings: findings["broken"])
        self.assertIn("wlak", findings["list"][0]["message"])
        served.set("move", 1)
        now = stream.at(served.advance(0.5))
        self.assertEqual((now["newest"], now["actors"][0]["regions"][0]["s"]), (0, 3))
        served.write("keeper.yaml", good + "\n")
        stream.wait("findings", lambda findings: not findings["broken"])
        stream.wait("now", lambda now: now["newest"] == 1)

    def test_a_file_that_is_written_anew_with_the_same_words_is_the_same(self):
        served, stream = self.serve()
        served.write("keeper.yaml", served.read("keeper.yaml"))
        os.utime(os.path.join(served.folder, "keeper.marks.yaml"))
        served.write("hornet.yaml", "")  # none of its files
        time.sleep(0.8)
        self.assertEqual(stream.at(served.advance(0.1))["newest"], 0)

    def test_files_outside_the_folder_are_not_written(self):
        served, stream = self.serve()
        os.mkdir(os.path.join(served.folder, "inner"))
        served.write("inner/m.yaml", "mobrin: 1\nmachine: m\nuse: [%s]\n" % ", ".join(os.path.join(served.folder, name) for name in ("keeper.clips.yaml", "keeper.marks.yaml", "shared.yaml")) +
                     "cues: {swish: sound, net_out: damage, lift: impulse, trail: effect, step: {kind: sound, foot: left}}\n"
                     "states: {a: {clip: net}}\n")
        inner = Served(TOOL, DEMO, os.path.join(served.folder, "inner", "m.yaml"))
        self.addCleanup(inner.close)
        before = served.read("keeper.marks.yaml")
        answer = inner.do({"do": "edit", "machine": 0, "clip": "net", "kind": "add_cue", "place": "5", "name": "step"})
        self.assertEqual((answer["status"], answer["code"]), (403, "outside"), answer)
        self.assertEqual(served.read("keeper.marks.yaml"), before)

    def test_findings_come_with_a_run_that_shows_them(self):
        served, stream = self.serve(files={"m.yaml": "mobrin: 1\nmachine: m\ninputs: {x: {float: 0, min: -1, max: 1}}\ninitial: a\n"
                                           "states:\n  a: {go: [{when: x > 0.2, to: b}]}\n  b: {go: [{when: x < 0.5, to: a}]}\n"})
        other = Served(TOOL, served.folder, "m.yaml")
        self.addCleanup(other.close)
        events = Stream(other)
        self.addCleanup(events.close)
        found = events.wait("findings", lambda findings: any(each["code"] == "runaway" for each in findings["list"]))
        runaway = next(each for each in found["list"] if each["code"] == "runaway")
        status, tape = other.request("GET", f"witness/{runaway['witness']}")
        self.assertEqual(status, 200)
        self.assertIn(b"x: ", tape)
        self.assertEqual(other.request("GET", "witness/999")[0], 404)


if __name__ == "__main__":
    unittest.main(argv=[sys.argv[0], *sys.argv[3:]])
