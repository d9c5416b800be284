"""Scenes rendered beforehand by a ray tracer: colours and how near each pixel is, cut into layers for the stage.

A rendered scene holds no distances in mm but *nearness*: the distance of the target over that of what is seen, 1 at the
target and 0 for the sky. Laid out for a lens, the whole scene grows or shrinks with the distance of its target, so that
the same picture is a bench before a close-up lens and a wall before a long one.

A layer holds what is about as near as itself, and covers less and less of what lies between it and the next one farther
off. Behind what stands before it, it goes on for a little way: with what is seen there where the surface runs on, with
the colours around where something farther is hidden. So no edge lets the background through when it blurs.

Where two surfaces share a pixel, the nearer one's layer covers as much of it as that does, and the farther one's goes
on behind it: no layer holds a mixture.
"""

from __future__ import annotations

import math
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from welotrope.core.finder.canvas import Canvas, View
from welotrope.core.finder.light import Picture, coded, light_of
from welotrope.core.finder.plates import Mask, Nearness, Plate, Rendering, layers_of
from welotrope.core.finder.scene import FocusRange, Layer, Scene

Layered = tuple[Picture, int, int]  # light times cover, and cover, coded; its corner, column and row of a view
Renderings = Callable[[str], "Rendering"]
_GOES_ON = 0.96  # picture units, how far a layer goes on behind what stands before it
_RUNS_ON = 1.05  # times as near as a layer is what may be the same surface
_SLIGHT = 0.4  # share of a coarse cell that is known, below which it does not count
_FULL_BY = 0.9  # share of the way from one layer to the next by which the nearer one covers all
_APART = 1e-5  # of nearness: what lies on the middle of a layer belongs to that alone
_COARSER = 4  # times as coarse as the picture what is hidden is filled in
_FADES = 0.8  # picture units within which a finer plate fades into the coarser one
_STRIP_PX = 128  # rows that are turned into light at once
_ALONE = 255  # in place of a layer, where no two surfaces share a pixel
_BESIDE = np.ones((5, 5), np.uint8)  # samples about an edge, of which the farthest is what lies behind it
_NOTHING: Layered = np.zeros((0, 0, 4), np.uint8), 0, 0
_FINER = 2  # times as fine as it is shown what is seen is cut, and averaged


@dataclass(frozen=True, eq=False, kw_only=True)
class _Seen:
    """What a view shows: colours, and for each pixel how near it is.

    Where two surfaces share a pixel the colour is that of the nearer one, ``holder`` is the layer that holds it,
    ``cover`` how much of the pixel it covers, and ``nearness`` that of the farther one. Elsewhere ``holder`` is _ALONE;
    it is None where there is no such pixel.
    """

    colour: Picture
    nearness: Nearness
    cover: Mask
    holder: Mask | None

    def part(self, where: tuple[slice, slice]) -> _Seen:
        """Return a piece of it, rows and columns."""
        return _Seen(
            colour=self.colour[where], nearness=self.nearness[where], cover=self.cover[where],
            holder=None if self.holder is None else self.holder[where],
        )  # fmt: skip


class Slices:
    """A rendering cut into layers, for one view after another; only those of the last one are kept."""

    def __init__(self, rendering: Rendering) -> None:
        self.nearness = list(rendering.layers or layers_of(rendering.plates, cut_out=rendering.is_cut_out))
        self.first = int(rendering.is_cut_out)  # before it there is nothing
        self._plates = rendering.plates
        self._last: tuple[View, list[Layered]] | None = None
        self._lock = threading.Lock()

    def index_of(self, nearness: float) -> int:
        """Return which layer holds what is as near as this, a ratio of distances from 0 to 4."""
        return int(np.abs(np.array(self.nearness) - nearness).argmin())

    def cut(self, index: int, view: View) -> Layered:
        """Return a layer as a view shows it, cut to what is covered, and its corner, column and row of the view."""
        with self._lock:
            if index > self.first and (self._last is None or self._last[0] != view):  # one alone, as large as it stands
                return self._cut_one(index, view)
            if self._last is None or self._last[0] != view:
                self._last = view, self._cut_all(view)
            layers = self._last[1]
            if index == len(layers) - 1:  # painted with this, all of them are kept by who asked
                self._last = None
            return layers[index]

    def _cut_one(self, index: int, view: View) -> Layered:
        seen, margin, finer = self._seen(view)
        return _layer(seen, self.nearness, index, margin=margin, finer=finer)

    def _seen(self, view: View) -> tuple[_Seen, int, int]:
        """Return what is seen of a view, how far layers go on in it, pixels, and how many times as fine it is cut."""
        coarse = self._plates[0].unit_px * view.units_per_px  # pixels of the whole picture to one of the view
        finer = _FINER if coarse > 1 else 1
        sampled = _sampled(self._plates if coarse <= 1 else self._plates[:1], view, finer)
        return _told_apart(*sampled, self.nearness), round(_GOES_ON / view.units_per_px * finer), finer

    def _cut_all(self, view: View) -> list[Layered]:
        seen, margin, finer = self._seen(view)

        def cut(index: int) -> Layered:
            return _layer(seen, self.nearness, index, margin=margin, finer=finer)

        with ThreadPoolExecutor(2) as threads:  # OpenCV works beside Python
            return [_NOTHING] * self.first + list(threads.map(cut, range(self.first, len(self.nearness))))


