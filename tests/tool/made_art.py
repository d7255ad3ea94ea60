"""Pictures that tests make up."""
import struct
import zlib


def png(path, width=20, height=24, shade=100):
    """One colour; another shade is another picture."""
    row = b"\0" + bytes([shade, shade // 2, 40, 255]) * width
    chunk = lambda kind, data: struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, 8, 6, 0, 0, 0)) +
                     chunk(b"IDAT", zlib.compress(row * height)) + chunk(b"IEND", b""))
