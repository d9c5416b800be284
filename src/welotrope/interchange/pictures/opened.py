"""A picture file opened: JPEG, TIFF, PNG, WebP and raw files, the right way up, with limits on what is unpacked."""

from __future__ import annotations

import datetime as dt
import errno
import stat
import warnings
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from welotrope.core.errors import OutOfRangeError, UnreadableError, WelotropeError
from welotrope.core.json_values import JsonObject
from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.picture.picture import NewPicture, PictureExif

if TYPE_CHECKING:
    from PIL.Image import Image

MAX_PIXELS, MAX_BYTES = 170_000_000, 256 * 1024 * 1024
_WORKS = "Name a JPEG, TIFF, PNG, WebP or raw picture"
MEDIA = {"JPEG": "image/jpeg", "MPO": "image/jpeg", "PNG": "image/png", "TIFF": "image/tiff", "WEBP": "image/webp"}
RAW = "image/x-raw"


def picture_of(path: Path, found: JsonObject) -> NewPicture:
    """Return the picture that was looked at, under the name and in the folder of its file."""
    taken = dt.datetime.fromisoformat(found["taken_at"]) if found["taken_at"] else None
    return NewPicture(
        sha256=found["sha256"], name=path.name, folder=str(path.parent), media_type=found["media_type"],
        bytes=found["bytes"], width_px=found["width_px"], height_px=found["height_px"], taken_at=taken,
        exif=PictureExif(**found["exif"]),
    )  # fmt: skip


DISK_FULL = frozenset({errno.ENOSPC, errno.EDQUOT})
# What raw files are called; LibRaw tells by their content whether they are.
RAW_SUFFIXES = frozenset((
    ".dng", ".nef", ".nrw", ".cr2", ".cr3", ".crw", ".arw", ".srf", ".sr2", ".raf", ".orf", ".rw2", ".pef", ".raw",
    ".3fr", ".fff", ".iiq", ".rwl", ".srw", ".x3f", ".kdc", ".dcr", ".mrw",
))  # fmt: skip
PICTURE_SUFFIXES = RAW_SUFFIXES | {".jpg", ".jpeg", ".tif", ".tiff", ".png", ".webp"}


class Opened:
    """A picture: as Pillow opened it, or a raw file developed by LibRaw when its pixels are wanted."""

    def __init__(self, path: Path, image: Image | None, *, raw: Any = None) -> None:
        self.path, self._image, self._raw = path, image, raw

    @property
    def media_type(self) -> str:
        """What kind of file it is."""
        return RAW if self._image is None else MEDIA.get(self._image.format or "", "image/jpeg")

    @property
    def image(self) -> Image | None:
        """Return it as Pillow opened it; None for a raw file."""
        return self._image

    def size(self) -> tuple[int, int]:
        """Return its width and height the right way up, pixels."""
        if self._image is None:
            sizes = self._raw.sizes
            wide, high = sizes.width, sizes.height
            return (high, wide) if sizes.flip in (5, 6) else (wide, high)
        wide, high = self._image.size
        return (high, wide) if _turned(self._image) in (5, 6, 7, 8) else (wide, high)

    def small(self, longest_px: int) -> Image:
        """Return it upright in colour, its longer side at most so long, unpacking no more than it takes."""
        from PIL import Image as Pillow
        from PIL import ImageOps

        if self._image is None:
            image = self._raw_preview() or Pillow.fromarray(self._developed(half=True))
        else:
            self._image.draft("RGB", (longest_px, longest_px))
            image = self._image
        image.thumbnail((longest_px, longest_px), reducing_gap=2.0)
        return _coloured(ImageOps.exif_transpose(image))

    def grey(self) -> AnyArray:
        """Return its grey values upright, shape (height, width)."""
        from PIL import ImageOps

        if self._image is None:
            import cv2

            found: AnyArray = np.asarray(cv2.cvtColor(self._developed(half=False), cv2.COLOR_RGB2GRAY))
            return found
        self._image.draft("L", self._image.size)
        upright = ImageOps.exif_transpose(self._image)
        deep = upright.mode.startswith(("I", "F"))
        return np.asarray(upright, dtype=np.float32) if deep else np.asarray(upright.convert("L"))

    def whole(self) -> Image:
        """Return it upright in colour and full size."""
        from PIL import Image as Pillow
        from PIL import ImageOps

        if self._image is None:
            return Pillow.fromarray(self._developed(half=False))
        return _coloured(ImageOps.exif_transpose(self._image))

    def _developed(self, *, half: bool) -> NDArray[np.uint8]:
        made: NDArray[np.uint8] = self._raw.postprocess(half_size=half, use_camera_wb=True, output_bps=8)
        return made

    def _raw_preview(self) -> Image | None:
        import io

        import rawpy
        from PIL import Image as Pillow

        try:
            found = self._raw.extract_thumb()
        except rawpy.LibRawError:
            return None
        return Pillow.open(io.BytesIO(found.data)) if found.format == rawpy.ThumbFormat.JPEG else None