@lru_cache(maxsize=2)  # of two finders: each holds tens of megabytes
def slices_of(rendering: Rendering) -> Slices:
    """Return a rendering cut into layers.

    Parameters
    ----------
    rendering
        Colours and nearness of a rendered scene.
    """
    return Slices(rendering)


def laid_out(name: str, renderings: Renderings, rng: np.random.Generator, reach: FocusRange) -> Scene:
    """Return a rendered scene before a lens: its target within the lens's reach, the rest as far off as it belongs.

    Parameters
    ----------
    name
        Name of the scene.
    renderings
        Scenes rendered beforehand, by name.
    rng
        Source of chance.
    reach
        Distances in mm that the lens can be focused on.
    """
    rendering = renderings(name)
    at = reach.within(reach.focal_mm * rng.uniform(*rendering.focal_lengths))
    layers, speed_mm_s = _layers(rendering, lambda: renderings(name), at), 0.0
    target, plates = slices_of(rendering).index_of(1.0), rendering.plates
    if rendering.moving is not None:
        slices, plates = slices_of(rendering.moving), rendering.moving.plates
        target = len(layers) + slices.index_of(1.0) - slices.first
        layers += _layers(rendering.moving, lambda: _moving(renderings(name)), at)  # it may come past all of the others
        speed_mm_s = at / rng.uniform(*rendering.comes_in_s)
    return Scene(
        name=rendering.name, layers=layers, target=target, target_name=rendering.target_name,
        target_x=rendering.target_x, target_y=rendering.target_y, brightness=rendering.brightness,
        finest=1 / max(plate.unit_px for plate in plates), speed_mm_s=speed_mm_s,
    )  # fmt: skip


def _moving(rendering: Rendering) -> Rendering:
    if rendering.moving is None:
        raise ValueError(f"Nothing moves in {rendering.name}")
    return rendering.moving


def _layers(rendering: Rendering, again: Callable[[], Rendering], at_mm: float) -> tuple[Layer, ...]:
    """Return the layers of a rendering whose target is so far off, mm; ``again`` gives it when they are painted."""
    slices, moving = slices_of(rendering), rendering.is_cut_out

    def shower(index: int) -> Callable[[Canvas], None]:
        return lambda canvas: canvas.show(*slices_of(again()).cut(index, canvas.view))

    return tuple(
        Layer(
            at_mm / nearness if nearness > 0 else math.inf, shower(index),
            tuple(light for place, light in rendering.lights if slices.index_of(place) == index),
            backdrop=index == 0, moving=moving,
        )
        for index, nearness in enumerate(slices.nearness) if index >= slices.first
    )  # fmt: skip


def _told_apart(colour: Picture, nearness: Nearness, cover: Mask, middles: list[float]) -> _Seen:
    """Return what is seen with the surfaces told apart that share a pixel and belong to different layers."""
    shared = np.nonzero(cover < 255)
    if not len(shared[0]):
        return _Seen(colour=colour, nearness=nearness, cover=cover, holder=None)
    behind = np.asarray(cv2.erode(nearness, _BESIDE), np.float32)[shared]
    between = np.add(middles[1:], middles[:-1]) / 2
    near, far = (np.searchsorted(between, one) for one in (nearness[shared], behind))
    apart = near > far
    shared = shared[0][apart], shared[1][apart]
    holder = np.full(cover.shape, _ALONE, np.uint8)
    holder[shared], nearness[shared] = near[apart], behind[apart]
    return _Seen(colour=colour, nearness=nearness, cover=cover, holder=holder)


