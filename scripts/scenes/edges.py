"""Tell apart, in a rendered scene, what lies at an edge, and which of its parts stand free.

python scripts/scenes/edges.py NAME...   after render.py, and where that runs. A pixel at an edge shows two surfaces as
one colour. Sixteen rays through it tell how much is of the nearer one; the colour of the farther one is known from
around, so that of the nearer one is what is left. What hangs together by small steps is one part; it stands free where
it is about as far off all over.
"""

from __future__ import annotations

import argparse
import importlib
import json
import math
from dataclasses import dataclass, replace

import cv2
import numpy as np
from render import _CODE, _FINER, _WIDER, ASSETS, SIZE, toned
from world import World, mi

_RAYS = 4  # across and down a pixel
_TILE_PX = 400  # that are traced at once, across and down
_APART = 0.15  # of the nearer one's nearness, that two surfaces in a pixel are apart at least
_AROUND_PX = (2, 3, 4, 6)  # how far off the farther surface is looked for
_QUALITY = 94
_STEP = 0.02  # of the nearness, that a surface changes by from pixel to pixel at most
_FLAT = 0.25  # of its distance in nearness from the target, that a part may change by to be about as far off all over


@dataclass(frozen=True)
class Loaded:
    """The shapes of a scene as the renderer holds them, and what measures how far off they are: loaded once."""

    scene: object
    depths: object


def distances(loaded: Loaded, world: World, size: tuple[int, int], crop: tuple[int, int, int, int]):
    """Return how far off along the axis each of the rays through the pixels of a piece goes, shape (h, w, rays)."""
    left, top, width, height = (_RAYS * one for one in crop)
    film = {"type": "hdrfilm", "width": _RAYS * size[0], "height": _RAYS * size[1], "pixel_format": "rgb",
            "rfilter": {"type": "box"}, "crop_offset_x": left, "crop_offset_y": top, "crop_width": width,
            "crop_height": height}  # fmt: skip
    sensor = mi.load_dict({
        "type": "perspective", "fov": world.fov_deg, "fov_axis": "x", "film": film, "near_clip": 0.001,
        "to_world": mi.ScalarTransform4f().look_at(list(world.camera), list(world.aim), [0, 0, 1]),
        "sampler": {"type": "independent", "sample_count": 1},
    })  # fmt: skip
    found = np.array(mi.render(loaded.scene, sensor=sensor, integrator=loaded.depths, seed=1, spp=1))[..., 0]
    half = math.tan(math.radians(world.fov_deg) / 2)
    x = ((np.arange(width) + left + 0.5) / (_RAYS * size[0]) * 2 - 1) * half
    y = ((np.arange(height) + top + 0.5) / (_RAYS * size[1]) * 2 - 1) * half * size[1] / size[0]
    ahead = np.where(found > 0, found / np.sqrt(1 + x[None, :] ** 2 + y[:, None] ** 2), np.inf)
    rays = ahead.reshape(crop[3], _RAYS, crop[2], _RAYS).transpose(0, 2, 1, 3)
    return rays.reshape(crop[3], crop[2], _RAYS**2)


def told_apart(nearness):
    """Return how near the nearer surface of each pixel is, how much of it that covers, and how near the other is.

    Parameters
    ----------
    nearness
        Of each ray, shape (h, w, rays).
    """
    nearest, farthest = nearness.max(axis=2), nearness.min(axis=2)
    is_near = nearness > ((nearest + farthest) / 2)[..., None]
    is_near |= (nearest - farthest <= _APART * nearest)[..., None]
    count = is_near.sum(axis=2)
    near = (nearness * is_near).sum(axis=2) / count
    far = np.where(
        count < nearness.shape[2], (nearness * ~is_near).sum(axis=2) / np.maximum(nearness.shape[2] - count, 1), near
    )
    return near, count / nearness.shape[2], far


def without_the_farther(light, near, cover, far):
    """Return light with that of the farther surface taken out where two share a pixel, and the cover of the nearer.

    Where the farther one is not seen alone nearby the pixel is left as it is, and covered.
    """
    rows, columns = np.nonzero(cover < 1)
    middle = (near[rows, columns] + far[rows, columns]) / 2
    total, count = np.zeros((len(rows), 3)), np.zeros(len(rows))
    for radius in _AROUND_PX:
        for turn in range(12):
            y = np.clip(rows + round(radius * math.sin(turn * math.pi / 6)), 0, light.shape[0] - 1)
            x = np.clip(columns + round(radius * math.cos(turn * math.pi / 6)), 0, light.shape[1] - 1)
            seen = (cover[y, x] == 1) & (near[y, x] < middle)
            total += np.where(seen[:, None], light[y, x] / radius, 0)
            count += np.where(seen, 1 / radius, 0)
    found = count > 0
    rows, columns, total, count = rows[found], columns[found], total[found], count[found]
    kept = np.ones_like(cover)
    share = kept[rows, columns] = cover[rows, columns]
    left = np.clip(light[rows, columns] - (1 - share)[:, None] * total / count[:, None], 0, None)
    # What little is left of a small share is noise: it is taken together with what is beside it.
    weight, of_it = np.zeros(cover.shape), np.zeros_like(light)
    weight[rows, columns], of_it[rows, columns] = share, left
    weight, of_it = (cv2.blur(one, (3, 3)) for one in (weight, of_it))
    out = light.copy()
    out[rows, columns] = of_it[rows, columns] / weight[rows, columns, None]
    return out, kept