def _turned(image: Image) -> int:
    try:
        return int(image.getexif().get(0x0112, 1))
    except (TypeError, ValueError):
        return 1


def _coloured(image: Image) -> Image:
    if image.mode.startswith(("I", "F")):
        values = np.asarray(image, dtype=np.float32)
        top = float(values.max()) or 1.0
        from PIL import Image as Pillow

        return Pillow.fromarray((values * (255 / top)).clip(0, 255).astype(np.uint8)).convert("RGB")
    return image.convert("RGB")


@contextmanager
def opened(path: Path) -> Iterator[Opened]:
    """Open a picture file.

    Raises
    ------
    UnreadableError
        When it is not there, no file, or no picture that can be read whole.
    OutOfRangeError
        When it is larger than 256 MB or holds more than 170 million pixels.
    """
    from PIL import Image

    _check_file(path)
    Image.MAX_IMAGE_PIXELS = 2 * MAX_PIXELS
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            yield from _either(path)
    except WelotropeError:
        raise
    except Image.DecompressionBombError:
        raise _too_many(path) from None
    except OSError as error:
        if error.errno in DISK_FULL:  # the one who reads had nowhere to write
            raise
        raise _unreadable(path, _why(error).partition("\n")[0][:120]) from None
    except MemoryError:
        raise _unreadable(path, "it needs more memory than there is") from None
    except Exception as error:  # noqa: BLE001  picture libraries raise whatever they like at what is broken
        raise _unreadable(path, str(error).partition("\n")[0][:120] or type(error).__name__) from None


def _either(path: Path) -> Iterator[Opened]:
    """Yield it by Pillow, or by LibRaw what is called raw or Pillow does not know."""
    from PIL import Image, UnidentifiedImageError

    if path.suffix.lower() not in RAW_SUFFIXES:
        try:
            with Image.open(path, formats=("JPEG", "PNG", "TIFF", "WEBP")) as image:
                if image.width * image.height > MAX_PIXELS:
                    raise _too_many(path)
                yield Opened(path, image)
            return
        except UnidentifiedImageError:
            pass
    import rawpy

    try:
        raw = rawpy.imread(str(path))
    except rawpy.LibRawError:
        raise _unreadable(path, "it is no picture of a kind that is known") from None
    with raw:
        if raw.sizes.width * raw.sizes.height > MAX_PIXELS:
            raise _too_many(path)
        yield Opened(path, None, raw=raw)


def _check_file(path: Path) -> None:
    try:
        found = path.stat()
    except FileNotFoundError:
        raise UnreadableError("picture", path.name, "there is no such file", _WORKS) from None
    except (OSError, ValueError) as error:
        raise UnreadableError("picture", path.name, f"it cannot be opened ({_why(error)})", _WORKS) from None
    if not stat.S_ISREG(found.st_mode):
        raise _unreadable(path, "that is no file")
    if found.st_size > MAX_BYTES:
        works = f"Take one of at most {MAX_BYTES // 1024 // 1024} MB"
        raise OutOfRangeError("picture", path.name, f"it has {found.st_size // 1024 // 1024} MB", works)
    if not found.st_size:
        raise _unreadable(path, "it is empty")


def _why(error: Exception) -> str:
    return getattr(error, "strerror", None) or str(error)


def _unreadable(path: Path, why: str) -> UnreadableError:
    return UnreadableError("picture", path.name, f"it cannot be read as a picture ({why})", _WORKS)


def _too_many(path: Path) -> OutOfRangeError:
    works = f"Take one of at most {MAX_PIXELS // 1_000_000} million pixels"
    return OutOfRangeError("picture", path.name, "that is more than is read", works)