def _sampled(plates: tuple[Plate, ...], view: View, finer: int) -> tuple[Picture, Nearness, Mask]:
    """Return colours, nearness and cover where a view's pixels lie, each ``finer`` times parted; finer plates count."""
    width, height = view.width_px * finer, view.height_px * finer
    step = view.units_per_px / finer
    corner = (
        view.centre_x - view.units_per_px * view.width_px / 2 + step / 2,
        view.centre_y - view.units_per_px * view.height_px / 2 + step / 2,
    )
    colour, nearness = np.zeros((height, width, 3), np.uint8), np.zeros((height, width), np.float32)
    cover = np.full((height, width), 255, np.uint8)
    for number, plate in enumerate(plates):
        scale = plate.unit_px * step
        first = [(at - edge) * plate.unit_px - 0.5 for at, edge in zip(corner, (plate.left, plate.top), strict=True)]
        box = [0, 0, width, height]
        if number:
            rows, columns = plate.coded.shape
            box = [
                max(math.ceil(-first[0] / scale), 0), max(math.ceil(-first[1] / scale), 0),
                min(math.floor((columns - 1 - first[0]) / scale) + 1, width),
                min(math.floor((rows - 1 - first[1]) / scale) + 1, height),
            ]  # fmt: skip
        left, top, right, bottom = box
        if right <= left or bottom <= top:
            continue
        to_plate = np.array([[scale, 0, first[0] + left * scale], [0, scale, first[1] + top * scale]])
        size, flags = (right - left, bottom - top), cv2.WARP_INVERSE_MAP
        part = np.s_[top:bottom, left:right]
        edge = cv2.BORDER_REPLICATE
        seen = _picture(cv2.warpAffine(plate.colour, to_plate, size, flags=flags | cv2.INTER_LINEAR, borderMode=edge))
        colour[part] = _faded(colour[part], seen, plate, to_plate) if number else seen
        coded = cv2.warpAffine(plate.coded, to_plate, size, flags=flags | cv2.INTER_NEAREST, borderMode=edge)
        nearness[part] = plate.nearness(coded)
        cover[part] = 255
        if plate.shared is not None:
            cv2.warpAffine(
                plate.cover(), to_plate, size, dst=cover[part], flags=flags | cv2.INTER_NEAREST, borderMode=edge
            )
    return colour, nearness, cover


def _faded(under: Picture, over: Picture, plate: Plate, to_plate: NDArray[np.float64]) -> Picture:
    """Return a part of a finer plate laid over what is there, fading out towards its edges: no seam shows."""
    shares = []
    for axis, length in ((1, plate.coded.shape[0]), (0, plate.coded.shape[1])):
        at = to_plate[axis, axis] * np.arange(over.shape[1 - axis]) + to_plate[axis, 2]
        shares.append(np.clip(np.minimum(at, length - 1 - at) / (_FADES * plate.unit_px), 0, 1))
    share = (shares[0][:, None] * shares[1][None, :]).astype(np.float32)[..., None]
    return _picture(np.rint(under + (over.astype(np.float32) - under) * share))


def _picture(values: object) -> Picture:
    return np.asarray(values, np.uint8)


