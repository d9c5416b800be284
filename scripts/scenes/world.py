"""What scenes are made of: surfaces, ropes, bodies, and the camera that looks at them.

Lengths are in metres of the scene, x to the right, y away, z up; colours are linear light, 0 to 1.
"""

from __future__ import annotations

import tempfile
from dataclasses import dataclass, field
from pathlib import Path

import mitsuba as mi
import numpy as np
from numpy.typing import NDArray

mi.set_variant("llvm_ad_rgb")
from mitsuba import ScalarTransform4f as Transform  # noqa: E402 - is there only once a variant is chosen

Grid = NDArray[np.floating]
Random = np.random.Generator
Shape = dict[str, object]
Colour = tuple[float, float, float]


@dataclass
class World:
    """A scene as it stands before the camera.

    Parameters
    ----------
    name
        Its key in the list of scenes.
    camera, aim
        Where the camera stands and what it is pointed at.
    fov_deg
        Across the frame.
    target, target_name
        The spot to focus on, and what it is in words.
    spots
        Others that exercises may name, by what they are.
    focal_lengths
        How far off its target may be laid, in focal lengths of the lens.
    brightness
        1 for daylight.
    exposure
        Factor on the light before the tone curve.
    comes_in_s
        How long what moves takes to the camera, seconds, the least and the most; None where nothing does.
    shapes
        The scene's parts, for Mitsuba.
    """

    name: str
    camera: tuple[float, float, float]
    aim: tuple[float, float, float]
    fov_deg: float
    target: tuple[float, float, float]
    target_name: str
    spots: dict[str, tuple[float, float, float]] = field(default_factory=dict)
    focal_lengths: tuple[float, float] = (16.0, 60.0)
    brightness: float = 1.0
    exposure: float = 1.0
    comes_in_s: tuple[float, float] | None = None
    shapes: dict[str, Shape] = field(default_factory=dict)

    def add(self, *shapes: object) -> None:
        """Put shapes into the scene."""
        for shape in shapes:
            self.shapes[f"s{len(self.shapes)}"] = shape

    def axes(self) -> tuple[Grid, Grid, Grid]:
        """Return the directions right, down and away of the picture."""
        away = np.subtract(self.aim, self.camera)
        away = away / np.linalg.norm(away)
        right = np.cross(away, [0, 0, 1.0])
        right /= np.linalg.norm(right)
        return right, np.cross(away, right), away

    def place(self, point: tuple[float, float, float]) -> tuple[float, float, float]:
        """Return where a point lies in the picture, in thirty-sixths of its width from the middle, and how far off."""
        right, down, away = self.axes()
        off = np.subtract(point, self.camera)
        z = float(off @ away)
        scale = 18 / np.tan(np.radians(self.fov_deg) / 2) / z
        return float(off @ right) * scale, float(off @ down) * scale, z


def noise(rng: Random, rows: int, columns: int, *, along: float = 1.0, across: float = 1.0, steep: float = 1.1) -> Grid:
    """Return smooth random values of mean 0 and scatter 1 that repeat at the edges; drawn out along rows or columns."""
    fy = np.fft.fftfreq(rows)[:, None] * across
    fx = np.fft.rfftfreq(columns)[None] * along
    wave = np.fft.rfft2(rng.normal(size=(rows, columns))) / (np.hypot(fx, fy) + 2e-3) ** steep
    values = np.fft.irfft2(wave, (rows, columns))
    return (values - values.mean()) / values.std()


def solid_noise(rng: Random, points: Grid, *, waves: int = 60, low: float = 1.0, high: float = 8.0) -> Grid:
    """Return smooth random values at points in space, shape (n, 3), from plane waves of many lengths."""
    total = np.zeros(len(points))
    for _ in range(waves):
        frequency = np.exp(rng.uniform(np.log(low), np.log(high)))
        way = rng.normal(size=3)
        way *= 2 * np.pi * frequency / np.linalg.norm(way)
        total += np.sin(points @ way + rng.uniform(0, 2 * np.pi)) / frequency**0.8
    return total / (total.std() or 1.0)


