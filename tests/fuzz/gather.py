"""Seeds out of what the repository has anyway: tests/fuzz/gather.py FOLDER

Writes the files that docs/ shows, those that the demo has, and the texts that tests load, under the doors that they are
for, to FOLDER/DOOR/. seeds/ has what is found nowhere else."""
import ast
import hashlib
import pathlib
import re
import sys

ROOT = pathlib.Path(__file__).resolve().parents[2]
OUT = pathlib.Path(sys.argv[1])
PARTS = re.compile(r"^\s*(states|clips|marks|inputs|cues|vars|looks|zones|reaches|regions|claims|go|use|blend|sheets|initial)\s*:", re.M)
MARK_KINDS = 16


def keep(door, data):
    folder = OUT / door
    folder.mkdir(parents=True, exist_ok=True)
    (folder / hashlib.sha1(data).hexdigest()[:16]).write_bytes(data)


def literals(source):
    """The texts of a C++ source: neighbours are one."""
    for raw in re.findall(r'R"\((.*?)\)"', source, re.S):
        yield raw
    for run in re.findall(r'"(?:[^"\\\n]|\\.)*"(?:\s*\n?\s*"(?:[^"\\\n]|\\.)*")*', source):
        text = ""
        for each in re.findall(r'"(?:[^"\\\n]|\\.)*"', run):
            try:
                text += ast.literal_eval(each)
            except (SyntaxError, ValueError):
                break
        yield text


def texts():
    for page in sorted((ROOT / "docs").rglob("*.md")):
        yield from re.findall(r"^```yaml\n(.*?)^```$", page.read_text(), re.S | re.M)
    for path in sorted((ROOT / "demo/apiary").glob("*.yaml")) + sorted((ROOT / "examples").rglob("*.yaml")):
        yield path.read_text()
    for path in sorted((ROOT / "tests").rglob("*.cpp")):
        yield from literals(path.read_text())


def edits(text):
    """The same text with each edit of its first clips and marks."""
    clips = re.findall(r"^ {2}(\w+):", text[text.find("clips:"):], re.M)[:3] if "clips:" in text else []
    for name in clips:
        for kind, value in enumerate(("14", "loop", "3")):
            keep("clips", bytes([kind, 1]) + f"{name}\n{value}\n{text}".encode())
    for part, kind in (("reaches", 3), ("zones", 4)):
        if f"{part}:" in text:
            for name in re.findall(r"(\w+): *\{", text[text.find(f"{part}:"):])[:3]:
                keep("clips", bytes([kind, kind]) + f"{name}\n\n{text}".encode())
    marks = re.findall(r"^ {2}(\w+):", text[text.find("marks:"):], re.M)[:2] if "marks:" in text else []
    cues = re.findall(r"cues:.*?[{ ](\d[\w.]*): *(?:\[|\{)?(\w+)", text, re.S)[:1] or [("3", "step")]
    spans = re.findall(r"(?:windows|spans): *\{(\w+)", text)[:1] or ["hot"]
    boxes = re.findall(r"name: (\w+)", text)[:1] or ["body"]
    for clip in marks:
        place, cue = cues[0]
        words = {0: (place, "step", ""), 1: (place, cue, ""), 2: (place, cue, "1"), 3: ("", "", "[22, 38]"), 4: ("1", "", "[1, 0]"), 5: ("", spans[0], "0-1"),
                 6: ("", spans[0], ""), 7: ("", spans[0], "1-2"), 8: ("", spans[0], ""), 9: ("", "", "true"), 10: ("", boxes[0], ""),
                 11: ("", "", "{name: net, role: hit, frames: 3-4, rect: [10, 10, 18, 14]}"), 12: ("", "rect", "[1, 2, 3, 4]"),
                 13: ("1", "0", "[1, 2, 3, 4]"), 14: ("", "", ""), 15: (place, cue, "{foot: right}")}
        assert len(words) == MARK_KINDS
        for kind, (at, name, to) in words.items():
            keep("marks", bytes([kind, 0, 0]) + f"{clip}\n{at}\n{name}\n{to}\n{text}".encode())


def imports():
    """Art of each kind, and the clips file that is there already: see the door."""
    def case(kind, art, clips=b""):
        keep("imports", bytes([kind]) + len(clips).to_bytes(2, "little") + art + clips)
    seeds = ROOT / "tests/fuzz/seeds"
    old = [b"", *(path.read_bytes() for path in sorted((seeds / "made").glob("*.yaml")))]
    for clips in old:
        for path in sorted((seeds / "packed").iterdir()):
            case(0, path.read_bytes(), clips)
        for cells in (bytes([16, 16, 0, 0, 0, 0]), bytes([16, 16, 0, 0, 3, 1]), bytes([24, 14, 1, 2, 0, 2]), bytes([200, 200, 0, 0, 0, 0])):
            case(1, cells, clips)
        for path in sorted((seeds / "gltf").iterdir()):
            case(2, path.read_bytes(), clips)
        for path in [*sorted((seeds / "animation").iterdir()), *sorted((seeds / "webp").iterdir())]:
            case(3, path.read_bytes(), clips)
        for names in (b"walk_0\nwalk_1\nidle_0", b"a10\na9\nb", b"hit (1)\nhit (2)"):
            case(4, names, clips)


def spoiled(text):
    """The text without each of its lines, and with another value on each."""
    lines = text.splitlines(keepends=True)
    for i, line in enumerate(lines):
        yield "".join(lines[:i] + lines[i + 1:])
        if ": " in line:
            yield "".join(lines[:i] + [line.split(": ")[0] + ": x\n"] + lines[i + 1:])


def mistakes():
    """What the demo's tapes and scenes would be with one mistake, files that end too early, and expressions as others write them."""
    for door in ("tape", "scene"):
        for path in sorted((ROOT / "demo/apiary").glob(f"*.{door}.yaml")):
            for text in spoiled(path.read_text()):
                keep(door, text.encode())
    for door in ("png", "animation", "gltf", "save"):
        for path in sorted((ROOT / "tests/fuzz/seeds" / door).iterdir()):
            data = path.read_bytes()
            for part in range(1, 12):
                at = len(data) * part // 12
                keep(door, data[:at])
                keep(door, data[:at] + bytes([data[at] ^ 0x55]) + data[at + 1:])
    for name in ("idiom_test.cpp", "expression_test.cpp"):
        for text in literals((ROOT / "tests" / name).read_text()):
            if 0 < len(text) < 200 and "\n" not in text:
                keep("expression", text.encode())


def main():
    imports()
    mistakes()
    count = 0
    for text in texts():
        if len(text) > 20_000 or not PARTS.search(text) and not re.search(r"^(tape|scene|at):", text, re.M):
            continue
        count += 1
        whole = text if "mobrin:" in text else "mobrin: 1\n" + ("" if re.match(r"(machine|character|tape|scene):", text) else "machine: m\n") + text
        if re.search(r"^scene:", whole, re.M):
            keep("scene", whole.encode())
        elif re.search(r"^tape:", whole, re.M):
            keep("tape", whole.encode())
        else:
            keep("machine", whole.encode())
            keep("art", whole.encode())
            edits(text)
        for guard in re.findall(r"when: \"?([^,}\"\n]+)", text):
            keep("expression", guard.encode())
    print(f"{count} texts")


main()
