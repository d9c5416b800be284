"""The scenes of the Skarnmere Slip: painted by code, different for every seed, or rendered; laid out for the lens."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from welotrope.core.errors import UnreadableError
from welotrope.core.finder.canvas import Canvas, Colour, View
from welotrope.core.finder.rendered import Renderings, laid_out
from welotrope.core.finder.scene import FocusRange, Layer, PointLight, Scene
from welotrope.core.practice.scene_list import RENDERED

Random = np.random.Generator
Maker = Callable[[Random, FocusRange], Scene]


def make_scene(name: str, seed: int, reach: FocusRange, renderings: Renderings | None = None) -> Scene:
    """Return a scene for a lens; the same seed and reach always give the same scene.

    ``renderings`` gives those rendered beforehand by their name; without it there are only the painted ones.

    Parameters
    ----------
    name
        Name of the scene.
    seed
        What chance follows from: the same seed gives the same.
    reach
        Distances in mm that the lens can be focused on.
    renderings
        Scenes rendered beforehand, by name.

    Raises
    ------
    UnreadableError
        When there is no scene of that name.
    """
    rng = np.random.default_rng(seed)
    if name in RENDERED and renderings is not None:
        return laid_out(name, renderings, rng, reach)
    maker = PAINTED.get(name)
    if maker is None:
        known = (*PAINTED, *(RENDERED if renderings is not None else ()))
        raise UnreadableError("scene", name, "there is none of that name", f"Choose from {', '.join(known)}")
    return maker(rng, reach)


def _shade(colour: Colour, by: float) -> Colour:
    b, g, r = (max(0, min(255, round(c * by))) for c in colour)
    return b, g, r


def _grain(
    canvas: Canvas,
    rng: Random,
    box: tuple[float, float, float, float],
    colour: Colour,
    count: int,
    *,
    upright: bool = False,
) -> None:
    """Draw the grain of wood within a box (x, y, width, height): fine lines along it, and a few knots."""
    x, y, width, height = box
    length, breadth = (height, width) if upright else (width, height)
    for _ in range(count):
        start, across = rng.uniform(0, length * 0.8), rng.uniform(0.03, 0.97) * breadth
        reach, bow = rng.uniform(0.1, 0.6) * length, rng.uniform(-0.02, 0.02) * breadth
        path = [(min(start + reach * k / 4, length), across + bow * math.sin(k)) for k in range(5)]
        placed = [(x + a, y + s) if upright else (x + s, y + a) for s, a in path]
        canvas.line(placed, rng.uniform(0.012, 0.035), _shade(colour, rng.uniform(0.55, 0.85)))
    for _ in range(count // 14):
        kx, ky = x + rng.uniform(0.05, 0.95) * width, y + rng.uniform(0.1, 0.9) * height
        size = rng.uniform(0.08, 0.2)
        canvas.ellipse(kx, ky, size, size * 0.7, _shade(colour, 0.4))
        canvas.ellipse(kx, ky, size * 0.5, size * 0.3, _shade(colour, 0.65))


def _lowered(paint: Callable[[Canvas], None], by: float) -> Callable[[Canvas], None]:
    """Return a painter that draws everything lower by so many picture units."""

    def painted(canvas: Canvas) -> None:
        with canvas.moved(0.0, by):
            paint(canvas)

    return painted


def _planks(base: Colour, seed: int, gap: float, *, upright: bool) -> Callable[[Canvas], None]:
    """Return a wall of planks that covers the frame."""

    def paint(canvas: Canvas) -> None:
        rng = np.random.default_rng(seed)
        canvas.fill(base)
        span = 60.0 if upright else 44.0
        for at in np.arange(-span / 2, span / 2, gap):
            tone = _shade(base, rng.uniform(0.75, 1.2))
            box = (float(at), -22.0, gap * 0.95, 44.0) if upright else (-30.0, float(at), 60.0, gap * 0.95)
            canvas.box(*box, tone)
            _grain(canvas, rng, box, tone, 14, upright=upright)

    return paint


def _shed(rng: Random, reach: FocusRange) -> Scene:
    """Make the dim shed: posts, a mast with rigging, and lamps behind."""
    at = reach.within(reach.focal_mm * rng.uniform(40, 90))
    wall_seed, mast_seed = (int(value) for value in rng.integers(0, 2**31, 2))
    mast_x = rng.uniform(-4, 4)

    def post(x: float, width: float, colour: Colour, seed: int) -> Callable[[Canvas], None]:
        def paint(canvas: Canvas) -> None:
            inner = np.random.default_rng(seed)
            canvas.box(x, -22, width, 44, colour)
            canvas.box(x, -22, width * 0.18, 44, _shade(colour, 1.35))
            canvas.box(x + width * 0.82, -22, width * 0.18, 44, _shade(colour, 0.6))
            _grain(canvas, inner, (x, -22, width, 44), colour, 60, upright=True)

        return paint

    def mast(canvas: Canvas) -> None:
        post(mast_x - 1.1, 2.2, (96, 140, 176), mast_seed)(canvas)
        for k in range(-4, 12):  # lashings and shrouds: hard edges both ways
            y = -9 + 3 * k
            canvas.box(mast_x - 1.25, y, 2.5, 0.5, (60, 78, 90))
            for line in range(4):
                canvas.line([(mast_x - 1.25, y + 0.06 + line * 0.12), (mast_x + 1.25, y + 0.1 + line * 0.12)], 0.03,
                            (190, 205, 215))  # fmt: skip
        for side in (-1, 1):
            canvas.line([(mast_x + side * 0.6, -20), (mast_x + side * 4.2, 20)], 0.07, (205, 215, 220))
        canvas.text("TEAL", mast_x - 0.85, 1.0, 0.42, (30, 40, 46))

    lamps = tuple(
        PointLight(float(x), float(y), 20, (150, 215, 255))
        for x, y in zip(rng.uniform(-16, 16, 7), rng.uniform(-10, -3, 7), strict=True)
    )
    posts = [
        Layer(at * share, post(x, width, tone, int(rng.integers(0, 2**31))))
        for share, x, width, tone in (
            (1.7, -13 + rng.uniform(-1, 1), 2.0, (58, 80, 100)),
            (1.35, 9 + rng.uniform(-1, 1), 2.4, (64, 90, 112)),
            (0.72, -9.5 + rng.uniform(-1, 1), 2.8, (70, 96, 118)),
        )
    ]
    layers = (
        Layer(at * 2.6, _planks((42, 58, 72), wall_seed, 3.0, upright=True), lamps, backdrop=True),
        posts[0], posts[1], Layer(at, mast), posts[2],
    )  # fmt: skip
    return Scene(
        name="shed", layers=layers, target=3, target_name="the mast", target_x=mast_x,
        target_y=0.0, brightness=0.3,
    )  # fmt: skip


def _plank(rng: Random, reach: FocusRange) -> Scene:
    """Make the name board lying at a slant: slices of it, each farther off than the last, one round the letter."""
    at = reach.within(reach.focal_mm * rng.uniform(14, 26))
    words = str(rng.choice(["SKARNMERE", "TEAL 1907", "NORTH SLIP"]))
    slices, seed = 11, int(rng.integers(0, 2**31))
    height = 32 / len(words)
    letter = int(rng.choice([k for k, sign in enumerate(words) if sign != " " and 1 <= k < len(words) - 1]))
    aim = -16.5 + (letter * 0.95 + 0.33) * height
    width = 36 / slices
    # The letter lies in the middle of its slice, so that all of it is at one distance.
    middle = round((aim + 18) / width - 0.5)
    left_edge = aim - (middle + 0.5) * width
    step = rng.uniform(0.016, 0.034)
    kept: dict[View, Canvas] = {}

    def board(view: View) -> Canvas:
        """Return the whole board as seen in a view, kept for the slices of that view."""
        if view not in kept:
            whole, grain = Canvas(view), np.random.default_rng(seed)
            whole.box(-32, -7, 64, 14, (92, 132, 150))
            _grain(whole, grain, (-32, -7, 64, 14), (92, 132, 150), 420)
            whole.text(words, -16.5, 3.0, height, (28, 34, 40))
            for y in (-6.6, 6.3):
                whole.box(-32, y, 64, 0.25, (50, 70, 84))
            whole.polygon([(aim, 4.1), (aim - 0.7, 5.6), (aim + 0.7, 5.6)], (40, 46, 150))
            kept.clear()
            kept[view] = whole
        return kept[view]

    def strip(index: int) -> Callable[[Canvas], None]:
        left = left_edge + width * index

        def paint(canvas: Canvas) -> None:
            # A slice goes on under its nearer neighbour, whose soft edge then shows no gap.
            start = -40.0 if index == 0 else left - 1.5
            canvas.take(board(canvas.view), start, 40.0 if index == slices - 1 else left + width)

        return paint

    # The right end is farther off, so it is painted first.
    layers = [Layer(at * (1 + step * (index - middle)), strip(index)) for index in range(slices)][::-1]
    backdrop = Layer(at * 2.2, _planks((50, 62, 66), seed + 1, 4.0, upright=False), backdrop=True)
    return Scene(
        name="plank", layers=(backdrop, *layers), target=slices - middle,
        target_name="the letter above the arrow", target_x=aim, target_y=3 - height / 2, brightness=0.8,
    )  # fmt: skip


def _sitter(rng: Random, reach: FocusRange) -> Scene:
    """Make Ida on the bench, a metre and a half off: one eye nearer than the other."""
    at = reach.within(1450.0 * rng.uniform(0.92, 1.15))
    turn = 1 if rng.random() < 0.5 else -1
    seed = int(rng.integers(0, 2**31))
    scale = min(max(reach.focal_mm / at * 30, 0.55), 1.6)
    # Where her eye is in the frame is drawn apart from how large she stands, which tells her distance.
    near_x, eye_y = rng.uniform(-4.5, 4.5), rng.uniform(-2.0, 1.0)
    x0, dy = near_x - turn * 1.75 * scale, eye_y + 0.6 * scale
    skin, hair = (150, 176, 214), (38, 52, 74)

    def head(canvas: Canvas) -> None:
        canvas.ellipse(x0, -1, 4.6 * scale, 6.0 * scale, hair)
        canvas.ellipse(x0, 0, 4.0 * scale, 5.4 * scale, skin)
        inner = np.random.default_rng(seed)
        for _ in range(70):
            a = inner.uniform(-2.8, -0.3)
            r = inner.uniform(0.98, 1.05)
            start = (x0 + 4.1 * scale * math.cos(a) * r, 5.5 * scale * math.sin(a) * r)
            canvas.line([start, (start[0] * 0.98 + x0 * 0.02, start[1] + inner.uniform(0.6, 1.6))], 0.04,
                        _shade(hair, inner.uniform(0.7, 1.9)))  # fmt: skip
        canvas.line([(x0 + turn * 0.3, -0.2), (x0 + turn * 0.7, 1.6 * scale), (x0, 1.9 * scale)], 0.08, (110, 140, 184))
        canvas.ellipse(x0, 3.1 * scale, 1.2 * scale, 0.3 * scale, (96, 96, 160))

    def eye(x: float) -> Callable[[Canvas], None]:
        def paint(canvas: Canvas) -> None:
            canvas.ellipse(x, -0.6 * scale, 0.95 * scale, 0.48 * scale, (226, 232, 236))
            canvas.ellipse(x, -0.6 * scale, 0.44 * scale, 0.44 * scale, (120, 92, 54))
            canvas.ellipse(x, -0.6 * scale, 0.19 * scale, 0.19 * scale, (14, 14, 16))
            canvas.ellipse(x + 0.14 * scale, -0.74 * scale, 0.07 * scale, 0.07 * scale, (255, 255, 255))
            for k in range(13):
                a = -2.75 + 2.35 * k / 12
                root = (x + 0.92 * scale * math.cos(a), (-0.6 + 0.46 * math.sin(a)) * scale)
                tip = (x + 1.18 * scale * math.cos(a), (-0.68 + 0.76 * math.sin(a)) * scale)
                canvas.line([root, tip], 0.035 * scale, (22, 24, 30))
            for k in range(16):
                bx = x + (-1.1 + 0.14 * k) * scale
                canvas.line([(bx, -1.5 * scale), (bx + 0.16 * scale, -1.72 * scale)], 0.05 * scale, (34, 44, 60))

        return paint

    def shoulders(canvas: Canvas) -> None:
        canvas.polygon([(x0 - 11, 22), (x0 - 7, 7), (x0 - 2, 5), (x0 + 2, 5), (x0 + 7, 7), (x0 + 11, 22)], (96, 84, 58))
        for k in range(40):
            canvas.line([(x0 - 6.6 + k * 0.34, 7.6), (x0 - 9.4 + k * 0.48, 20)], 0.05, (122, 110, 84))

    lights = tuple(
        PointLight(float(x), float(y), 15, (170, 220, 255))
        for x, y in zip(rng.uniform(-17, 17, 12), rng.uniform(-11, 2, 12), strict=True)
    )
    far_x = x0 - turn * 1.75 * scale
    layers = (
        Layer(at * 3.2, _planks((74, 92, 104), seed + 1, 3.5, upright=True), lights, backdrop=True),
        Layer(at + 130, _lowered(shoulders, dy)), Layer(at + 60, _lowered(head, dy), moving=True),
        Layer(at + 34, _lowered(eye(far_x), dy), moving=True), Layer(at, _lowered(eye(near_x), dy), moving=True),
    )  # fmt: skip
    return Scene(
        name="sitter", layers=layers, target=4, target_name="Ida’s nearer eye",
        target_x=near_x, target_y=eye_y, brightness=0.6,
    )  # fmt: skip


def _quay(rng: Random, reach: FocusRange) -> Scene:
    """Make launch day on the quay: a crowd at many distances, flags, and one with a white hat."""
    base = reach.within(reach.focal_mm * rng.uniform(60, 120))
    shares = np.sort(rng.uniform(0.55, 3.2, 8))[::-1]
    chosen = int(rng.integers(2, 7))
    coats: list[Colour] = [(92, 60, 44), (70, 92, 60), (60, 60, 122), (110, 104, 92), (50, 50, 54), (120, 84, 104)]
    places = rng.permutation(np.linspace(-14, 14, 8)) + rng.uniform(-0.8, 0.8, 8)
    # The ground lies so that the face is where chance puts it, and not where its distance would.
    face_y = rng.uniform(-3.5, 2.0)
    foot = face_y + 13.6 * min(max(0.9 / float(shares[chosen]), 0.3), 1.5)

    def person(x: float, size: float, coat: Colour, hat: bool, seed: int) -> Callable[[Canvas], None]:
        def paint(canvas: Canvas) -> None:
            inner = np.random.default_rng(seed)
            top = foot - 15 * size
            canvas.polygon([(x - 2.0 * size, foot), (x - 1.6 * size, top + 4 * size), (x + 1.6 * size, top + 4 * size),
                            (x + 2.0 * size, foot)], coat)  # fmt: skip
            canvas.ellipse(x, top + 2.2 * size, 1.3 * size, 1.7 * size, (150, 174, 206))
            for k in range(6):
                canvas.ellipse(x, top + (5 + 1.4 * k) * size, 0.12 * size, 0.12 * size, (200, 210, 216))
            for _ in range(26):
                y = inner.uniform(top + 4.4 * size, foot)
                canvas.line([(x - 1.5 * size, y), (x + inner.uniform(-1.2, 1.5) * size, y + 0.2 * size)], 0.03,
                            _shade(coat, inner.uniform(0.6, 1.5)))  # fmt: skip
            hat_tone = (236, 240, 242) if hat else _shade(coat, 0.5)
            canvas.ellipse(x, top + 0.9 * size, 1.9 * size, 0.5 * size, hat_tone)
            canvas.box(x - 1.1 * size, top - 0.4 * size, 2.2 * size, 1.2 * size, hat_tone)
            if hat:
                canvas.box(x - 1.1 * size, top + 0.35 * size, 2.2 * size, 0.35 * size, (48, 60, 150))
                canvas.line([(x + 2.2 * size, top + 6 * size), (x + 2.2 * size, top - 3.2 * size)], 0.14 * size,
                            (40, 52, 60))  # fmt: skip
                canvas.polygon([(x + 2.2 * size, top - 3.2 * size), (x + 5.2 * size, top - 2.2 * size),
                                (x + 2.2 * size, top - 1.2 * size)], (62, 74, 190))  # fmt: skip

        return paint

    shore_seed = int(rng.integers(0, 2**31))

    def shore(canvas: Canvas) -> None:
        _lake((208, 190, 160), (150, 138, 104), shore_seed)(canvas)
        canvas.polygon([(-32, 2.4), (32, 2.0), (32, 22), (-32, 22)], (150, 164, 170))
        for k in range(12):
            y = 2.4 + 0.09 * k * k
            canvas.line([(-32, y), (32, y - 0.4)], 0.06, (112, 126, 134))

    layers = [Layer(math.inf, shore, backdrop=True)]
    for index, share in enumerate(shares):
        size = min(max(0.9 / float(share), 0.3), 1.5)
        coat = coats[int(rng.integers(0, len(coats)))]
        paint = person(float(places[index]), size, coat, index == chosen, int(rng.integers(0, 2**31)))
        layers.append(Layer(base * float(share), paint))
    return Scene(
        name="quay", layers=tuple(layers), target=chosen + 1,
        target_name="the one in the white hat", target_x=float(places[chosen]), target_y=face_y, brightness=1.0,
    )  # fmt: skip


def _lake(sky: Colour, water: Colour, seed: int) -> Callable[[Canvas], None]:
    """Return sky, far shore and water."""

    def paint(canvas: Canvas) -> None:
        inner = np.random.default_rng(seed)
        canvas.fill(sky)
        ridge = [(-32 + 2 * k, -3.5 - 1.6 * abs(math.sin(0.5 * k + seed % 7))) for k in range(33)]
        canvas.polygon([*ridge, (32, -1), (-32, -1)], _shade(water, 0.8))
        canvas.box(-32, -1.2, 64, 24, water)
        for _ in range(260):
            y = -1.0 + 20 * inner.random() ** 1.6
            x = inner.uniform(-30, 30)
            canvas.line([(x, y), (x + inner.uniform(0.3, 1.4), y)], 0.05, _shade(water, inner.uniform(0.8, 1.35)))

    return paint


def _boat(rng: Random, reach: FocusRange) -> Scene:
    """Make a rowing boat that comes at the jetty."""
    start = reach.within(reach.focal_mm * rng.uniform(300, 420))
    x, seed = rng.uniform(-3, 3), int(rng.integers(0, 2**31))
    speed = start / rng.uniform(6.5, 9.5)

    def boat(canvas: Canvas) -> None:
        canvas.polygon([(x - 3.2, 0), (x + 3.2, 0), (x + 2.0, 2.2), (x - 2.0, 2.2)], (52, 70, 140))
        canvas.polygon([(x - 3.3, -0.2), (x + 3.3, -0.2), (x + 3.1, 0.25), (x - 3.1, 0.25)], (222, 228, 232))
        canvas.line([(x, 0), (x, 2.2)], 0.18, (226, 232, 236))
        canvas.ellipse(x, 0.1, 0.34, 0.34, (240, 244, 246))
        canvas.ellipse(x, 0.1, 0.14, 0.14, (30, 30, 34))
        canvas.polygon([(x - 1.1, 0), (x - 0.8, -2.4), (x + 0.8, -2.4), (x + 1.1, 0)], (210, 214, 216))
        canvas.ellipse(x, -3.2, 0.7, 0.85, (150, 174, 206))
        for side in (-1, 1):
            canvas.line([(x + side * 1.0, -1.0), (x + side * 6.2, 1.2)], 0.16, (86, 128, 160))
            canvas.ellipse(x + side * 6.5, 1.35, 0.9, 0.26, (120, 166, 196))
        canvas.text("3", x - 2.5, 1.5, 0.8, (236, 240, 242))

    glitter = tuple(
        PointLight(float(px), float(py), 20)
        for px, py in zip(rng.uniform(-20, 20, 26), rng.uniform(1, 14, 26), strict=True)
    )

    def jetty(canvas: Canvas) -> None:
        canvas.polygon([(-18, 12), (-18, 8.5), (-9, 5), (-8, 5), (-12, 12)], (58, 74, 86))
        for k in range(7):
            canvas.line([(-18 + 1.3 * k, 12), (-13.5 + 0.75 * k, 6.4)], 0.1, (36, 46, 56))

    layers = (
        Layer(math.inf, _lake((214, 198, 174), (156, 140, 108), seed), glitter, backdrop=True),
        Layer(start, boat, moving=True), Layer(reach.within(reach.focal_mm * 70), jetty),
    )  # fmt: skip
    return Scene(
        name="boat", layers=layers, target=1,
        target_name="the bow ball of the boat", target_x=x, target_y=0.1, brightness=1.0, speed_mm_s=speed,
    )  # fmt: skip


def _stars(rng: Random, reach: FocusRange) -> Scene:
    """Make the night over the lake: stars, a close pair, lights on the far shore, a mooring post."""
    seed = int(rng.integers(0, 2**31))
    xs, ys, strengths = rng.uniform(-25, 25, 220), rng.uniform(-18, 1, 220), rng.exponential(0.37, 220) + 0.08
    x, y = rng.uniform(-6, 6), rng.uniform(-7, -3)
    stars = [
        PointLight(float(a), float(b), float(s), (255, 246, 236)) for a, b, s in zip(xs, ys, strengths, strict=True)
    ]
    pair = [PointLight(x, y, 4.7), PointLight(x + 0.22, y + 0.1, 3.0)]
    shore = tuple(
        PointLight(float(a), 3.2, float(rng.uniform(1.3, 4)), (120, 190, 255)) for a in rng.uniform(-17, 17, 9)
    )

    def sky(canvas: Canvas) -> None:
        canvas.fill((26, 18, 12))

    def far_shore(canvas: Canvas) -> None:
        ridge = [(-30 + k, 2.2 - 0.9 * abs(math.sin(0.7 * k + seed % 5))) for k in range(61)]
        canvas.polygon([*ridge, (30, 22), (-30, 22)], (14, 12, 9))
        canvas.box(-30, 4.2, 60, 18, (20, 15, 11))

    def post(canvas: Canvas) -> None:
        canvas.box(11, 1.5, 1.6, 22, (20, 22, 24))
        canvas.line([(11.1, 1.7), (11.1, 12)], 0.08, (52, 56, 58))

    layers = [Layer(math.inf, sky, (*stars, *pair), backdrop=True), Layer(reach.within(600_000), far_shore, shore)]
    layers.append(Layer(reach.within(max(reach.focal_mm * 80, 3000)), post))
    return Scene(
        name="stars", layers=tuple(layers), target=0,
        target_name="the bright pair of stars", target_x=x, target_y=y, brightness=0.02,
    )  # fmt: skip


def _deck(rng: Random, reach: FocusRange) -> Scene:
    """Make the deck rails: lines that all run level, one behind the other."""
    at = reach.within(reach.focal_mm * rng.uniform(35, 75))
    y0, water_seed = rng.uniform(-2, 2), int(rng.integers(0, 2**31))

    def rail(y: float, height: float, colour: Colour, seed: int) -> Callable[[Canvas], None]:
        def paint(canvas: Canvas) -> None:
            inner = np.random.default_rng(seed)
            canvas.box(-32, y, 64, height, colour)
            canvas.box(-32, y, 64, height * 0.12, _shade(colour, 1.4))
            canvas.box(-32, y + height * 0.86, 64, height * 0.14, _shade(colour, 0.5))
            for _ in range(70):
                line = inner.uniform(y + height * 0.14, y + height * 0.84)
                canvas.line([(-32, line), (32, line + inner.uniform(-0.02, 0.02))], inner.uniform(0.01, 0.04),
                            _shade(colour, inner.uniform(0.5, 1.25)))  # fmt: skip

        return paint

    layers = (
        Layer(math.inf, _lake((206, 192, 166), (152, 138, 106), water_seed), backdrop=True),
        Layer(at * 1.6, rail(y0 - 7, 2.2, (96, 118, 126), int(rng.integers(0, 2**31)))),
        Layer(at * 1.25, rail(y0 - 3.4, 1.8, (76, 104, 132), int(rng.integers(0, 2**31)))),
        Layer(at, rail(y0 - 0.9, 1.8, (84, 132, 168), int(rng.integers(0, 2**31)))),
        Layer(at * 0.8, rail(y0 + 5, 3.0, (62, 84, 102), int(rng.integers(0, 2**31)))),
    )  # fmt: skip
    return Scene(
        name="deck", layers=layers, target=3, target_name="the varnished rail",
        target_x=0.0, target_y=y0, brightness=0.8,
    )  # fmt: skip


PAINTED: dict[str, Maker] = {
    "shed": _shed, "plank": _plank, "sitter": _sitter, "quay": _quay, "boat": _boat, "stars": _stars,
    "deck": _deck,
}  # fmt: skip