def standing_free(near):
    """Return nearness with each part that stands free as near as its mean, and where those are."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    number = np.arange(near.size).reshape(near.shape)
    pairs = []
    for (a, b), (one, other) in zip(beside(near), beside(number), strict=True):
        joined = np.abs(a - b) <= _STEP * np.maximum(a, b)
        pairs.append((one[joined], other[joined]))
    first, second = (np.concatenate(ends) for ends in zip(*pairs, strict=True))
    graph = coo_matrix((np.ones(len(first), bool), (first, second)), shape=(near.size, near.size))
    count, label = connected_components(graph, directed=False)
    values = near.ravel()
    mean = np.bincount(label, weights=values, minlength=count) / np.bincount(label, minlength=count)
    low, high = np.full(count, np.inf), np.full(count, -np.inf)
    np.minimum.at(low, label, values)
    np.maximum.at(high, label, values)
    is_free = high - low <= _FLAT * np.abs(1 - mean)
    free = is_free[label].reshape(near.shape)
    return np.where(free, mean[label].reshape(near.shape), near), free


def beside(values):
    """Return each pixel but the last of a row and the one to its right, and of a column and the one below."""
    return (values[:, :-1], values[:, 1:]), (values[:-1], values[1:])


def of_a_part(
    loaded: Loaded, world: World, name: str, part: str, size: tuple[int, int], corner: tuple[int, int], target: float
) -> None:
    """Write colours, nearness and cover of a picture anew."""
    levels = np.linspace(0, 12, 200_001)
    tone = toned(np.repeat(levels[:, None], 3, 1))[:, 0].astype(float)
    of_value = np.interp(np.arange(256), *(one[np.unique(tone, return_index=True)[1]] for one in (tone, levels)))
    colour = cv2.imread(str(ASSETS / name / f"{part}.webp"))
    light = of_value[colour].astype(np.float32)[..., ::-1]
    height, width = colour.shape[:2]
    near, cover, far = (np.zeros((height, width)) for _ in range(3))
    for top in range(0, height, _TILE_PX):
        for left in range(0, width, _TILE_PX):
            piece = np.s_[top : min(top + _TILE_PX, height), left : min(left + _TILE_PX, width)]
            crop = (corner[0] + left, corner[1] + top, *near[piece].shape[::-1])
            near[piece], cover[piece], far[piece] = told_apart(target / distances(loaded, world, size, crop))
    light, cover = without_the_farther(light, near, cover, far)
    near, free = standing_free(near)
    shown = np.where((cover < 1)[..., None], toned(light), colour)
    folder = ASSETS / name
    cv2.imwrite(str(folder / f"{part}.webp"), shown, [cv2.IMWRITE_WEBP_QUALITY, _QUALITY])
    code = _CODE["middle"] + _CODE["steps"] * np.arcsinh((near - 1) / _CODE["unit"])
    packed = [cv2.IMWRITE_PNG_COMPRESSION, 9]
    cv2.imwrite(str(folder / f"{part}-nearness.png"), np.clip(np.rint(code), 0, 255).astype(np.uint8), packed)
    cv2.imwrite(str(folder / f"{part}-cover.png"), np.rint(255 * cover).astype(np.uint8), packed)
    cv2.imwrite(str(folder / f"{part}-free.png"), 255 * free.astype(np.uint8), [*packed, cv2.IMWRITE_PNG_BILEVEL, 1])
    print(f"{name} {part}: {(cover < 1).mean():.1%} lie at an edge, {free.mean():.1%} stand free", flush=True)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("names", nargs="+")
    for name in parser.parse_args().names:
        told = json.loads((ASSETS / name / "scene.json").read_text("utf-8"))
        if told.get("edges"):
            raise SystemExit(f"The edges of {name} are told apart already: render it anew first")
        world: World = importlib.import_module(name).world()
        spot, point = told["spots"][1], next(iter(world.spots.values()))
        target = spot["nearness"] * world.place(point)[2]  # as it was met when the scene was rendered
        wide = replace(world, fov_deg=2 * math.degrees(math.atan(_WIDER * math.tan(math.radians(world.fov_deg) / 2))))
        loaded = Loaded(
            mi.load_dict({"type": "scene", **world.shapes}), mi.load_dict({"type": "aov", "aovs": "depth:depth"})
        )
        unit = _FINER * SIZE[0] / 36
        corner = tuple(round((told["fine"][side] + half) * unit) for side, half in (("left", 18), ("top", 12)))
        of_a_part(loaded, world, name, "fine", (_FINER * SIZE[0], _FINER * SIZE[1]), corner, target)
        of_a_part(loaded, wide, name, "whole", SIZE, (0, 0), target)
        (ASSETS / name / "scene.json").write_text(json.dumps(told | {"edges": True}, indent=1) + "\n", "utf-8")


if __name__ == "__main__":
    main()