def texture(values: Grid) -> Shape:
    """Return an image as a texture; linear light."""
    pixels = np.ascontiguousarray(values if values.ndim == 3 else values[..., None], np.float32)
    return {"type": "bitmap", "bitmap": mi.Bitmap(pixels), "raw": True}


def surface(colour: object, *, roughness: float = 0.6, bump: Grid | None = None, bump_scale: float = 1.0,
            **more: object) -> Shape:  # fmt: skip
    """Return a surface of a colour, (r, g, b), an image of it or a texture; ``bump`` is its relief."""
    if isinstance(colour, tuple):
        base: object = {"type": "rgb", "value": list(colour)}
    else:
        base = texture(colour) if isinstance(colour, np.ndarray) else colour
    plain = {"type": "principled", "base_color": base, "roughness": roughness, **more}
    if bump is None:
        return {"type": "twosided", "bsdf": plain}
    return {"type": "twosided", "bsdf": {"type": "bumpmap", "scale": bump_scale, "map": texture(bump), "bsdf": plain}}


def wood(rng: Random, *, rows: int = 512, columns: int = 2048, tone: float = 1.0, dark: Colour = (0.26, 0.165, 0.095),
         light: Colour = (0.60, 0.43, 0.27), cracks: float = 2.3) -> tuple[Grid, Grid]:  # fmt: skip
    """Return the colour of planed wood, its grain along the rows, and its relief."""
    y = np.linspace(0, 1, rows)[:, None]
    warp = 0.06 * noise(rng, rows, columns, along=9, steep=1.6)
    rings = np.sin(2 * np.pi * (14 * (y + warp) + 0.6 * noise(rng, rows, columns, along=14, steep=1.8)))
    fibres = noise(rng, rows, columns, along=26, steep=0.75)
    height = 0.5 + 0.14 * rings + 0.1 * fibres
    colour = np.array(dark) + (np.array(light) - np.array(dark)) * np.clip(height, 0, 1)[..., None]
    crack = np.clip(noise(rng, rows, columns, along=40, steep=0.9) - cracks, 0, 1)[..., None]
    return np.clip(colour * tone * (1 - 0.8 * crack), 0.01, 1), height + 0.15 * fibres


def curves(lines: list[Grid], bsdf: Shape) -> Shape:
    """Return lines of points and radii, shape (n, 4), as round threads."""
    with tempfile.NamedTemporaryFile("w", suffix=".txt", delete=False) as file:
        for line in lines:
            np.savetxt(file, line, fmt="%.5f")
            file.write("\n")
    return {"type": "bsplinecurve", "filename": str(Path(file.name)), "bsdf": bsdf}


def boarding(
    rng: Random, *, away: float, tone: float, across: float, wide: float = 3.2, high: float = 3.0
) -> list[Shape]:
    """Return an upright wall of boards so far away, metres, the dark behind their gaps too; each ``across`` broad."""
    made: list[Shape] = []
    for k in range(-int(wide / across), int(wide / across) + 1):
        colour, relief = wood(rng, tone=tone * (0.75 + 0.5 * rng.random()))
        made.append({
            "type": "cube", "bsdf": surface(colour, roughness=0.7, bump=relief, bump_scale=0.03),
            "to_world": Transform().translate([k * across, away, 0]).rotate([0, 1, 0], 90).scale([high, 0.03, across * 0.487]),
        })  # fmt: skip
    dark = surface((0.012, 0.01, 0.008), roughness=1.0)
    return [*made, {"type": "cube", "bsdf": dark,
                    "to_world": Transform().translate([0, away + 0.2, 0]).scale([wide * 2, 0.05, high * 1.5])}]  # fmt: skip


