"""Pictures read from files: grey values the right way up, with a limit on what is unpacked."""

from __future__ import annotations

import warnings
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from welotrope.core.errors import OutOfRangeError, UnreadableError

MAX_PIXELS = 170_000_000
_WORKS = "Name a JPEG, TIFF, PNG or WebP picture"


def read_grey(path: Path) -> NDArray[Any]:
    """Return the grey values of a picture, shape (height, width), turned upright as its EXIF says.

    Raises
    ------
    UnreadableError
        When it is not there, or no picture that can be read whole.
    OutOfRangeError
        When it holds more than 170 million pixels.
    """
    from PIL import Image, ImageOps

    try:
        with warnings.catch_warnings(), Image.open(path) as picture:
            warnings.simplefilter("ignore")
            if picture.width * picture.height > MAX_PIXELS:
                raise _too_large(path)
            upright = ImageOps.exif_transpose(picture)
            deep = upright.mode.startswith(("I", "F"))
            return np.asarray(upright if deep else upright.convert("L"), dtype=np.float32)
    except FileNotFoundError:
        raise UnreadableError("picture", path.name, "there is no such file", _WORKS) from None
    except Image.DecompressionBombError:
        raise _too_large(path) from None
    except (OSError, ValueError, SyntaxError) as error:
        reason = str(error).partition("\n")[0][:120]
        raise UnreadableError("picture", path.name, f"it cannot be read as a picture ({reason})", _WORKS) from None


def _too_large(path: Path) -> OutOfRangeError:
    works = f"Take one of at most {MAX_PIXELS // 1_000_000} million pixels"
    return OutOfRangeError("picture", path.name, "that is more than is read", works)
