#!/usr/bin/env python3
"""Watching a running game: its frames run again beside it, looking back, taking an instant out."""
import os
import re
import socket
import subprocess
import sys
import unittest

sys.path.insert(0, os.path.dirname(os.path.abspath(__file__)))
from serve import SECOND, Served, Stream  # noqa: E402

TOOL, ROOT, GAME = sys.argv[1:4]
DEMO = os.path.join(ROOT, "demo", "apiary")


class Attached(unittest.TestCase):
    def setUp(self):
        self.game = subprocess.Popen([GAME, os.path.join(DEMO, "keeper.yaml"), "60"], stdout=subprocess.PIPE, text=True)
        self.addCleanup(self.stop)
        self.address = re.search(r"--attach (\S+)", self.game.stdout.readline()).group(1)

    def stop(self):
        self.game.kill()
        self.game.wait()
        self.game.stdout.close()

    def watch(self, *file):
        served = Served(TOOL, DEMO, *file, "--attach", self.address) if file else Served(TOOL, DEMO, "--attach", self.address)
        self.addCleanup(served.close)
        stream = Stream(served)
        self.addCleanup(stream.close)
        return served, stream

    def test_what_is_seen_is_what_the_game_does(self):
        served, stream = self.watch("keeper.yaml")
        now = stream.wait("now", lambda now: now["end"] - now["first"] > 2 * SECOND, 20)
        self.assertTrue(now["game"]["attached"])
        self.assertEqual([actor["name"] for actor in now["actors"]], ["keeper", "helpers"])
        past = served.get(f"past?from={now['first']}&to={now['end']}")
        self.assertEqual([write for write in past["writes"] if write.get("placed") and write["t"] > now["first"]], [],
                         "each frame runs from the one before to the same state")
        sticks = [write for write in past["writes"] if "move" in write.get("set", {})]
        self.assertGreater(len(sticks), 60)
        tables = served.get(f"tables/{now['v']}")
        self.assertTrue(any(clip["frames"] and clip["frames"][0]["art"][0] for clip in tables["machines"][0]["clips"]),
                        "with the file there is art")

    def test_looking_back_and_taking_out(self):
        served, stream = self.watch("keeper.yaml")
        now = stream.wait("now", lambda now: now["end"] - now["first"] > 1.5 * SECOND, 20)
        # An instant at which it stands or walks: the game lets it hop now and then.
        states = [state["path"] for state in served.get(f"tables/{now['v']}")["machines"][0]["states"]]
        for back in range(now["first"] + SECOND // 8, now["end"], SECOND // 8):
            seen = stream.at(served.jump(back))
            if states[seen["actors"][0]["regions"][0]["s"]] in ("ground/stand", "ground/walk"):
                break
        self.assertEqual(seen["t"], back)
        later = stream.wait("now", lambda now: now["end"] > seen["end"] + SECOND // 2)
        self.assertEqual((later["t"], later["actors"][0]["hash"]), (back, seen["actors"][0]["hash"]), "the game goes on, we stay")
        self.assertEqual(served.do({"do": "advance", "ticks": 1})["status"], 400)
        out = stream.at(served.do({"do": "take_out"}, {"do": "write", "actor": 0, "press": ["hop"]}, {"do": "advance", "ticks": SECOND // 10}))
        self.assertEqual(out["t"], back + SECOND // 10)
        self.assertFalse(out["game"]["attached"])
        states = served.get(f"tables/{out['v']}")["machines"][0]["states"]
        self.assertEqual(states[out["actors"][0]["regions"][0]["s"]]["path"], "air/leap")

    def test_a_game_that_allows_it_is_written_to(self):
        served, stream = self.watch("keeper.yaml")
        stream.wait("now", lambda now: now["end"] > now["first"])
        served.press("hop")
        states = served.get("tables/0")["machines"][0]["states"]
        first = stream.wait("now", lambda now: states[now["actors"][0]["regions"][0]["s"]]["path"].startswith("air/"))["end"]

        # A state that is placed comes as what it is: the frames after it run from there to the same state.
        def writes():
            return served.get(f"past?from={first}&to={stream.newest['now']['end']}")["writes"]
        served.do({"do": "write", "actor": 0, "place": "ground/net", "played": SECOND // 20})
        stream.wait("now", lambda now: now["end"] > first + SECOND // 2 and any("place" in write for write in writes()))
        self.assertEqual([(write["place"], write["played"]) for write in writes() if "place" in write], [("ground/net", SECOND // 20)])
        self.assertEqual([write for write in writes() if write.get("placed")], [])

    def test_a_crowd_says_how_many_are_where_and_shows_one_of_them(self):
        served, stream = self.watch("keeper.yaml")
        now = stream.wait("now", lambda now: now["actors"][1].get("notes", {}).get("crowd", {}).get("counts"), 20)
        crowd = now["actors"][1]["notes"]["crowd"]
        self.assertEqual((crowd["members"], crowd["places"], crowd["place"]), (300, 300, 0))
        self.assertEqual(sum(count for _, count in crowd["counts"]), 300)
        states = [state["path"] for state in served.get(f"tables/{now['v']}")["machines"][0]["states"]]
        self.assertLessEqual({"ground/walk", "ground/stand"}, {states[state] for state, _ in crowd["counts"]})
        # Its inputs say what was written to it, so its frames run again, too.
        now = stream.wait("now", lambda later: later["end"] > now["end"] + SECOND)
        past = served.get(f"past?from={now['end'] - SECOND}&to={now['end']}")
        self.assertEqual([write for write in past["writes"] if write.get("placed")], [])
        self.assertGreater(len([write for write in past["writes"] if write["a"] == 1 and "move" in write.get("set", {})]), 30)
        served.do({"do": "member", "actor": 1, "place": 17})
        now = stream.wait("now", lambda now: now["actors"][1]["notes"]["crowd"]["place"] == 17)
        served.do({"do": "write", "actor": 1, "press": ["hop"]})
        stream.wait("now", lambda now: states[now["actors"][1]["regions"][0]["s"]].startswith("air/"))
        self.assertEqual(served.do({"do": "member", "actor": 0, "place": 1})["status"], 400)
        self.assertEqual(served.do({"do": "member", "actor": 1, "place": -1})["status"], 400)
        served.do({"do": "member", "actor": 1, "place": 5000})  # nobody is there: the first one is shown
        stream.wait("now", lambda now: now["actors"][1]["notes"]["crowd"]["place"] == 0)

    def test_tickets_of_the_games_code_are_seen(self):
        served, stream = self.watch("keeper.yaml")
        machine = served.get("tables/0")["machines"][0]
        hop = [each["name"] for each in machine["inputs"]].index("hop")
        tickets = lambda now: now["actors"][0].get("notes", {}).get("tickets", [])  # there are none before the game has told of them
        now = stream.wait("now", lambda now: [each for each in tickets(now) if each[0] == "running"], 20)
        self.assertEqual([(each[1], machine["states"][each[2]]["path"]) for each in tickets(now) if each[0] == "running"], [(hop, "air")])
        stream.wait("now", lambda now: any(each[0] in ("succeeded", "interrupted") for each in tickets(now)), 20)

    def test_who_has_another_clock_is_named_and_can_be_looked_at(self):
        served, stream = self.watch("keeper.yaml")
        now = stream.wait("now", lambda now: now["end"] - now["first"] > SECOND // 2, 20)
        self.assertEqual([name for name, _ in now["game"]["elsewhere"]], ["dreamt"])
        served.do({"do": "clock", "name": "dreamt"})
        now = stream.wait("now", lambda now: [name for name, _ in now["game"]["elsewhere"]] == ["keeper", "helpers"] and now["end"] - now["first"] > SECOND // 4, 20)
        self.assertEqual([actor["name"] for actor in now["actors"]], ["dreamt"])
        self.assertLess(now["t"], now["game"]["elsewhere"][0][1] * 0.7)
        past = served.get(f"past?from={now['first'] + 1}&to={now['end']}")
        self.assertEqual([write for write in past["writes"] if write.get("placed")], [])
        served.press("hop")
        states = served.get(f"tables/{now['v']}")["machines"][0]["states"]
        stream.wait("now", lambda now: states[now["actors"][0]["regions"][0]["s"]]["path"].startswith("air/"))
        served.do({"do": "clock", "name": "keeper"})
        stream.wait("now", lambda now: [actor["name"] for actor in now["actors"]] == ["keeper", "helpers"] and now["end"] - now["first"] > SECOND // 4, 20)

    def test_expressions_need_the_machines_file(self):
        served, stream = self.watch()
        now = stream.wait("now", lambda now: now["end"] - now["first"] > SECOND // 4)
        ask = {"do": "plot", "actor": 0, "expression": "abs(move)", "from": now["first"], "to": now["end"]}
        self.assertIn("name it when attaching", served.do(ask)["text"])

    def test_without_the_file_there_is_all_but_the_art(self):
        served, stream = self.watch()
        now = stream.wait("now", lambda now: now["end"] > now["first"])
        tables = served.get(f"tables/{now['v']}")
        self.assertIn("ground/walk", [state["path"] for state in tables["machines"][0]["states"]])
        self.assertEqual(served.request("GET", f"graph/{tables['machines'][0]['fingerprint']}")[0], 200)

    def test_a_game_that_ends_is_said(self):
        _, stream = self.watch("keeper.yaml")
        stream.wait("now", lambda now: now["end"] > now["first"])
        self.game.kill()
        stream.wait("now", lambda now: now["game"]["ended"])

    def test_the_games_door_is_shut_to_others(self):
        port = int(re.match(r"127\.0\.0\.1:(\d+)/", self.address).group(1))
        for said in (b"mobrin-probe 2 " + b"0" * 32 + b"\n", b"GET / HTTP/1.1\r\n\r\n" * 10, b"\0" * 200):
            with socket.create_connection(("127.0.0.1", port), 5) as raw:
                raw.sendall(said)
                raw.settimeout(5)
                try:
                    self.assertEqual(raw.recv(100), b"")
                except ConnectionResetError:
                    pass
        token = self.address.split("/")[1].encode()
        with socket.create_connection(("127.0.0.1", port), 5) as raw:  # the right word, then nonsense
            raw.sendall(b"mobrin-probe 2 " + token + b"\n" + b"\xff" * 1000)
        served, stream = self.watch("keeper.yaml")
        stream.wait("now", lambda now: now["end"] > now["first"])
        for address, words in (("nonsense", "is no address"), ("127.0.0.1:1/x", "no game answers")):
            done = subprocess.run([TOOL, "live", "--attach", address], capture_output=True, text=True, timeout=20)
            self.assertEqual(done.returncode, 1)
            self.assertIn(words, done.stderr)


if __name__ == "__main__":
    unittest.main(argv=[sys.argv[0], *sys.argv[4:]])
