"""Render scenes to what ships: colours, nearness and spots. Takes minutes a scene on two cores.

python scripts/scenes/render.py [--draft] NAME...   in an environment with mitsuba, pyoidn, scikit-image and OpenCV;
DRJIT_LIBLLVM_PATH names libLLVM of version 19.
"""

from __future__ import annotations

import argparse
import importlib
import json
import math
from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np
from world import World, mi

ASSETS = Path(__file__).parents[2] / "src" / "welotrope" / "assets" / "scenes"
SIZE = (2400, 1600)
_WIDER = 1.5  # times the frame that is rendered, so that it is full wherever the camera is aimed
_FINER = 3  # times, about what is focused on
_FINE_SIZE = (1800, 1200)
_QUALITY = 92  # of colours: fine texture is what focus is judged by
_AT_ONCE = 2  # samples of a pixel at a time: the renderer falls over with many more
_CODE = {"middle": 128, "steps": 22, "unit": 0.02}  # how nearness is written
_BRIGHT = 3.0  # of white, from which on a spot is a light of its own
_LONGER = 1.6  # times as long as wide, above which it is a streak and stays in the picture
_CHANGED = 0.12  # of the light, from which on water is a mirror or in a shade
_SHADES = 2.2  # thirty-sixths of the frame's width, how far about what moves that is looked for
_SHADED = 1.05  # of the distance of the farthest of what moves, up to which it is
_FULL = 0.65  # of the box about it, which less fills of a ragged glint; a disc fills 0.785


