"""Pictures as numbers, by Pillow: gobo masks for the stage and for photometry."""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from zarfwright.formats.findings import FormatError

MASK_PX = 256
PIXELS_MAX = 40_000_000


def small_jpeg(data: bytes, name: str, size: tuple[int, int] = (256, 144)) -> bytes:
    """A picture no larger than that, as JPEG. Raises FormatError as `gobo_mask` does."""
    try:
        with Image.open(io.BytesIO(data)) as picture:
            if picture.width * picture.height > PIXELS_MAX:
                raise FormatError(f"{name} has {picture.width} x {picture.height} pixels: use a smaller picture.")
            small = picture.convert("RGB")
            small.thumbnail(size, Image.Resampling.BOX)
            out = io.BytesIO()
            small.save(out, "JPEG", quality=82)
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError) as wrong:
        raise FormatError(f"{name} is no picture that can be read: use PNG or JPEG.") from wrong
    return out.getvalue()


def gobo_mask(data: bytes, name: str) -> NDArray[np.uint8]:
    """A gobo image as transmission, (MASK_PX, MASK_PX), 255 open: light where it is bright and not transparent.

    Raises FormatError when it is no picture, or one of more than 40 million pixels.
    """
    try:
        with Image.open(io.BytesIO(data)) as picture:
            if picture.width * picture.height > PIXELS_MAX:
                raise FormatError(f"{name} has {picture.width} x {picture.height} pixels: use a smaller picture.")
            rgba = picture.convert("RGBA").resize((MASK_PX, MASK_PX), Image.Resampling.BOX)
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError) as wrong:
        raise FormatError(f"{name} is no picture that can be read: use PNG.") from wrong
    values = np.asarray(rgba, dtype=float)
    bright = values[..., :3] @ np.array([0.2126, 0.7152, 0.0722])
    return np.asarray(np.rint(bright * values[..., 3] / 255.0), dtype=np.uint8)
