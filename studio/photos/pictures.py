"""Take a photograph in: check what it is, turn it upright, drop what the camera wrote, make it small."""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass

import pillow_heif
from PIL import Image, ImageFile, ImageOps, UnidentifiedImageError

FORMATS = ("JPEG", "PNG", "WEBP", "HEIF")
MOST_PIXELS = 50_000_000
"""Pixels of the largest picture opened: more would take half a gigabyte to turn upright."""
LONGEST, SMALL = 2000, 420
"""Pixels of the longer side as kept, and of the small copy."""

pillow_heif.register_heif_opener(thumbnails=False)
# Our own, lower limit is checked from the header, with a kinder sentence.
Image.MAX_IMAGE_PIXELS = 2 * MOST_PIXELS


class PictureError(ValueError):
    """The file cannot be taken in. The message says why."""


@dataclass(frozen=True)
class Picture:
    """A picture as it is kept: JPEG bytes, a small copy, and its size in pixels."""

    data: bytes
    small: bytes
    width: int
    height: int


def take_in(data: bytes) -> Picture:
    """The picture in *data*, ready to keep. Raises `PictureError` with a sentence."""
    if not data:
        raise PictureError("The file is empty.")
    # The printing library lets broken pictures pass, for the whole process; here they may not.
    ImageFile.LOAD_TRUNCATED_IMAGES = False
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            picture = Image.open(io.BytesIO(data), formats=FORMATS)
            width, height = picture.size
            if width * height > MOST_PIXELS:
                raise PictureError(
                    f"This picture has {width * height / 1e6:.0f} megapixels; up to "
                    f"{MOST_PIXELS / 1e6:.0f} can be taken in. Let the camera save a smaller one."
                )
            # JPEG can be read at a fraction of its size, which saves most of the work.
            picture.draft("RGB", (LONGEST, LONGEST))
            picture.load()
    except PictureError:
        raise
    except UnidentifiedImageError:
        raise PictureError(
            "This is no picture that can be read: JPEG, PNG, WebP or HEIC."
        ) from None
    except Image.DecompressionBombError:
        raise PictureError(
            f"This picture is far too large; up to {MOST_PIXELS / 1e6:.0f} megapixels can be taken in."
        ) from None
    except (OSError, SyntaxError, ValueError, EOFError, MemoryError, RuntimeError):
        raise PictureError("The picture breaks off or is damaged; choose it again.") from None
    upright = ImageOps.exif_transpose(picture)
    plain = _on_white(upright)
    plain.thumbnail((LONGEST, LONGEST), Image.Resampling.LANCZOS)
    small = plain.copy()
    small.thumbnail((SMALL, SMALL), Image.Resampling.LANCZOS)
    return Picture(_jpeg(plain, 86), _jpeg(small, 80), *plain.size)


def _on_white(picture: Image.Image) -> Image.Image:
    """Without transparency, and without anything the file said besides its pixels."""
    if picture.mode in ("RGBA", "LA", "PA") or "transparency" in picture.info:
        layer = picture.convert("RGBA")
        ground = Image.new("RGB", layer.size, "white")
        ground.paste(layer, mask=layer.getchannel("A"))
        return ground
    return Image.frombytes("RGB", picture.size, picture.convert("RGB").tobytes())


def _jpeg(picture: Image.Image, quality: int) -> bytes:
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=quality, optimize=True)
    return out.getvalue()
