"""The pictures of the outing: rendered as the frames say they came out, written as cameras do, and brought in."""

from __future__ import annotations

import datetime as dt
import math
import os
from collections.abc import Callable
from contextlib import AbstractContextManager
from dataclasses import dataclass, replace
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from welotrope.core.finder.canvas import FRAME_UNITS, View
from welotrope.core.finder.scene import FocusRange, Scene
from welotrope.core.finder.scenes import PAINTED
from welotrope.core.finder.stage import Focus, Stage
from welotrope.core.optics.thin_lens import extension_at_object_distance, object_distance_at_extension
from welotrope.core.picture.matching import Moment, match_by_time, seconds_of
from welotrope.core.picture.picture import NewPicture, PictureExif
from welotrope.core.review.frame import Frame, Spot
from welotrope.core.review.outcomes import Outcome
from welotrope.core.review.search import FrameSearch
from welotrope.demo import skarnmere
from welotrope.demo.build import PICTURES, note_pictures
from welotrope.interchange.pictures.worker import look, measure
from welotrope.store import outside
from welotrope.store.queries import files, log, pictures
from welotrope.store.unit_of_work import UnitOfWork

Picture = NDArray[np.uint8]
_ALL_SHARP = 1e9
_ISO_100_NOISE = 0.006  # of white, in the middle tones
BATCH = "demo"
SMALL_PX, LARGE_PX = 960, 4500
_BLUR_PX = 7.0  # of the subject where focus fell elsewhere, at the small size
_DIGITAL, _FILM = "Ostrel 6", "Kyrstad Reflex"
_TAGS = {
    "make": 0x010F,
    "model": 0x0110,
    "exif": 0x8769,
    "taken": 0x9003,
    "subsecond": 0x9291,
    "shutter": 0x829A,
    "iso": 0x8827,
}


@dataclass(frozen=True, kw_only=True)
class Wear:
    """What a picture goes through: contrast kept, ISO of a sensor, film grain, JPEG quality (None: none)."""

    contrast: float = 1.0
    iso: float = 100.0
    grain: float = 0.0
    quality: int | None = 90


def scene_called(
    name: str, seed: int, focal_mm: float, *, nearest_mm: float = 450.0, farthest_mm: float = math.inf
) -> Scene:
    """Return a scene as chance sets it up before a lens."""
    return PAINTED[name](np.random.default_rng(seed), FocusRange(focal_mm, 450.0, math.inf))


def render(scene: Scene, focal_mm: float, focus_mm: float | None, stop: float, width_px: int) -> Picture:
    """Return a scene as BGR, 3:2, focused on a distance from the lens, mm; None for everything sharp."""
    height = width_px * 2 // 3
    view = View(width_px, height, FRAME_UNITS[0] / width_px)
    at = scene.target_mm if focus_mm is None else focus_mm
    focus = Focus(
        extension_mm=float(extension_at_object_distance(at, focal_mm)), stop=_ALL_SHARP if focus_mm is None else stop
    )
    return Stage(scene, focal_mm, 1.0).render(view, focus)


def worn(picture: Picture, wear: Wear, seed: int) -> Picture:
    """Return a picture with its contrast, noise, grain and compression."""
    rng = np.random.default_rng(seed)
    found = 0.5 + wear.contrast * (picture.astype(np.float32) / 255 - 0.5)
    shape = picture.shape[:2]
    if wear.iso:
        strength = _ISO_100_NOISE * math.sqrt(wear.iso / 100)
        light = np.sqrt(np.clip(found, 0.04, 1) / 0.5)
        found += strength * light * rng.standard_normal(picture.shape, dtype=np.float32)
    if wear.grain:
        clumps = cv2.GaussianBlur(rng.standard_normal(shape, dtype=np.float32), (0, 0), 1.1)
        clumps = clumps * np.float32(wear.grain / float(clumps.std()))
        found += clumps if found.ndim == 2 else clumps[:, :, None]
    done = np.clip(found * 255 + 0.5, 0, 255).astype(np.uint8)
    if wear.quality is None:
        return done
    packed = cv2.imencode(".jpg", done, [cv2.IMWRITE_JPEG_QUALITY, wear.quality])[1]
    unpacked: Picture = np.asarray(cv2.imdecode(packed, cv2.IMREAD_UNCHANGED), dtype=np.uint8)
    return unpacked


Turn = Callable[[], AbstractContextManager[UnitOfWork]]
Step = Callable[[int, int, str], None]


