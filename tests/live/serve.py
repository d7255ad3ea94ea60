"""A served page for the tests: the tool as a process on files of their own, and a browser to look at it."""
import http.client
import json
import os
import re
import shutil
import socket
import subprocess
import tempfile
import threading
import time

SECOND = 705_600_000


class Served:
    """`mobrin live FILE --still` in a folder of its own."""

    def __init__(self, tool, demo, file, *more, still=True, files=None):
        self.folder = tempfile.mkdtemp(prefix="live")
        shutil.copytree(demo, self.folder, dirs_exist_ok=True)
        for name, text in (files or {}).items():
            self.write(name, text)
        self.process = subprocess.Popen([tool, "live", *(["--still"] if still else []), file, *more], cwd=self.folder,
                                        env={**os.environ, "XDG_STATE_HOME": os.path.join(self.folder, "state")},
                                        stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
        self.address = re.sub(r"\x1b\[[0-9;]*m", "", self.process.stdout.readline()).strip()
        found = re.match(r"http://127\.0\.0\.1:(\d+)(/[0-9a-f]{32}/)$", self.address)
        assert found, self.address + self.process.stderr.read()
        self.port, self.path = int(found.group(1)), found.group(2)

    def close(self):
        self.process.terminate()
        self.process.wait(5)
        self.process.stdout.close()
        self.process.stderr.close()
        shutil.rmtree(self.folder)

    def read(self, name):
        with open(os.path.join(self.folder, name), encoding="utf-8", newline="") as stream:
            return stream.read()

    def write(self, name, text):
        if isinstance(text, bytes):
            with open(os.path.join(self.folder, name), "wb") as stream:
                stream.write(text)
            return
        with open(os.path.join(self.folder, name), "w", encoding="utf-8", newline="") as stream:
            stream.write(text)

    # --- requests ---

    def request(self, method, path, body=None, headers=None, whole=False):
        """Status and body; `whole`: the path is not below the token."""
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=10)
        sent = dict(headers or {})
        if body is not None:
            sent.setdefault("Content-Type", "application/json")
        connection.request(method, path if whole else self.path + path, body, sent)
        answer = connection.getresponse()
        data = answer.read()
        connection.close()
        self.headers = dict(answer.getheaders())
        return answer.status, data

    def get(self, path):
        status, data = self.request("GET", path)
        assert status == 200, (path, status, data)
        return json.loads(data)

    def do(self, *commands):
        """What is answered; a refusal has its status under `status`."""
        while True:
            status, data = self.request("POST", "do", json.dumps(commands))
            if status != 429:
                break
            time.sleep(0.02)  # at most 200 commands a second
        answer = json.loads(data)
        return answer if status == 200 else {**answer, "status": status}

    def advance(self, seconds):
        return self.do({"do": "advance", "ticks": round(seconds * SECOND)})

    def jump(self, ticks):
        return self.do({"do": "jump", "ticks": ticks})

    def press(self, name, actor=0):
        return self.do({"do": "write", "actor": actor, "press": [name]})

    def set(self, name, value, actor=0):
        return self.do({"do": "write", "actor": actor, "set": {name: value}})


class Stream:
    """What `events` tells, the newest of each kind."""

    def __init__(self, served):
        self.connection = http.client.HTTPConnection("127.0.0.1", served.port, timeout=10)
        self.connection.request("GET", served.path + "events")
        self.socket = self.connection.sock
        self.answer = self.connection.getresponse()
        self.newest = {}
        self.changed = threading.Condition()
        self.ended = False
        self.reader = threading.Thread(target=self._read, daemon=True)
        self.reader.start()

    def _read(self):
        name = None
        try:
            while line := self.answer.readline():
                line = line.decode().rstrip("\n")
                if line.startswith("event: "):
                    name = line[7:]
                elif line.startswith("data: "):
                    with self.changed:
                        self.newest[name] = json.loads(line[6:])
                        self.changed.notify_all()
        except (OSError, ValueError, AttributeError):
            pass
        with self.changed:
            self.ended = True
            self.changed.notify_all()

    def wait(self, name, is_so=lambda value: True, seconds=10):
        """The newest of a kind once it is as wanted."""
        with self.changed:
            done = self.changed.wait_for(lambda: (name in self.newest and is_so(self.newest[name])) or self.ended, seconds)
            value = self.newest.get(name)
        assert done and value is not None and is_so(value), (name, value)
        return value

    def at(self, answer):
        """The `now` that shows what a command did."""
        assert "n" in answer, answer
        return self.wait("now", lambda now: now["n"] >= answer["n"])

    def close(self):
        try:
            self.socket.shutdown(socket.SHUT_RDWR)
        except OSError:
            pass
        self.reader.join(5)
        self.answer.close()
        self.connection.close()