def rendered(world: World, size: tuple[int, int], samples: int, *, crop: tuple[int, int, int, int] | None = None):
    """Return colour as linear light, shape (h, w, 3), and distance along the axis, infinite for the sky."""
    import pyoidn

    film = {"type": "hdrfilm", "width": size[0], "height": size[1], "pixel_format": "rgb",
            "rfilter": {"type": "box"}}  # fmt: skip
    if crop:
        film |= dict(zip(("crop_offset_x", "crop_offset_y", "crop_width", "crop_height"), crop, strict=True))
    scene = mi.load_dict({
        "type": "scene",
        "integrator": {
            "type": "aov", "aovs": "depth:depth,normal:sh_normal,albedo:albedo",
            "image": {"type": "path", "max_depth": 7},
        },
        "sensor": {
            "type": "perspective", "fov": world.fov_deg, "fov_axis": "x", "film": film, "near_clip": 0.001,
            "to_world": mi.ScalarTransform4f().look_at(list(world.camera), list(world.aim), [0, 0, 1]),
            "sampler": {"type": "independent", "sample_count": _AT_ONCE},
        },
        **world.shapes,
    })  # fmt: skip
    total, nearest = None, None
    passes = max(samples // _AT_ONCE, 1)
    for seed in range(passes):
        image = np.array(mi.render(scene, seed=seed, spp=_AT_ONCE))
        total = image if total is None else total + image
    mean = (total / passes).astype(np.float32)
    # Distance is that of a single sample: a mean of edge and background lies at neither.
    one = np.array(mi.render(scene, seed=99, spp=1))
    nearest = one[..., 3]
    colour, normal, albedo = mean[..., :3], mean[..., 4:7], mean[..., 7:10]
    colour = pyoidn.denoise(np.ascontiguousarray(colour), albedo=np.ascontiguousarray(np.clip(albedo, 0, 1)),
                            normal=np.ascontiguousarray(normal), hdr=True)  # fmt: skip
    x0, y0 = crop[:2] if crop else (0, 0)
    height, width = nearest.shape
    half = np.tan(np.radians(world.fov_deg) / 2)
    x = ((np.arange(width) + x0 + 0.5) / size[0] * 2 - 1) * half
    y = ((np.arange(height) + y0 + 0.5) / size[1] * 2 - 1) * half * size[1] / size[0]
    ahead = nearest / np.sqrt(1 + x[None, :] ** 2 + y[:, None] ** 2)
    return np.asarray(colour), np.where(nearest > 0, ahead, np.inf)


def toned(light):
    """Return linear light as the values of a picture, 8 bit BGR: bright parts roll off as on film."""
    x = np.clip(light, 0, None)
    shown = np.clip((x * (2.51 * x + 0.03)) / (x * (2.43 * x + 0.59) + 0.14), 0, 1) ** (1 / 2.2)
    return (shown[..., ::-1] * 255 + 0.5).astype(np.uint8)


def lights_in(light, ahead, target: float) -> list[dict[str, object]]:
    """Return bright small spots: where they lie, how near, how strong and of what colour."""
    level = light.max(axis=2)
    count, labels, stats, middles = cv2.connectedComponentsWithStats((level > _BRIGHT).astype(np.uint8))
    found = []
    unit = _WIDER * 36 / light.shape[1]
    for k in range(1, count):
        area = int(stats[k, cv2.CC_STAT_AREA])
        narrow, long = sorted(int(side) for side in stats[k, [cv2.CC_STAT_WIDTH, cv2.CC_STAT_HEIGHT]])
        if area > 1500 or long > _LONGER * narrow + 1 or area < _FULL * narrow * long:
            continue
        here = labels == k
        excess = light[here] - 1.0
        strength = float(np.clip(excess, 0, None).max(axis=1).sum()) * (_WIDER * 900 / light.shape[1]) ** 2
        mean = np.clip(excess, 0, None).mean(axis=0)
        mean = mean / mean.max()
        nearness = float(np.median(target / ahead[here]))
        if strength > 0.4:
            found.append({
                "x": round((middles[k][0] + 0.5 - light.shape[1] / 2) * unit, 3),
                "y": round((middles[k][1] + 0.5 - light.shape[0] / 2) * unit, 3),
                "nearness": round(nearness, 4), "strength": round(strength, 2),
                "across": round(2 * math.sqrt(area / math.pi) * unit, 3),
                "colour": [round(255 * float(c) ** (1 / 2.2)) for c in mean[::-1]],
            })  # fmt: skip
    return sorted(found, key=lambda one: -one["strength"])[:60]


def put(folder: Path, name: str, light, ahead, target: float, exposure: float) -> None:
    """Write colours and nearness of a rendered picture: one byte a pixel, fine about the target and coarse far off."""
    cv2.imwrite(str(folder / f"{name}.webp"), toned(light * exposure), [cv2.IMWRITE_WEBP_QUALITY, _QUALITY])
    code = _CODE["middle"] + _CODE["steps"] * np.arcsinh((target / ahead - 1) / _CODE["unit"])
    cv2.imwrite(str(folder / f"{name}-nearness.png"), np.clip(np.rint(code), 0, 255).astype(np.uint8),
                [cv2.IMWRITE_PNG_COMPRESSION, 9])  # fmt: skip


def moving_part(light, ahead, staying, per_unit: float):
    """Return how far off what moves is, infinite elsewhere: what hides, mirrors itself in or shades what stays.

    Parameters
    ----------
    light, ahead
        The whole scene, and how far off it is.
    staying
        Light and distance of what stays, without what moves.
    per_unit
        Pixels to a thirty-sixth of the frame's width.
    """
    still, behind = staying
    nearer = ahead < 0.998 * behind
    water = np.float32(~nearer)
    # Without what moves itself: its own light beside the water would make a rim of that water part of it.
    other = np.abs(light - still).mean(axis=2) / (still.mean(axis=2) + 0.02) * water
    changed = cv2.GaussianBlur(other, (0, 0), 4.0) > _CHANGED * np.maximum(cv2.GaussianBlur(water, (0, 0), 4.0), 0.05)
    size = round(2 * _SHADES * per_unit) | 1
    about = cv2.dilate(nearer.astype(np.uint8), np.ones((size, size), np.uint8)) > 0
    level = ~nearer & (ahead < _SHADED * ahead[nearer].max())
    changed = (
        cv2.morphologyEx((changed & about & level).astype(np.uint8), cv2.MORPH_OPEN, np.ones((5, 5), np.uint8)) > 0
    )
    there = nearer | changed
    # Of an edge pixel one ray tells, which meets either: what is beside it decides.
    smooth = cv2.medianBlur(there.astype(np.uint8), 5) > 0
    beside = cv2.erode(np.where(there, ahead, np.inf).astype(np.float32), np.ones((5, 5), np.uint8))
    return np.where(smooth, np.where(there, ahead, beside), np.inf)


def put_moving(folder: Path, name: str, seen, staying, target: float, exposure: float, per_unit: float) -> None:
    """Write what moves of a picture, light and distance, that differs from what stays: beside it a mean colour."""
    light, ahead = seen
    apart = moving_part(light, ahead, staying, per_unit)
    near = cv2.dilate(np.isfinite(apart).astype(np.uint8), np.ones((9, 9), np.uint8)) > 0
    put(folder, f"moving-{name}", np.where(near[..., None], light, light[near].mean(axis=0)), apart, target, exposure)


def describe(folder: Path) -> None:
    """Write to each spot the contrast about it, and along which way its detail runs, degrees from level, if along any."""
    told = json.loads((folder / "scene.json").read_text("utf-8"))
    for spot in told["spots"]:
        for part in ("fine", "whole"):
            place = told[part]
            kind = "moving-" if told.get("comes_in_s") else ""
            grey = cv2.imread(str(folder / f"{kind}{part}.webp"), cv2.IMREAD_GRAYSCALE).astype(np.float64)
            per_unit = grey.shape[1] / place["width"]
            column, row = (round((spot[axis] - place[side]) * per_unit) for axis, side in (("x", "left"), ("y", "top")))
            half = round(0.6 * per_unit)
            here = grey[max(row - half, 0) : row + half, max(column - half, 0) : column + half]
            if here.shape == (2 * half, 2 * half):
                break
        else:
            continue  # it lies beyond the picture
        across, down = cv2.Sobel(here, cv2.CV_64F, 1, 0), cv2.Sobel(here, cv2.CV_64F, 0, 1)
        xx, yy, xy = (across**2).mean(), (down**2).mean(), (across * down).mean()
        alike = math.hypot(xx - yy, 2 * xy) / max(xx + yy, 1e-9)
        light = (here / 255) ** 2.2
        spot["contrast"] = round(float(light.std() / light.mean()), 2)
        runs = round((math.degrees(math.atan2(2 * xy, xx - yy)) / 2 + 90 + 90) % 180 - 90)
        spot["runs_deg"] = runs if alike > 0.3 else None
    (folder / "scene.json").write_text(json.dumps(told, indent=1) + "\n", "utf-8")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("names", nargs="+")
    parser.add_argument("--draft", help="write a small, quick picture here and nothing else", type=Path)
    parser.add_argument(
        "--describe", help="work out anew what the spots are like, and nothing else", action="store_true"
    )
    parser.add_argument("--lights", help="work out the small lights anew, and nothing else", action="store_true")
    parser.add_argument("--samples", type=int, default=28)
    options = parser.parse_args()
    for name in options.names:
        if options.describe:
            describe(ASSETS / name)
            continue
        world: World = importlib.import_module(name).world()
        half = math.tan(math.radians(world.fov_deg) / 2)
        wide = replace(world, fov_deg=2 * math.degrees(math.atan(_WIDER * half)))
        if options.lights:
            path = ASSETS / name / "scene.json"
            told = json.loads(path.read_text("utf-8"))
            light, ahead = rendered(wide, SIZE, options.samples)
            spot, point = told["spots"][1], next(iter(world.spots.values()))
            target = spot["nearness"] * world.place(point)[2]  # as it was met when the scene was rendered
            told["lights"] = lights_in(light * world.exposure, ahead, target)
            path.write_text(json.dumps(told, indent=1) + "\n", "utf-8")
            continue
        if options.draft:
            light, _ = rendered(world, (720, 480), 8)
            cv2.imwrite(str(options.draft / f"{name}.png"), toned(light * world.exposure))
            continue
        x, y, aimed = world.place(world.target)
        folder = ASSETS / name
        folder.mkdir(parents=True, exist_ok=True)
        middle = [round((place / 36 + 0.5 * share) * _FINER * SIZE[0]) for place, share in ((x, 1.0), (y, 2 / 3))]
        corner = [
            min(max(at - side // 2, 0), _FINER * whole - side)
            for at, side, whole in zip(middle, _FINE_SIZE, SIZE, strict=True)
        ]
        finely = {
            "size": (SIZE[0] * _FINER, SIZE[1] * _FINER),
            "samples": options.samples // 2,
            "crop": (*corner, *_FINE_SIZE),
        }
        fine, fine_ahead = rendered(world, **finely)
        column, row = (at - first for at, first in zip(middle, corner, strict=True))
        met = fine_ahead[row - 25 : row + 26, column - 25 : column + 26].ravel()
        target = float(met[np.abs(met - aimed).argmin()])  # the spot itself, and not what is seen past it
        print(f"{name}: aimed at {aimed:.4f}, met {target:.4f}", flush=True)
        light, ahead = rendered(wide, SIZE, options.samples)
        if world.comes_in_s:
            stays = importlib.import_module(name).stays()
            unit_px = SIZE[0] / 36
            put_moving(
                folder, "fine", (fine, fine_ahead), rendered(stays, **finely), target, world.exposure, _FINER * unit_px
            )
            staying = rendered(replace(stays, fov_deg=wide.fov_deg), SIZE, options.samples)
            put_moving(folder, "whole", (light, ahead), staying, target, world.exposure, unit_px / _WIDER)
            light, ahead = staying
        else:
            put(folder, "fine", fine, fine_ahead, target, world.exposure)
        put(folder, "whole", light, ahead, target, world.exposure)
        unit = 36 / SIZE[0] / _FINER
        spots = [{"name": world.target_name, "x": x, "y": y, "nearness": 1.0}]
        for said, point in world.spots.items():
            sx, sy, sz = world.place(point)
            spots.append({"name": said, "x": sx, "y": sy, "nearness": target / sz})
        told = {
            "brightness": world.brightness,
            "focal_lengths": world.focal_lengths,
            **({"comes_in_s": world.comes_in_s} if world.comes_in_s else {}),
            "nearness": _CODE,
            "whole": {"left": -18 * _WIDER, "top": -12 * _WIDER, "width": 36 * _WIDER}, "spots": spots,
            "fine": {"left": corner[0] * unit - 18, "top": corner[1] * unit - 12, "width": _FINE_SIZE[0] * unit},
            "lights": lights_in(light * world.exposure, ahead, target),
        }  # fmt: skip
        (folder / "scene.json").write_text(json.dumps(told, indent=1) + "\n", "utf-8")
        describe(folder)
        print(name, "written", flush=True)


if __name__ == "__main__":
    main()
