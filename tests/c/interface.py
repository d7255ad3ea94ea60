"""The C headers as a library of empty functions, whose interface abigail can record and compare.

    interface.py HEADERS OUT.so          builds it from mobrin.h
"""
import pathlib
import re
import subprocess
import sys
import tempfile


def build(headers, out, change=lambda text: text):
    text = change((pathlib.Path(headers) / "mobrin/c/mobrin.h").read_text())
    body = re.sub(r"(MOBRIN_API [^;]*);", r"\1 { __builtin_trap(); }", text)
    with tempfile.TemporaryDirectory() as folder:
        source = pathlib.Path(folder) / "mobrin.c"
        source.write_text(body)
        subprocess.run(["cc", "-g", "-std=c99", "-w", "-fPIC", "-shared", f"-fdebug-prefix-map={folder}=.", "mobrin.c", "-o",
                        str(pathlib.Path(out).absolute())], cwd=folder, check=True)


if __name__ == "__main__":
    build(sys.argv[1], sys.argv[2])
