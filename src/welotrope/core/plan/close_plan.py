"""Close-ups of a set-up: what its attachments reach, the room left before the lens, and how deep it is sharp."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from welotrope.core.errors import ConflictError, WelotropeError
from welotrope.core.kit.attachment import STRONG_DIOPTRES, Attachment, AttachmentKind
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.blur import airy_diameter
from welotrope.core.optics.depth import sharp_limits
from welotrope.core.optics.thin_lens import effective_stop
from welotrope.core.plan.closeup import (
    MOST_EXTENSION_MM,
    MOST_POWER,
    CloseRange,
    CloseSetting,
    close_range,
    close_setting,
)
from welotrope.core.plan.setting import RingSetting, ring_setting

SHADING_MM = 40.0
MOST_TOGETHER = 2
_EPS = 1e-9


def _together(parts: Sequence[Attachment]) -> str:
    return " with ".join(part.name for part in parts) or "the lens alone"


@dataclass(frozen=True, kw_only=True)
class StopDepth:
    """What a stop gives close up: the working f-number, depth either side of the plane, mm, the Airy disc, mm."""

    stop: float
    working_stop: float
    before_mm: float
    behind_mm: float
    airy_mm: float
    diffraction: bool

    @property
    def depth_mm(self) -> float:
        """From the near to the far limit, mm."""
        return self.before_mm + self.behind_mm


@dataclass(frozen=True, kw_only=True)
class AttachmentRange:
    """What a set-up reaches with attachments: nearest and farthest setting, from principal plane or close-up lens."""

    parts: tuple[Attachment, ...]
    range: CloseRange
    power: float
    extension_mm: tuple[float, float]

    @property
    def name(self) -> str:
        """What is put on, in words."""
        return _together(self.parts)

    @property
    def strong(self) -> bool:
        """Whether its edges are smeared and fringed: four dioptres or more, or lenses stacked."""
        return self.power >= STRONG_DIOPTRES or sum(part.power > 0 for part in self.parts) > 1

    @property
    def reversed(self) -> bool:
        """Whether the lens stands reversed, so that figures are rough."""
        return any(part.kind is AttachmentKind.REVERSED for part in self.parts)


@dataclass(frozen=True, kw_only=True)
class CloseUp:
    """A picture taken with attachments.

    Parameters
    ----------
    reach
        What is put on.
    setting
        Extension, working distance, magnification.
    ring
        Where the ring stands for it at the stop planned for; its zone is that of the lens alone.
    added_mm
        Extension the attachments add at this setting.
    clearance_mm
        Room before the front rim; None when the lens's length or mount is not known.
    width_mm, height_mm
        What the picture holds.
    lost_stops
        Light lost to extension, stops.
    depths
        At every marked stop.
    """

    reach: AttachmentRange
    setting: CloseSetting
    ring: RingSetting
    added_mm: float
    clearance_mm: float | None
    width_mm: float
    height_mm: float
    lost_stops: float
    depths: tuple[StopDepth, ...]

    @property
    def shades(self) -> bool:
        """Whether lens or hand will stand in the light."""
        return self.clearance_mm is not None and self.clearance_mm < SHADING_MM


def reach_of(setup: Setup, parts: Sequence[Attachment]) -> AttachmentRange:
    """Return what a set-up reaches with attachments.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    parts
        Attachments in the order from the body.

    Raises
    ------
    ConflictError
        When it focuses nowhere: a reversing ring that leaves the lens too near the film, or too much extension.
    """
    ring = setup.ring()
    least_x, most_x = ring.travel_x
    f, power = ring.focal_mm, sum(part.power for part in parts)
    least, most = sum(part.least for part in parts), sum(part.most for part in parts)
    if any(part.kind is AttachmentKind.REVERSED for part in parts):
        turned = _reversed_extension(setup)
        least, most, least_x, most_x = least + turned, most + turned, 0.0, 0.0
    if most + most_x <= 0:
        raise ConflictError(
            "attachment", _together(parts), "it focuses nowhere: the lens stands too near the film",
            f"Add {-(most + most_x) + 1:.0f} mm of tube",
        )  # fmt: skip
    if most + most_x > MOST_EXTENSION_MM or power > MOST_POWER:
        raise ConflictError(
            "attachment", _together(parts), "nobody puts so much together",
            f"Keep to {MOST_EXTENSION_MM:g} mm and {MOST_POWER:g} dioptres",
        )  # fmt: skip
    gap = rim_gap(setup)
    far = close_setting(f, max(least + max(least_x, 0.0), 0.0), power=power, gap_mm=gap)
    near = close_range(f, most_x, power=power, tube_mm=most, gap_mm=gap).near
    return AttachmentRange(parts=tuple(parts), range=CloseRange(near, far), power=power, extension_mm=(least, most))


def rim_gap(setup: Setup) -> float:
    """Return how far the front rim stands before the principal plane, mm, where a close-up lens is screwed in.

    Negative where that plane lies before the rim, as in a tele lens; 0, thin and in contact, where register or length
    are not known. Both move with the ring.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    lens = setup.lens
    if lens.mount is None or lens.mount.register_mm is None or lens.fit.length_mm is None:
        return 0.0
    return lens.mount.register_mm + lens.fit.length_mm - lens.focal_mm - setup.ring().h_mm