def add_pictures(turn: Turn, folder: Path, *, step: Step = lambda _done, _of, _what: None) -> None:
    """Render the pictures into a folder of their own, bring them in, put the clock right and match them.

    Each is rendered outside its transaction, so that others can write meanwhile.
    """
    place = folder / PICTURES
    place.mkdir(exist_ok=True)
    outside.name_folder(folder, place)
    with turn() as uow:
        frames = list(reversed(log.page_of_frames(uow, 1, FrameSearch(), None, 100)))
    scans, total = 0, len(frames) + len(skarnmere.NOT_LOGGED)
    for index, frame in enumerate(frames):
        step(index, total, frame.subject)
        if frame.body_name == _FILM:
            scans += 1
            path, taken = place / f"roll 26-07 {scans:02d}.jpg", None
        else:
            path, taken = place / f"OS6_{4100 + index}.jpg", frame.taken_at + dt.timedelta(seconds=2 + index % 4)
        scene = _scene(frame, index)
        _write(path, _picture(frame, scene, index), frame, taken)
        spot = Spot(0.5 + scene.target_x / FRAME_UNITS[0], 0.5 + scene.target_y / FRAME_UNITS[1])
        _bring_in(turn, folder, path, frame if taken is None else None)
        with turn() as uow:
            for there in log.frames_called(uow, [frame.id]):  # unless it was deleted meanwhile
                log.change_frame(uow, replace(there, spot=spot))
    for number, (minute, name) in enumerate(skarnmere.NOT_LOGGED):
        taken = frames[0].taken_at + dt.timedelta(minutes=minute)
        scene = scene_called(name, 40 + number, 50.0)
        shown = worn(render(scene, 50.0, scene.target_mm, 2.8, SMALL_PX), Wear(iso=400, quality=None), number)
        path = place / f"OS6_{4150 + number}.jpg"
        _write(path, shown, None, taken)
        _bring_in(turn, folder, path, None)
    with turn() as uow:
        _match(uow, log.frames_called(uow, [frame.id for frame in frames]))
    note_pictures(folder)


def _scene(frame: Frame, index: int) -> Scene:
    return scene_called(skarnmere.SHOWN[index], 7 + index, frame.focal_mm or 50.0)


def _picture(frame: Frame, scene: Scene, index: int) -> np.ndarray:
    focal, stop = frame.focal_mm or 50.0, frame.stop or 5.6
    width = LARGE_PX if index == skarnmere.LARGE_FRAME else SMALL_PX
    at = extension_at_object_distance(scene.target_mm, focal)
    if frame.outcome in (Outcome.FRONT, Outcome.BEHIND):
        blur_mm = _BLUR_PX * FRAME_UNITS[0] / SMALL_PX
        # The blur disc is f/N across a cone that is f + x long.
        off = blur_mm * stop * (focal + float(at)) / focal
        at = max(float(at) + (off if frame.outcome is Outcome.FRONT else -off), 1e-4)
    focus = float(object_distance_at_extension(at, focal))
    film = frame.body_name == _FILM
    wear = Wear(iso=0 if film else float(frame.iso or 200), grain=0.03 if film else 0.0, quality=None)
    return worn(render(scene, focal, focus, stop, width), wear, index)


def _write(path: Path, picture: np.ndarray, frame: Frame | None, taken: dt.datetime | None) -> None:
    """Write a JPEG with what a camera knows of it: nothing of a manual lens; a scanner knows nothing at all."""
    exif = Image.Exif()
    if taken is not None:
        clock = taken + dt.timedelta(seconds=skarnmere.CLOCK_FAST_S)
        exif[_TAGS["make"]], exif[_TAGS["model"]] = "Ostrel", _DIGITAL
        held = exif.get_ifd(_TAGS["exif"])
        held[_TAGS["taken"]], held[_TAGS["subsecond"]] = f"{clock:%Y:%m:%d %H:%M:%S}", "40"
        held[_TAGS["shutter"]] = frame.shutter_s if frame is not None and frame.shutter_s else 1 / 250
        held[_TAGS["iso"]] = frame.iso if frame is not None and frame.iso else 400
    Image.fromarray(picture[:, :, ::-1]).save(path, "JPEG", quality=88, exif=exif)


def _bring_in(turn: Turn, folder: Path, path: Path, frame: Frame | None) -> None:
    thumb, preview = folder / "thumb.part", folder / "preview.part"
    found = look({"path": str(path), "thumb": str(thumb)})
    measured = measure({"path": str(path), "preview": str(preview)})
    now = dt.datetime(2026, 3, 14, 20)
    taken = dt.datetime.fromisoformat(found["taken_at"]) if found["taken_at"] else None
    picture = NewPicture(
        **{name: found[name] for name in ("sha256", "media_type", "bytes", "width_px", "height_px")}, name=path.name,
        folder=os.path.realpath(path.parent), taken_at=taken, exif=PictureExif(**found["exif"]),
    )  # fmt: skip
    with turn() as uow:
        if pictures.find_by_hash(uow, picture.sha256) is not None:  # rendered before a start that was cut off
            return
        shas = {
            name: files.keep_file(uow, draft.read_bytes(), "image/jpeg", now)
            for name, draft in (("thumb_sha", thumb), ("preview_sha", preview))
        }
        id = pictures.add_picture(uow, picture, BATCH, outing_id=1, **shas)
        pictures.keep_measured(uow, id, measured)
        if frame is not None and log.frames_called(uow, [frame.id]):
            pictures.assign(uow, {id: frame.id})


def _match(uow: UnitOfWork, frames: list[Frame]) -> None:
    dated = [one for one in pictures.list_pictures(uow, 1) if one.taken_at is not None]
    pictures.set_clock(uow, [one.id for one in dated], -skarnmere.CLOCK_FAST_S)
    taken = [Moment(one.id, seconds_of(one.taken_at) - skarnmere.CLOCK_FAST_S) for one in dated if one.taken_at]
    digital = [Moment(one.id, seconds_of(one.taken_at)) for one in frames if one.body_name != _FILM]
    pictures.assign(uow, dict(match_by_time(taken, digital, tolerance_s=30)))
