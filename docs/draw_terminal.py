#!/usr/bin/env python3
"""Draws what a command prints in a terminal as a PNG. Usage: draw_terminal.py OUT.png TITLE COMMAND...

The command runs in a pseudo-terminal, so it prints as it does for a person; colours are kept. Needs Cairo through ctypes only."""
import ctypes
import os
import pty
import re
import sys

SIZE, LINE, MARGIN = 14.0, 19, 22
PAPER, INK = (0.11, 0.12, 0.14), (0.88, 0.88, 0.86)
STYLES = {"1": (1.0, 1.0, 1.0), "2": (0.58, 0.60, 0.63), "31": (0.98, 0.55, 0.50), "33": (0.95, 0.70, 0.35), "36": (0.50, 0.83, 0.88)}


def output_of(command):
    pid, master = pty.fork()
    if pid == 0:
        os.environ["COLUMNS"] = "200"
        os.environ.pop("NO_COLOR", None)
        os.execvp(command[0], command)
    chunks = []
    while True:
        try:
            chunk = os.read(master, 65536)
        except OSError:
            break
        if not chunk:
            break
        chunks.append(chunk)
    os.waitpid(pid, 0)
    return b"".join(chunks).decode("utf-8", "replace").replace("\r\n", "\n")


def runs_of(line):
    """Pieces of a line with their colour."""
    color = INK
    for piece in re.split(r"(\x1b\[[0-9;]*m)", line):
        if piece.startswith("\x1b"):
            color = STYLES.get(piece[2:-1], INK)
        elif piece:
            yield piece, color


def main():
    path, title, command = sys.argv[1], sys.argv[2], sys.argv[3:]
    lines = ["$ " + title, *output_of(command).rstrip("\n").split("\n")]
    cairo = ctypes.CDLL("libcairo.so.2")
    for name in ("cairo_image_surface_create", "cairo_create"):
        getattr(cairo, name).restype = ctypes.c_void_p
    number = ctypes.c_double

    def call(name, *arguments):
        return getattr(cairo, name)(*[ctypes.c_void_p(a) if isinstance(a, int) and a > 2**31 else number(a) if isinstance(a, float) else a for a in arguments])

    plain = [re.sub(r"\x1b\[[0-9;]*m", "", line) for line in lines]
    advance = 8.0  # of the font at this size, hinted
    width = int(max(900, 2 * MARGIN + advance * max(map(len, plain))))
    height = 2 * MARGIN + LINE * len(lines)
    surface = cairo.cairo_image_surface_create(0, width, height)
    context = cairo.cairo_create(ctypes.c_void_p(surface))
    call("cairo_set_source_rgb", context, *PAPER)
    call("cairo_paint", context)
    call("cairo_select_font_face", context, b"DejaVu Sans Mono", 0, 0)
    call("cairo_set_font_size", context, SIZE)
    for row, line in enumerate(lines):
        column = 0
        for piece, color in runs_of(line if row else "\x1b[36m" + line):
            call("cairo_set_source_rgb", context, *color)
            call("cairo_move_to", context, MARGIN + advance * column, float(MARGIN + LINE * row + 14))
            call("cairo_show_text", context, piece.encode())
            column += len(piece)
    if call("cairo_surface_write_to_png", surface, path.encode()) != 0:
        sys.exit(f"cannot write {path}")


if __name__ == "__main__":
    main()