def rope(rng: Random, path: Grid, radius: float, *, twist: float = 3.2, fibres: int = 40) -> list[Grid]:
    """Return three strands laid about a path, shape (n, 3), and loose fibres on them.

    ``twist`` is how many radii the strands run on in one turn, divided by two.
    """
    step = np.linalg.norm(np.diff(path, axis=0), axis=1)
    run = np.concatenate(([0.0], np.cumsum(step)))
    count = max(int(run[-1] / (radius * 0.5)), 16)
    at = np.linspace(0, run[-1], count)
    middle = np.column_stack([np.interp(at, run, path[:, k]) for k in range(3)])
    ahead = np.gradient(middle, axis=0)
    ahead /= np.linalg.norm(ahead, axis=1, keepdims=True)
    side = np.cross(ahead, [0.13, 0.21, 1.0])
    side /= np.linalg.norm(side, axis=1, keepdims=True)
    up = np.cross(side, ahead)
    lines = []
    for strand in range(3):
        turn = at / (radius * twist) + strand * 2 * np.pi / 3
        way = np.cos(turn)[:, None] * side + np.sin(turn)[:, None] * up
        core = middle + 0.54 * radius * way
        lines.append(np.column_stack((core, np.full(count, 0.52 * radius))))
        across = np.cross(ahead, way)
        for yarn in range(_YARNS):  # laid the other way round, as in a rope that does not unlay itself
            spin = -1.9 * turn + yarn * 2 * np.pi / _YARNS
            out = np.cos(spin)[:, None] * way + np.sin(spin)[:, None] * across
            thick = 0.12 * radius * (1 + 0.15 * np.sin(at / radius * rng.uniform(0.5, 2) + rng.uniform(0, 6)))
            lines.append(np.column_stack((core + 0.47 * radius * out, thick)))
        for _ in range(int(fibres * run[-1] / (radius * 60))):
            first = rng.integers(0, max(count - 60, 1))
            part = slice(first, first + min(int(rng.integers(20, 60)), count))
            lift = np.linspace(0, 1, len(at[part]))[:, None] ** 3 * rng.normal(size=3) * radius * 0.8
            out = way[part] * np.cos(0.9) + rng.normal(size=3) * 0.25
            out /= np.linalg.norm(out, axis=1, keepdims=True)
            fine = core[part] + 0.62 * radius * out + lift
            lines.append(np.column_stack((fine, np.full(len(fine), radius * 0.012))))
    return lines


_YARNS = 11
HEMP = surface((0.40, 0.285, 0.165), roughness=0.85, sheen=0.5)


def mesh(points: Grid, faces: Grid, *, bsdf: Shape, colours: Grid | None = None, uv: Grid | None = None) -> object:
    """Return a body from its points, shape (n, 3), and triangles, shape (m, 3); coloured by point where given."""
    props = mi.Properties()
    props["bsdf"] = mi.load_dict(bsdf)
    body = mi.Mesh("body", len(points), len(faces), has_vertex_normals=True, has_vertex_texcoords=uv is not None,
                   props=props)  # fmt: skip
    params = mi.traverse(body)
    params["vertex_positions"] = np.ascontiguousarray(points, np.float32).ravel()
    params["faces"] = np.ascontiguousarray(faces, np.uint32).ravel()
    if uv is not None:
        params["vertex_texcoords"] = np.ascontiguousarray(uv, np.float32).ravel()
    params.update()
    if colours is not None:
        body.add_attribute("vertex_color", 3, np.ascontiguousarray(colours, np.float32).ravel())
    body.recompute_vertex_normals()
    return body


def joined(bodies: list[tuple[Grid, Grid, Grid]], *, bsdf: Shape) -> object:
    """Return many bodies, each its points, triangles and colours, as one: a scene of hundreds takes for ever."""
    first = np.cumsum([0] + [len(points) for points, _, _ in bodies[:-1]])
    return mesh(
        np.concatenate([points for points, _, _ in bodies]),
        np.concatenate([faces + at for (_, faces, _), at in zip(bodies, first, strict=True)]), bsdf=bsdf,
        colours=np.concatenate([colours for _, _, colours in bodies]),
    )  # fmt: skip


BY_POINT = {"type": "mesh_attribute", "name": "vertex_color"}