def _reversed_extension(setup: Setup) -> float:
    """Extension of a reversed lens at its own infinity, mm: its middle taken for its principal plane, so rough."""
    body, length = setup.body.mount, setup.lens.fit.length_mm
    if body is None or body.register_mm is None or length is None:
        raise ConflictError(
            "reversing ring", setup.lens.name, "nothing is known of where the lens then stands",
            "Enter the body’s mount with its register, and the length of the lens",
        )  # fmt: skip
    return body.register_mm + length / 2 - setup.lens.focal_mm


def close_up(setup: Setup, reach: AttachmentRange, extension_mm: float, stop: float) -> CloseUp:
    """Return the picture at an extension in all, mm, attachments counted in, the ring set for a stop.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    reach
        What the set-up reaches with its attachments.
    extension_mm
        Extension in mm from the infinity position.
    stop
        F-number, 0.5 to 128.
    """
    ring, image = setup.ring(stop), setup.body.image
    setting = close_setting(ring.focal_mm, extension_mm, power=reach.power, gap_mm=rim_gap(setup))
    own, added = _shares(setup, reach, extension_mm)
    angle = ring.clamp(float(ring.angle_at_extension(own)))
    m = setting.magnification
    size = (math.inf, math.inf) if m <= 0 else (image.width_mm / m, image.height_mm / m)
    main_m = extension_mm / ring.focal_mm
    return CloseUp(
        reach=reach, setting=setting, ring=ring_setting(setup, angle, stop), added_mm=added,
        clearance_mm=_clearance(setup, reach, setting, own, added), width_mm=size[0], height_mm=size[1],
        lost_stops=2 * math.log2(1 + main_m), depths=tuple(_depth(setup, reach, setting, N) for N in setup.lens.stops),
    )  # fmt: skip


def _shares(setup: Setup, reach: AttachmentRange, extension_mm: float) -> tuple[float, float]:
    """Split an extension, mm, into the ring's and the attachments': what has a length of its own gives as little."""
    least, most = reach.extension_mm
    low, high = (0.0, 0.0) if reach.reversed else setup.ring().travel_x
    own = min(max(extension_mm - least, low), high)
    return own, min(max(extension_mm - own, least), most)


def _clearance(
    setup: Setup, reach: AttachmentRange, setting: CloseSetting, own_x: float, added_mm: float
) -> float | None:
    """Room before the front rim, mm: from the close-up lens itself, else what is left of the distance from the film."""
    if reach.power > 0:
        return setting.working_mm
    lens = setup.lens
    if (
        lens.mount is None
        or lens.mount.register_mm is None
        or lens.fit.length_mm is None
        or math.isinf(setting.working_mm)
    ):
        return None
    from_film = setting.working_mm + lens.focal_mm + setting.extension_mm + lens.separation_mm
    moved = 0.0 if lens.shortens else own_x
    return from_film - (lens.mount.register_mm + added_mm + lens.fit.length_mm + moved)


