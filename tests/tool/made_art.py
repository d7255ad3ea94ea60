"""Pictures that tests make up."""
import struct
import zlib


def drawn(path, width, height, pixel):
    """`pixel(x, y)` gives red, green, blue and opacity."""
    rows = b"".join(b"\0" + b"".join(bytes(pixel(x, y)) for x in range(width)) for y in range(height))
    chunk = lambda kind, data: struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, 8, 6, 0, 0, 0)) +
                     chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b""))


def png(path, width=20, height=24, shade=100):
    """One colour; another shade is another picture."""
    drawn(path, width, height, lambda x, y: (shade, shade // 2, 40, 255))


def walkers(path, count=6, cell=32, spacing=0, moved={}, behind=(0, 0, 0, 0)):
    """A sheet of one row: a body with a head on legs that go, each in its cell but for what is `moved` so far (x, y)."""
    def pixel(x, y):
        which, at = divmod(x, cell + spacing)
        right, down = moved.get(which, (0, 0))
        dx, row, leg = at - right - cell // 2, cell - 2 - y + down, which % 3
        body = -5 <= dx < 5 and 7 < row <= 17 or dx * dx + (row - 21) ** 2 < 18
        legs = 0 < row <= 7 and (-4 - leg <= dx < -1 - leg or 1 + leg <= dx < 4 + leg)
        arm = 4 <= dx < 9 and row in (14 - leg, 15 - leg)
        return (200, 150, 60, 255) if at < cell and (body or legs or arm) else behind
    drawn(path, count * cell + (count - 1) * spacing, cell, pixel)