def grid_faces(rows: int, columns: int) -> Grid:
    """Return the triangles of points that lie in rows and columns."""
    number = np.arange(rows * columns).reshape(rows, columns)
    a, b, c, d = (one.ravel() for one in (number[:-1, :-1], number[:-1, 1:], number[1:, :-1], number[1:, 1:]))
    return np.concatenate((np.column_stack((a, b, d)), np.column_stack((a, d, c))))


def sheet(points: Grid, *, bsdf: Shape, colours: Grid | None = None) -> object:
    """Return a surface from points in rows and columns, shape (rows, columns, 3)."""
    rows, columns = points.shape[:2]
    u, v = np.meshgrid(np.linspace(0, 1, columns), np.linspace(0, 1, rows))
    return mesh(
        points.reshape(-1, 3), grid_faces(rows, columns), bsdf=bsdf, uv=np.column_stack((u.ravel(), v.ravel())),
        colours=None if colours is None else colours.reshape(-1, 3),
    )  # fmt: skip


def turned(profile: Grid, base: tuple[float, float, float], *, bsdf: Shape, sides: int = 160) -> object:
    """Return what a lathe makes of a profile of radii and heights, shape (n, 2), standing at a place."""
    angle = np.linspace(0, 2 * np.pi, sides + 1)
    radius, height = profile[:, :1], profile[:, 1:]
    points = np.stack(
        (base[0] + radius * np.cos(angle), base[1] + radius * np.sin(angle), base[2] + height + 0 * angle), axis=-1
    )
    return sheet(points, bsdf=bsdf)


def carved(distance: object, low: Grid, high: Grid, count: int) -> tuple[Grid, Grid]:
    """Return points and triangles of the surface on which a function of points, shape (n, 3), is 0."""
    from skimage.measure import marching_cubes

    axes = [np.linspace(low[k], high[k], count) for k in range(3)]
    x, y, z = np.meshgrid(*axes, indexing="ij")
    values = distance(np.column_stack((x.ravel(), y.ravel(), z.ravel()))).reshape(count, count, count)
    points, faces, _, _ = marching_cubes(values, 0.0)
    return low + points / (count - 1) * (np.subtract(high, low)), faces[:, ::-1]


def blended(one: Grid, other: Grid, radius: float) -> Grid:
    """Return the union of two distance fields, rounded where they meet."""
    h = np.clip(0.5 + 0.5 * (other - one) / radius, 0, 1)
    return other * (1 - h) + one * h - radius * h * (1 - h)


def ellipsoid(points: Grid, middle: Grid, radii: Grid) -> Grid:
    """Return about how far points are from an ellipsoid."""
    off = (points - middle) / radii
    length = np.linalg.norm(off, axis=1)
    return length * (length - 1) / np.maximum(np.linalg.norm(off / radii, axis=1), 1e-9)


def sky(zenith: Colour, horizon: Colour, *, clouds: float = 0.0, seed: int = 1) -> Shape:
    """Return light from a sky, lighter towards the horizon, with soft clouds."""
    rng = np.random.default_rng(seed)
    rows, columns = 256, 512
    up = np.clip(np.linspace(1, -1, rows), 0, 1)[:, None, None] ** 0.6
    light = np.array(horizon) * (1 - up) + np.array(zenith) * up + np.zeros((rows, columns, 1))
    veil = np.clip(0.5 + 0.5 * noise(rng, rows, columns, along=1.2, across=2.6, steep=1.9), 0, 1)[..., None]
    light = light * (1 + clouds * (veil - 0.4))
    return {"type": "envmap", "bitmap": mi.Bitmap(np.ascontiguousarray(light, np.float32)),
            "to_world": Transform().rotate([1, 0, 0], 90)}  # fmt: skip


def lamp(at: tuple[float, float, float], to: tuple[float, float, float], size: float, light: Colour) -> Shape:
    """Return a bright square, such as a window or a break in the clouds, that faces a place."""
    return {
        "type": "rectangle", "to_world": Transform().look_at(list(at), list(to), [0, 0.01, 1]).scale([size, size, 1]),
        "emitter": {"type": "area", "radiance": {"type": "rgb", "value": list(light)}},
    }  # fmt: skip
