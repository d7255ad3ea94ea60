#!/usr/bin/env python3
"""Whoever means harm to the live page, or is slow, or many."""
import http.client
import json
import os
import signal
import socket
import subprocess
import sys
import time
import unittest

sys.path.insert(0, os.path.dirname(os.path.abspath(__file__)))
from serve import SECOND, Stream  # noqa: E402
from served_case import DEMO, ServedCase, TOOL  # noqa: E402


class Doors(ServedCase):
    def test_only_who_has_the_address_gets_in(self):
        served, _ = self.serve()
        for path in ("/", "/events", "/" + "0" * 32 + "/", served.path.upper(), served.path[:-2] + "/"):
            self.assertEqual(served.request("GET", path, whole=True)[0], 404, path)
        for headers in ({"Host": "evil.example"}, {"Host": f"127.0.0.1:{served.port + 1}"}, {"Host": ""},
                        {"Origin": "http://evil.example"}, {"Origin": "null"}):
            self.assertEqual(served.request("GET", "tables/0", headers=headers)[0], 403 if headers.get("Host") != "" else 403, headers)
            self.assertEqual(served.request("POST", "do", "[]", headers=headers)[0], 403, headers)
        self.assertEqual(served.request("GET", "tables/0", headers={"Host": f"localhost:{served.port}"})[0], 200)
        self.assertEqual(served.request("POST", "do", "[]", headers={"Content-Type": "text/plain"})[0], 415)
        for method in ("PUT", "DELETE", "OPTIONS", "PATCH"):
            self.assertEqual(served.request(method, "do")[0], 405, method)
        for path in ("../keeper.yaml", "file/99", "file/-1", "file/../../etc/passwd", "art/99", "graph/nothing", "past", "tables/7", "x"):
            self.assertEqual(served.request("GET", path)[0], 404, path)

    def test_the_page_says_what_it_may_do(self):
        served, _ = self.serve()
        status, page = served.request("GET", "")
        self.assertEqual(status, 200)
        self.assertNotIn(b"http", page.replace(b"http-equiv", b""), "nothing is fetched from outside")
        policy = served.headers["Content-Security-Policy"]
        self.assertIn("default-src 'self'", policy)
        self.assertIn("frame-ancestors 'none'", policy)
        self.assertEqual(served.headers["Referrer-Policy"], "no-referrer")
        self.assertEqual(served.headers["X-Content-Type-Options"], "nosniff")

    def test_wrong_commands_are_named(self):
        served, stream = self.serve()
        hash_before = stream.newest["now"]["actors"][0]["hash"]
        rows = [("[", "json"), ("{}", "commands"), ("[1]", "command"), ('[{"do": "jmp", "ticks": 0}]', "command"),
                ('[{"do": "jump"}]', "command"), ('[{"do": "jump", "ticks": 1e300}]', "command"), ('[{"do": "speed", "value": 99}]', "command"),
                ('[{"do": "write", "actor": 9, "press": ["hop"]}]', "write"), ('[{"do": "write", "actor": 0, "set": {"move": "far"}}]', "wrong-type"),
                ('[{"do": "write", "actor": 0, "set": {"move": []}}]', "write"), ('[{"do": "write", "actor": 0, "rate": -1}]', "write"),
                ('[{"do": "write", "actor": 0, "force": "nowhere"}]', "unknown-name"),
                ('[{"do": "write", "actor": 0, "place": "nowhere"}]', "unknown-name"),
                ('[{"do": "write", "actor": 0, "place": "ground/net", "played": -1}]', "write"),
                ('[{"do": "write", "actor": 0, "played": 5}]', "write"),
                ('[{"do": "advance", "ticks": -5}]', "command"),
                ('[{"do": "load", "actor": 0, "text": "tape: ["}]', "bad-yaml"), ("[" * 10000, "json")]
        for body, code in rows:
            status, data = served.request("POST", "do", body)
            self.assertEqual((status, json.loads(data)["code"]), (400, code), body[:60])
        near = json.loads(served.request("POST", "do", '[{"do": "jmp"}]')[1])
        self.assertEqual(near["nearest"], "jump")
        self.assertEqual(stream.newest["now"]["actors"][0]["hash"], hash_before)

    def test_bodies_and_headers_have_limits(self):
        served, _ = self.serve()
        self.assertEqual(served.request("POST", "do", "x" * 70_000)[0], 413)
        with socket.create_connection(("127.0.0.1", served.port), 5) as raw:
            raw.sendall(f"POST {served.path}do HTTP/1.1\r\nHost: 127.0.0.1:{served.port}\r\nContent-Type: application/json\r\n"
                        "Transfer-Encoding: chunked\r\n\r\n".encode())
            self.assertIn(b" 411 ", raw.recv(200))
        with socket.create_connection(("127.0.0.1", served.port), 5) as raw:
            try:
                raw.sendall(b"GET / HTTP/1.1\r\n" + b"X-Long: y\r\n" * 100_000)
                answer = raw.recv(100)
            except OSError:
                answer = b""
            self.assertNotIn(b" 200 ", answer)
        self.assertEqual(served.request("GET", "tables/0")[0], 200)

    def memory(self, served):
        with open(f"/proc/{served.process.pid}/status", encoding="utf-8") as status:
            return next(int(line.split()[1]) for line in status if line.startswith("VmRSS"))

    def assert_grown_by_less(self, served, before, kilobytes):
        with open(f"/proc/{served.process.pid}/maps", encoding="utf-8") as maps:
            if "libasan" in maps.read():
                return  # the sanitizer keeps what is freed
        self.assertLess(self.memory(served) - before, kilobytes, "KB")

    def test_a_thousand_who_say_nothing_keep_nobody_out(self):
        served, stream = self.serve()
        before = self.memory(served)
        silent = []
        try:
            for i in range(1000):
                one = socket.socket()
                one.setblocking(False)
                try:
                    one.connect(("127.0.0.1", served.port))
                except BlockingIOError:
                    pass
                silent.append(one)
                if i % 100 == 50:
                    stream.at(served.press("hop"))
            # Half a request, for ever.
            for one in silent[-20:]:
                try:
                    one.send(b"GET / HT")
                except OSError:
                    pass
            # A POST that waited for one of them would come later than a request here waits.
            for _ in range(20):
                stream.at(served.advance(0.01))
            self.assert_grown_by_less(served, before, 30_000)
        finally:
            for one in silent:
                one.close()

    def test_who_does_not_read_holds_up_nobody(self):
        served, stream = self.serve("dusk.scene.yaml")
        stalled = socket.create_connection(("127.0.0.1", served.port), 5)
        self.addCleanup(stalled.close)
        stalled.sendall(f"GET {served.path}events HTTP/1.1\r\nHost: 127.0.0.1:{served.port}\r\n\r\n".encode())
        before = self.memory(served)
        for _ in range(300):
            now = stream.at(served.advance(0.005))
        self.assertEqual(now["t"], 300 * round(0.005 * SECOND))
        self.assert_grown_by_less(served, before, 40_000)

    def test_four_look_on_and_a_fifth_is_told(self):
        served, stream = self.serve()
        others = [Stream(served) for _ in range(3)]
        for other in others:
            self.addCleanup(other.close)
            other.wait("now")
        answer = served.press("hop")
        for each in (stream, *others):
            each.at(answer)
        fifth = Stream(served)
        self.addCleanup(fifth.close)
        self.assertEqual(fifth.wait("full")["viewers"], 4)
        others[0].close()
        for _ in range(50):
            sixth = Stream(served)
            self.addCleanup(sixth.close)
            served.advance(0.01)
            with sixth.changed:
                sixth.changed.wait_for(lambda: sixth.newest or sixth.ended, 2)
            if "now" in sixth.newest:
                break
            time.sleep(0.05)
        self.assertIn("now", sixth.newest, "there is room again")

    def test_more_than_two_hundred_commands_a_second_are_refused(self):
        served, _ = self.serve()
        connection = http.client.HTTPConnection("127.0.0.1", served.port, timeout=10)
        self.addCleanup(connection.close)
        for _ in range(10):  # until this machine asks that fast
            begun, answers = time.monotonic(), []
            for _ in range(600):
                connection.request("POST", served.path + "do", "[]", {"Content-Type": "application/json"})
                answer = connection.getresponse()
                answer.read()
                answers.append(answer.status)
            if 600 / (time.monotonic() - begun) > 300:
                break
        self.assertEqual(set(answers), {200, 429})
        self.assertGreater(answers.count(200), 190)

    def test_it_ends_while_somebody_looks_on(self):
        served, _ = self.serve()
        served.process.send_signal(signal.SIGINT)
        self.assertEqual(served.process.wait(20), 0)

    def test_what_cannot_be_served_is_said(self):
        import subprocess
        served, _ = self.serve()
        for arguments, code, words in ((["nothing.yaml"], 1, "does not exist"), (["keeper.clips.yaml"], 1, "holds no machine"),
                                       (["keeper.yaml", "--port", "99999"], 2, "is no port"),
                                       (["keeper.yaml", "--port", str(served.port)], 1, "cannot be served"),
                                       (["keeper.yaml", "--tape", "hornet.tape.yaml"], 1, "there is no input")):
            done = subprocess.run([TOOL, "live", *arguments], cwd=DEMO, capture_output=True, text=True, timeout=20)
            self.assertEqual(done.returncode, code, done.stderr)
            self.assertIn(words, done.stderr)


if __name__ == "__main__":
    unittest.main(argv=[sys.argv[0], *sys.argv[3:]])