def _layer(seen: _Seen, middles: list[float], index: int, *, margin: int, finer: int) -> Layered:
    """Return a layer of what is seen, ``finer`` times as fine as it is shown; empty where it holds nothing."""
    before = middles[index - 1] if index else -math.inf
    after = middles[index + 1] if index + 1 < len(middles) else math.inf
    full = middles[index] + _FULL_BY * (after - middles[index])  # from here on the next one hides this
    own = _mask(cv2.inRange(seen.nearness, before + _APART, full - _APART))
    if seen.holder is not None:
        alone = cv2.inRange(seen.holder, _ALONE, _ALONE)
        own = _mask(cv2.bitwise_or(cv2.bitwise_and(own, alone), cv2.inRange(seen.holder, index, index)))
    x, y, width, height = cv2.boundingRect(own)
    left, top, right, bottom = 0, 0, own.shape[1], own.shape[0]
    if index == 0:  # nothing shows behind the backdrop
        cover = np.full(own.shape, 255, np.uint8)
        known = own if width else cover
    elif not width:
        return _NOTHING
    else:
        left, top = (max(at - margin, 0) // finer * finer for at in (x, y))
        right, bottom = (
            min(-(-(x + width + margin) // finer) * finer, right),
            min(-(-(y + height + margin) // finer) * finer, bottom),
        )
        part = np.s_[top:bottom, left:right]
        own, seen = own[part], seen.part(part)
        # From one layer's nearness to the next it covers ever more, so that a slant goes from blur to blur evenly.
        rise = 255 / (_FULL_BY * (middles[index] - before))
        risen = seen.nearness * np.float32(rise) - np.float32(before * rise)
        share = cv2.threshold(risen, 255, 255, cv2.THRESH_TRUNC)[1]
        cover = _mask(cv2.bitwise_and(cv2.convertScaleAbs(np.maximum(share, 0)), _about(own, margin)))
        within = cv2.inRange(seen.nearness, -1.0, max(full - _APART, _RUNS_ON * middles[index]))
        known = _mask(cv2.bitwise_and(cv2.bitwise_or(cover, own), within))
        if seen.holder is not None:
            alone, mine = (cv2.inRange(seen.holder, one, one) for one in (_ALONE, index))
            known = _mask(cv2.bitwise_or(cv2.bitwise_and(known, alone), mine))
            cv2.copyTo(seen.cover, mine, cover)
    filled = _filled(seen.colour, known, cover)
    return _covering(filled, cover, finer), left // finer, top // finer


def _covering(colour: Picture, cover: Mask, finer: int) -> Picture:
    """Return the light of colours times cover, and cover, coded; ``finer`` pixels across and down are made one."""
    height, width = cover.shape
    pixels: Picture = np.zeros((height // finer, width // finer, 4), np.uint8)
    for top in range(0, height, _STRIP_PX):  # light takes four times the room
        rows = np.s_[top : top + _STRIP_PX]
        strip = light_of(np.asarray(cv2.merge((*cv2.split(colour[rows]), cover[rows])), np.uint8))
        strip[:3] *= strip[3]
        size = (width // finer, strip.shape[1] // finer)
        if finer > 1:
            strip = np.stack([cv2.resize(plane, size, interpolation=cv2.INTER_AREA) for plane in strip])
        pixels[top // finer : top // finer + size[1]] = coded(np.asarray(strip, np.float32))
    return pixels


def _mask(values: object) -> Mask:
    return np.asarray(values, np.uint8)


def _about(own: Mask, margin: int) -> Mask:
    """Return what lies within a margin of a mask, pixels, to a quarter of it."""
    step = max(margin // 4, 1)
    size = (max(own.shape[1] // step, 1), max(own.shape[0] // step, 1))
    coarse = cv2.threshold(cv2.resize(own, size, interpolation=cv2.INTER_AREA), 0, 255, cv2.THRESH_BINARY)[1]
    wide = cv2.dilate(coarse, np.ones((11, 11), np.uint8))
    return _mask(cv2.resize(wide, (own.shape[1], own.shape[0]), interpolation=cv2.INTER_NEAREST))


def _filled(colour: Picture, known: Mask, wanted: Mask) -> Picture:
    """Return colours with those that are not known taken from around, ever farther off until all wanted have one."""
    if not cv2.countNonZero(cv2.bitwise_and(wanted, cv2.bitwise_not(known))):
        return colour
    height, width = known.shape
    least = (max(width // _COARSER, 1), max(height // _COARSER, 1))
    known = _mask(cv2.threshold(known, 0, 255, cv2.THRESH_BINARY)[1])
    masked = cv2.bitwise_and(colour, cv2.cvtColor(known, cv2.COLOR_GRAY2BGR))
    total = np.asarray(cv2.resize(masked, least, interpolation=cv2.INTER_AREA), np.float32)
    weight = np.asarray(cv2.resize(known, least, interpolation=cv2.INTER_AREA), np.float32) / np.float32(255)
    slight = weight < _SLIGHT  # rounded too much to be divided by
    if not slight.all():
        weight[slight], total[slight] = 0, 0
    guess = np.clip(_pulled(total, weight) + 0.5, 0, 255).astype(np.uint8)
    out = cv2.resize(guess, (width, height), interpolation=cv2.INTER_LINEAR)
    return np.asarray(cv2.copyTo(colour, known, out), np.uint8)


def _pulled(total: Nearness, weight: Nearness) -> Nearness:
    """Return the mean colour of a sum over its weight; where there is none, that of ever more around it."""
    levels = [(total, weight)]
    while max(levels[-1][1].shape) > 1:
        above, below = levels[-1]
        size = (max(below.shape[1] // 2, 1), max(below.shape[0] // 2, 1))
        halves = [np.asarray(cv2.resize(one, size, interpolation=cv2.INTER_AREA), np.float32) for one in (above, below)]
        levels.append((halves[0].reshape(size[1], size[0], 3), halves[1].reshape(size[1], size[0])))
    guess: Nearness = np.asarray(levels[-1][0] / np.maximum(levels[-1][1], 1e-6)[..., None], np.float32)
    for above, below in reversed(levels[:-1]):
        finer = cv2.resize(guess, (below.shape[1], below.shape[0]), interpolation=cv2.INTER_LINEAR)
        guess = np.asarray(finer, np.float32).reshape(*below.shape, 3)
        share = np.minimum(below, 1.0)[..., None]
        guess = np.asarray(above / np.maximum(below, 1e-6)[..., None] * share + guess * (1 - share), np.float32)
    return guess
