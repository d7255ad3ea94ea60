#!/usr/bin/env python3
"""Follows the pages as they are written: README.md, then docs/guide/ in the order of its index. Every line of their
blocks of commands is typed into a shell, a page's in one folder, with the demo's files there and the tool that README's
commands built. Usage: tests/fresh/follow.py, in the checkout, after ./dev test."""
import os
import pathlib
import re
import shutil
import subprocess
import sys
import tempfile

ROOT = pathlib.Path(__file__).resolve().parents[2]
INDEX = ROOT / "docs/guide/index.md"
PAGES = [ROOT / "README.md", INDEX] + [INDEX.parent / name for name in re.findall(r"\]\((\w+\.md)\)", INDEX.read_text())]
environment = dict(os.environ, PATH=f"{ROOT}/build/dev/src/cli:{os.environ['PATH']}", CMAKE_PREFIX_PATH="/usr/local")


def type_in(line, folder):
    """What came of a line: whether it did as the page says, and what it said."""
    words, _, remark = line.partition("#")
    if words.split()[:2] == ["mobrin", "live"] and "--help" not in words:  # until it is stopped
        words, wanted = f"timeout -s INT 3 {words}", (0, 124, 130)
    elif words.split()[:2] == ["mobrin", "prove"]:  # says by its code whether all holds
        wanted = (0, 1)
    else:
        wanted = (int(re.search(r"exit (\d)", remark).group(1)) if "exit " in remark else 0,)
    run = subprocess.run(["bash", "-c", words], cwd=folder, env=environment, capture_output=True, text=True, timeout=900)
    return run.returncode in wanted, run.stdout + run.stderr


failed = typed = 0
for page in dict.fromkeys(PAGES):
    with tempfile.TemporaryDirectory() as place:
        folder = pathlib.Path(place) / "apiary"
        shutil.copytree(ROOT / "demo/apiary", folder)
        for block in re.findall(r"^```sh\n(.*?)^```$", page.read_text(), re.S | re.M):
            for line in block.splitlines():
                if not line.partition("#")[0].strip():
                    continue
                mine = line.startswith("./dev")
                if mine and line.split()[1] in ("demo", "test"):  # done before
                    continue
                fine, said = type_in(line, ROOT if mine else folder)
                typed += 1
                if not fine:
                    failed += 1
                    print(f"{page.relative_to(ROOT)}: {line}\n{said}\n", file=sys.stderr)
print(f"{typed} commands of {len(dict.fromkeys(PAGES))} pages typed, {failed} not as written")
sys.exit(1 if failed or not typed else 0)