def _depth(setup: Setup, reach: AttachmentRange, setting: CloseSetting, stop: float) -> StopDepth:
    f, x = setup.lens.focal_mm, setting.extension_mm
    limits = sharp_limits(x, f, stop, setup.blur_mm)
    gap = rim_gap(setup)
    near, far = (before_closeup(end, f, reach.power, gap) for end in (limits.near_x, limits.far_x))
    working = effective_stop(stop, x / f)
    airy = airy_diameter(working)
    return StopDepth(
        stop=stop, working_stop=working, before_mm=setting.working_mm - near, behind_mm=far - setting.working_mm,
        airy_mm=airy, diffraction=airy > setup.blur_mm,
    )  # fmt: skip


def before_closeup(x_image: float, f: float, power: float, gap_mm: float) -> float:
    """Return where what is imaged at an extension stands before the close-up lens, mm; infinite past infinity.

    Without power it is from the principal plane; ``gap_mm`` is from that to the close-up lens.

    Parameters
    ----------
    x_image
        Extension in mm at which the point is imaged.
    f
        Focal length in mm, 1 to 5000.
    power
        Power of the close-up lens in dioptres; 0 for none.
    gap_mm
        Distance in mm from the principal plane to the close-up lens; negative where that plane lies before it.
    """
    # 1/s of the main lens, negative past its infinity: light that comes together, which the close-up lens bends back.
    vergence = x_image / (f * (f + x_image))
    if power > 0:
        vergence = vergence / (1 - gap_mm * vergence) + power / 1000
    return math.inf if vergence <= 0 else 1 / vergence


def extension_for(setup: Setup, reach: AttachmentRange, magnification: float) -> float | None:
    """Return the extension, mm, that gives a magnification with attachments, or None out of their reach.

    ``m = x/f + G·(x + f − g·x/f)``, from ``m = (x/f)·(s − g)/w`` with ``g`` from close-up lens to principal plane.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    reach
        What the set-up reaches with its attachments.
    magnification
        Magnification wanted, a ratio.
    """
    f, G, gap = setup.lens.focal_mm, reach.power / 1000, rim_gap(setup)
    x = (magnification - f * G) / (1 / f + G * (1 - gap / f))
    low, high = reach.range.far.extension_mm, reach.range.near.extension_mm
    return x if low - _EPS <= x <= high + _EPS else None


@dataclass(frozen=True, kw_only=True)
class ReachRow:
    """What one attachment, or none, reaches: its nearest and farthest picture, or why it focuses nowhere."""

    name: str
    near: CloseUp | None
    far: CloseUp | None
    problem: str = ""


def reach_rows(setup: Setup, attachments: Iterable[Attachment], stop: float) -> tuple[ReachRow, ...]:
    """Return what the lens, each attachment alone and each pair of close-up lenses reach, the ring set for a stop.

    The least enlarging come first, what focuses nowhere last.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    attachments
        Attachments of the kit.
    stop
        F-number, 0.5 to 128.
    """
    have = tuple(attachments)
    glasses = [one for one in have if one.kind is AttachmentKind.CLOSEUP]
    rows = []
    for parts in ((), *((one,) for one in have), *itertools.combinations(glasses, 2)):
        try:
            reach = reach_of(setup, parts)
        except WelotropeError as error:
            rows.append(ReachRow(name=_together(parts), near=None, far=None, problem=error.sentence))
            continue
        near, far = (close_up(setup, reach, end.extension_mm, stop) for end in (reach.range.near, reach.range.far))
        rows.append(ReachRow(name=reach.name, near=near, far=far))
    return tuple(sorted(rows, key=lambda row: row.near.setting.magnification if row.near else math.inf))


@dataclass(frozen=True, kw_only=True)
class CloseSearch:
    """What does it, best first, and the nearest to it when nothing does."""

    found: tuple[CloseUp, ...]
    nearest: CloseUp | None
    why_not: str


