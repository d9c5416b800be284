"""A stack of a close-up: by the ring and by a rail, frame by frame."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.errors import ConflictError, OutOfRangeError
from welotrope.core.halving import where_it_ends
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.thin_lens import film_distance_at_extension
from welotrope.core.plan.close_plan import CloseUp, RailStack, before_closeup, rail_stack, rim_gap
from welotrope.core.plan.closeup import close_setting
from welotrope.core.plan.zones import LensAt, Stacked, stack_extensions

_STEP_DEG = 0.1


@dataclass(frozen=True)
class RingFrame:
    """A frame of a stack: ring angle in degrees, and what is in focus, mm from the rim or the close-up lens."""

    angle_deg: float
    working_mm: float


@dataclass(frozen=True, kw_only=True)
class CloseStack:
    """A stack both ways.

    Parameters
    ----------
    ring
        Frames by the ring, nearest first; empty where the ring does not reach, then ``ring_problem`` says why.
    rail
        Frames by moving the camera at one setting.
    mm_per_degree
        How far the plane moves for one degree of ring, mm.
    lens_alone
        Whether nothing is on the lens or behind it.
    """

    ring: tuple[RingFrame, ...]
    ring_problem: str
    rail: RailStack
    mm_per_degree: float
    lens_alone: bool = True

    @property
    def ring_step_deg(self) -> float | None:
        """Mean turn of the ring between its frames, degrees; None without any, or with something on the lens.

        A live picture tells a step by the blur it makes, and that is reckoned for the lens alone.
        """
        if len(self.ring) < 2 or not self.lens_alone:
            return None
        return abs(self.ring[-1].angle_deg - self.ring[0].angle_deg) / (len(self.ring) - 1)


def close_stack(setup: Setup, one: CloseUp, stop: float, depth_mm: float, overlap: float) -> CloseStack:
    """Return a stack that covers ``depth_mm`` behind the plane of a close-up.

    Parameters
    ----------
    setup, one
        In hand, and the picture: its plane is the near end's.
    stop
        Marked.
    depth_mm
        Wanted, mm, more than 0 to 1000.
    overlap
        Least share of a frame's depth, 0 to 0.9.

    Raises
    ------
    OutOfRangeError
        When a value is out of range or it takes too many frames.
    """
    if not 0 < depth_mm <= 1000:
        raise OutOfRangeError("depth", f"{depth_mm:g} mm", "out of range", "Write more than 0 to 1000 mm")
    frame = next((depth.depth_mm for depth in one.depths if depth.stop == stop), None)
    if frame is None:
        raise OutOfRangeError("stop", f"f/{stop:g}", "the lens has no such mark", "Choose one of its marked stops")
    frames: tuple[RingFrame, ...] = ()
    problem = ""
    try:
        frames = _ring_frames(setup, one, stop, depth_mm, overlap)
    except (ConflictError, OutOfRangeError) as error:
        problem = error.sentence
    return CloseStack(
        ring=frames,
        ring_problem=problem,
        rail=rail_stack(frame, depth_mm, overlap),
        mm_per_degree=_per_degree(setup, one),
        lens_alone=one.added_mm == 0 and one.reach.power == 0,
    )


@dataclass(frozen=True, kw_only=True)
class _BehindCloseup:
    """A lens with a close-up lens on its rim, as ``zones.Stacked``: both move before a film and a subject that stay."""

    f: float
    N: float
    c: float
    h: float
    power: float
    gap_mm: float
    most_x: float
    beyond: bool = False

    def distance_of(self, x_image: float, x: float) -> float:
        """Distance from the film, mm, of what is imaged at ``x_image`` with the lens at ``x``."""
        before = before_closeup(x_image, self.f, self.power, self.gap_mm)
        return self.f + x + self.h + self.gap_mm + before

    def extension_imaging(self, distance_mm: float, q: float) -> float:
        """Extension at which a distance from the film, mm, is imaged at ``q`` times the image distance of the focus."""
        low, high = -0.2 * self.f, self.most_x
        # The nearer the thing, the farther the lens stands out: below life size the distance falls as it does.
        return where_it_ends(lambda x: self.distance_of(q * (self.f + x) - self.f, x) > distance_mm, low, high)


def _ring_frames(setup: Setup, one: CloseUp, stop: float, depth_mm: float, overlap: float) -> tuple[RingFrame, ...]:
    """Frames by the ring, from the film, which stays while the lens and what is on it move."""
    ring, f, power = setup.ring(stop), setup.lens.focal_mm, one.reach.power
    setting, gap = one.setting, rim_gap(setup)
    lens: Stacked
    if power > 0:
        most = one.added_mm + ring.travel_x[1] + 1.0
        lens = _BehindCloseup(f=f, N=stop, c=setup.blur_mm, h=ring.h_mm, power=power, gap_mm=gap, most_x=most)
        near = lens.distance_of(setting.extension_mm, setting.extension_mm)
    else:
        lens = LensAt(f=f, N=stop, c=setup.blur_mm, h=ring.h_mm, beyond=setting.magnification > 1)
        near = float(film_distance_at_extension(setting.extension_mm, f, h=ring.h_mm))
    found = []
    for x in stack_extensions(lens, near, near + depth_mm, overlap):
        angle = float(ring.angle_at_extension(x - one.added_mm))
        if not -0.5 <= angle <= ring.throw_deg + 0.5:
            raise OutOfRangeError(
                "depth",
                f"{depth_mm:g} mm",
                "the ring does not turn that far with this attachment",
                "Use a rail instead",
            )
        found.append(RingFrame(ring.clamp(angle), close_setting(f, x, power=power, gap_mm=gap).working_mm))
    return tuple(found)


def _per_degree(setup: Setup, one: CloseUp) -> float:
    """Return how far the plane moves from the camera for one degree of ring, mm; negative beyond life size."""
    ring, f, power, gap = setup.ring(), setup.lens.focal_mm, one.reach.power, rim_gap(setup)
    x = one.setting.extension_mm
    step = _STEP_DEG / ring.degrees_per_mm(one.ring.angle_deg)
    near, far = (at + before_closeup(at, f, power, gap) for at in (max(x + side * step, 0.0) for side in (0.5, -0.5)))
    return (far - near) / _STEP_DEG
