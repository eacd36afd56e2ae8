"""Pictures for tests: good ones in every format, and bad ones of every kind."""

from __future__ import annotations

import io
import struct
import zlib

from PIL import Image

ORIENTATION, GPS = 0x0112, 0x8825


def picture(size=(60, 40), mode: str = "RGB") -> Image.Image:
    """Left half red, right half blue."""
    made = Image.new(mode, size, (200, 30, 30) if mode == "RGB" else (200, 30, 30, 0))
    made.paste(Image.new(mode, (size[0] // 2, size[1]), "blue"), (size[0] // 2, 0))
    return made


def saved(kind: str = "JPEG", image: Image.Image | None = None, **options) -> bytes:
    """The bytes of a picture in a format."""
    out = io.BytesIO()
    (image or picture()).save(out, kind, **options)
    return out.getvalue()


def png(size=(60, 40)) -> bytes:
    """A small PNG."""
    return saved("PNG", picture(size))


def sideways() -> bytes:
    """A JPEG lying on its side, with a place and a camera written in it."""
    image = picture()
    exif = image.getexif()
    exif[ORIENTATION] = 6
    exif[0x010F] = "SecretCamera"
    exif[GPS] = {1: "N", 2: (52.0, 30.0, 0.0)}
    return saved("JPEG", image, exif=exif, comment=b"SecretComment")


def enormous(width: int = 10_000, height: int = 6_000) -> bytes:
    """A PNG whose header says 60 megapixels and whose body is a few bytes."""

    def chunk(kind: bytes, body: bytes) -> bytes:
        whole = kind + body
        return struct.pack(">I", len(body)) + whole + struct.pack(">I", zlib.crc32(whole))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 100))
