"""Whether the sharpness map finds the depth that was focused on: every scene, noise, grain, JPEG and contrast.

A scene's layers are the slices. One is focused on; the place the map names best must lie on it, or on one that is as
sharp to a pixel.
"""

from __future__ import annotations

import itertools
import sys
from collections import Counter
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from welotrope.core.finder.canvas import FRAME_UNITS
from welotrope.core.finder.scenes import PAINTED
from welotrope.core.optics.blur import defocus_blur
from welotrope.core.optics.thin_lens import extension_at_object_distance
from welotrope.core.picture.sharpness_map import LONG_CELLS, sharpness_map
from welotrope.demo.pictures import Wear, render, scene_called, worn

WIDTH, FOCAL_MM, STOP = 1536, 50.0, 1.4
SHARP_PX, ENOUGH, NEARLY = 2.0, 0.004, 0.05
WEARS = tuple(
    Wear(contrast=contrast, iso=iso, grain=grain, quality=quality)
    for contrast, (iso, grain), quality in itertools.product(
        (0.1, 0.3, 0.6, 0.9), ((100, 0), (800, 0), (3200, 0), (6400, 0), (100, 0.03)), (70, 85, 95)
    )
)


@dataclass
class Stand:
    """A scene: what it shows focused on each layer that has detail, and which layer is seen where."""

    labels: NDArray[np.int32]
    distances: list[float]
    focused: dict[int, np.ndarray]

    def blur_px(self, layer: int, focused: int) -> float:
        """Diameter of the blur disc of a layer when another is focused on, pixels."""
        at, on = (extension_at_object_distance(self.distances[one], FOCAL_MM) for one in (layer, focused))
        return abs(float(defocus_blur(at, on, FOCAL_MM, STOP))) / FRAME_UNITS[0] * WIDTH


def stand(name: str, seed: int) -> Stand:
    scene = scene_called(name, seed, FOCAL_MM)
    labels = np.zeros((WIDTH * 2 // 3, WIDTH), np.int32)
    before = None
    for index in range(len(scene.layers)):
        shown = render(replace(scene, layers=scene.layers[: index + 1], target=0), FOCAL_MM, None, STOP, WIDTH)
        if before is not None:
            labels[np.any(shown != before, axis=2)] = index
        before = shown
    grey = cv2.cvtColor(before, cv2.COLOR_BGR2GRAY)
    edges = np.hypot(cv2.Sobel(grey, cv2.CV_32F, 1, 0), cv2.Sobel(grey, cv2.CV_32F, 0, 1)) > 160
    with_detail = [k for k in range(len(scene.layers)) if (edges & (labels == k)).mean() > ENOUGH] or [scene.target]
    return Stand(
        labels, [layer.distance_mm for layer in scene.layers],
        {
            k: cv2.cvtColor(render(scene, FOCAL_MM, scene.layers[k].distance_mm, STOP, WIDTH), cv2.COLOR_BGR2GRAY)
            for k in with_detail
        },
    )  # fmt: skip


def judged(stand: Stand, focused: int, picture: np.ndarray) -> tuple[bool, bool]:
    """Whether the best place lies on what is as sharp as the layer focused on, and whether on it or the next."""
    places = sharpness_map(picture).places
    if not places:
        return False, False
    side = WIDTH // LONG_CELLS
    row, col = int(places[0].y * picture.shape[0]) // side * side, int(places[0].x * WIDTH) // side * side
    seen, counts = np.unique(stand.labels[row : row + side, col : col + side], return_counts=True)
    there = [int(k) for k, count in zip(seen, counts, strict=True) if count > NEARLY * side * side]
    sharp = [k for k in range(len(stand.distances)) if stand.blur_px(k, focused) <= SHARP_PX]
    order = sorted(range(len(stand.distances)), key=lambda k: stand.distances[k])
    ranks = [order.index(k) for k in sharp]
    near = any(min(ranks) - 1 <= order.index(k) <= max(ranks) + 1 for k in there)
    return any(k in sharp for k in there), near


# Scenes that it was made with, and others; and which of the ways of wear comes next.
KNOWN, FRESH = (range(4), 7), (range(12, 16), 17)


def accuracy(count: int, scenes: tuple[range, int] = KNOWN) -> tuple[float, float, float, list[str]]:
    seeds, stride = scenes
    stands = [(name, stand(name, seed)) for name in PAINTED for seed in seeds]
    right = close = tried = flat_cells = flat_sharp = 0
    wrong: list[str] = []
    for number in range(count):
        name, shown = stands[number % len(stands)]
        focused = list(shown.focused)[number // len(stands) % len(shown.focused)]
        wear = WEARS[number * stride % len(WEARS)]
        hit, near = judged(shown, focused, worn(shown.focused[focused], wear, number))
        right, close, tried = right + hit, close + near, tried + 1
        if not hit:
            wrong.append(f"{name} {wear} {focused}{'' if near else ' far'}")
        scores = sharpness_map(worn(np.full((512, 768), 128, np.uint8), wear, number)).scores
        flat_cells, flat_sharp = flat_cells + scores.size, flat_sharp + int(np.sum(np.nan_to_num(scores) > 0.5))
    return right / tried, close / tried, flat_sharp / flat_cells, wrong


if __name__ == "__main__":
    for scenes in (KNOWN, FRESH):
        found = accuracy(int(sys.argv[1]) if len(sys.argv) > 1 else 336, scenes)
        print(found[:3])
        print("\n".join(found[3]))
        print(Counter(one.split()[0] for one in found[3]), Counter(one.split("(")[1].split(",")[0] for one in found[3]))