def search(
    setup: Setup, attachments: Iterable[Attachment], subject_mm: float, room_mm: float, stop: float, *, most: int = 8
) -> CloseSearch:
    """Return what makes a thing fill the picture's width with room left before the lens, best first.

    Parameters
    ----------
    setup
        In hand.
    attachments
        Of the kit; alone and two together.
    subject_mm
        Length that is to fill the long side of the picture, mm.
    room_mm
        Least room before the front rim, mm.
    stop
        For which the ring is set.
    most
        How many to return.
    """
    wanted_m = max(setup.body.image.width_mm, setup.body.image.height_mm) / subject_mm
    able: list[tuple[AttachmentRange, float, float]] = []
    nearest: tuple[float, AttachmentRange, float] | None = None
    for reach in _reaches(setup, tuple(attachments)):
        x = extension_for(setup, reach, wanted_m)
        if x is not None:
            able.append((reach, x, _room(setup, reach, x)))
            continue
        end = min((reach.range.near, reach.range.far), key=lambda one: _off(one, wanted_m))
        if nearest is None or _off(end, wanted_m) < nearest[0]:
            nearest = (_off(end, wanted_m), reach, end.extension_mm)
    roomy = sorted((one for one in able if one[2] >= room_mm), key=lambda one: _ease(one[0], one[2]))
    if roomy:
        found = tuple(close_up(setup, reach, x, stop) for reach, x, _ in roomy[:most])
        return CloseSearch(found=found, nearest=None, why_not="")
    if able:
        reach, x, room = max(able, key=lambda one: one[2])
        why_not = f"{reach.name} fills the picture, but the working distance is only {room:.0f} mm"
        return CloseSearch(found=(), nearest=close_up(setup, reach, x, stop), why_not=why_not)
    if nearest is None:
        return CloseSearch(found=(), nearest=None, why_not="Nothing in your kit focuses on this lens")
    one = close_up(setup, nearest[1], nearest[2], stop)
    held = max(one.width_mm, one.height_mm)
    why_not = (
        f"Nothing in your kit gives exactly this magnification; {one.reach.name} comes closest, with {held:.0f} mm in"
        " the picture"
    )
    return CloseSearch(found=(), nearest=one, why_not=why_not)


def _room(setup: Setup, reach: AttachmentRange, x: float) -> float:
    """Room before the front rim at an extension, mm; without end where it is not known."""
    own, added = _shares(setup, reach, x)
    setting = close_setting(setup.lens.focal_mm, x, power=reach.power, gap_mm=rim_gap(setup))
    room = _clearance(setup, reach, setting, own, added)
    return math.inf if room is None else room


def _off(setting: CloseSetting, wanted_m: float) -> float:
    return abs(math.log(max(setting.magnification, 1e-6) / wanted_m))


def _ease(reach: AttachmentRange, room_mm: float) -> tuple[bool, bool, int, float]:
    """Weak glass first, then what stands the right way round, then fewer parts, then more room."""
    return reach.strong, reach.reversed, len(reach.parts), -room_mm


def _reaches(setup: Setup, attachments: tuple[Attachment, ...]) -> Iterator[AttachmentRange]:
    """Every sensible putting together: nothing, one, two of them."""
    for count in range(MOST_TOGETHER + 1):
        for parts in itertools.combinations(attachments, count):
            if sum(part.kind is AttachmentKind.REVERSED for part in parts) > 1:
                continue
            try:
                yield reach_of(setup, parts)
            except WelotropeError:
                continue


@dataclass(frozen=True, kw_only=True)
class RailStack:
    """A stack by moving the camera: frames and the step, mm, at one setting of the ring."""

    frames: int
    step_mm: float
    positions_mm: tuple[float, ...]


def rail_stack(depth_of_frame_mm: float, wanted_mm: float, overlap: float) -> RailStack:
    """Return a stack on a rail: frames so deep (mm), overlapping by a share, over a wanted depth, mm.

    Parameters
    ----------
    depth_of_frame_mm
        Depth of one frame in mm.
    wanted_mm
        Depth in mm that the stack is to hold.
    overlap
        Share of a window by which neighbours overlap, 0 to 0.9.

    Examples
    --------
    >>> rail_stack(1.0, 4.2, 0.2).frames
    5
    """
    if wanted_mm <= depth_of_frame_mm:
        return RailStack(frames=1, step_mm=0.0, positions_mm=(0.0,))
    count = 1 + math.ceil((wanted_mm - depth_of_frame_mm) / (depth_of_frame_mm * (1 - overlap)) - _EPS)
    step = (wanted_mm - depth_of_frame_mm) / (count - 1)
    return RailStack(frames=count, step_mm=step, positions_mm=tuple(step * index for index in range(count)))
