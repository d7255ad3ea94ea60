"""The C headers as a library of empty functions, whose interface abigail can record and compare.

    interface.py HEADERS OUT.so          builds it from mobrin.h and its parts
"""
import pathlib
import re
import subprocess
import sys
import tempfile


PARTS = ["mobrin.h", "mobrin_crowd.h", "mobrin_meet.h", "mobrin_watch.h"]


def read(headers):
    """All parts as one text, without their including each other."""
    text = "".join((pathlib.Path(headers) / "mobrin/c" / part).read_text() for part in PARTS)
    return text.replace('#include "mobrin/c/', "//")


def build(headers, out, change=lambda text: text):
    text = change(read(headers))
    body = re.sub(r"(MOBRIN_API [^;]*);", r"\1 { __builtin_trap(); }", text)
    with tempfile.TemporaryDirectory() as folder:
        source = pathlib.Path(folder) / "mobrin.c"
        source.write_text(body)
        subprocess.run(["cc", "-g", "-std=c99", "-w", "-fPIC", "-shared", f"-fdebug-prefix-map={folder}=.", "mobrin.c", "-o",
                        str(pathlib.Path(out).absolute())], cwd=folder, check=True)


if __name__ == "__main__":
    build(sys.argv[1], sys.argv[2])
