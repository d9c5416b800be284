"""Every constant of the eye and of the aids, in one table: models of an average eye, all open to change."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property

from welotrope.core.errors import OutOfRangeError, UnreadableError


@dataclass(frozen=True, kw_only=True)
class Constant:
    """A number an aid model rests on, with its unit, what it means, where it comes from and what it may be.

    ``aids`` are the tags of the kinds of aid that rest on it; empty where it bears on every camera.
    """

    id: str
    value: float
    unit: str
    text: str
    source: str
    low: float
    high: float
    aids: tuple[str, ...] = ()

    def serves(self, can_have: Callable[[str], bool]) -> bool:
        """Whether it bears on a camera: on every one, or on one that can have an aid that rests on it."""
        return not self.aids or any(can_have(tag) for tag in self.aids)


def _row(
    id: str, value: float, unit: str, text: str, source: str, low: float, high: float, *, aids: tuple[str, ...] = ()
) -> Constant:
    return Constant(id=id, value=value, unit=unit, text=text, source=source, low=low, high=high, aids=aids)


_GLASS, _LIVE = ("matte", "split_image", "microprism"), ("magnified", "peaking")


CONSTANTS: tuple[Constant, ...] = (
    _row("eyepiece_focal", 50.0, "mm", "apparent focal length of the finder at 1× with a 50 mm lens",
             "definition of finder magnification", 10, 200, aids=_GLASS),
    _row("eye_blur", 1.0, "arc-minute", "smallest blur an eye sees on a matte screen", "normal visual acuity",
             0.3, 10, aids=("matte",)),
    _row("vernier_split", 20.0, "arc-second", "smallest offset of two halves of a line an eye sees",
             "vernier acuity, usually given as 10 to 30 arc-seconds", 3, 120, aids=("split_image",)),
    _row("vernier_microprism", 30.0, "arc-second", "smallest offset that still makes a microprism shimmer",
             "vernier acuity, coarser than on a single line", 3, 180, aids=("microprism",)),
    _row("patch_rangefinder", 60.0, "arc-second", "smallest separation of the two pictures of a rangefinder patch",
             "normal visual acuity, one arc-minute", 5, 300, aids=("rangefinder",)),
    _row("display_blur", 2.0, "pixels", "smallest blur seen on a magnified picture, in sensor pixels",
             "two samples make the finest resolvable pair", 0.5, 10, aids=_LIVE),
    _row("eye_display", 1.0, "display pixels", "smallest blur the eye separates on the display",
             "a display pixel seen at about one arc-minute", 0.3, 10, aids=_LIVE),
    _row("live_blur", 1.0, "pixels", "blur left at the best of a live sweep, in pixels of the picture that arrives",
             "within this in 9 of 10 simulated sweeps", 0.1, 10, aids=("live",)),
    _row("edge_contrast", 0.5, "", "contrast of a hard, well-lit edge", "assumed", 0.02, 1, aids=("peaking",)),
    _row("texture_contrast", 0.25, "", "contrast of texture such as grain or cloth", "assumed", 0.02, 1,
        aids=("peaking",)),
    _row("low_contrast", 0.1, "", "contrast of a subject with little of it", "assumed", 0.01, 1, aids=("peaking",)),
    _row("lens_blur", 0.010, "mm", "a lens's own blur at its plane of focus, without diffraction", "assumed",
             0.0005, 0.2),
    _row("corner_blur", 3.0, "×", "how much softer the lens is in the corner", "assumed for old fast lenses",
             1, 20, aids=("peaking",)),
    _row("faint_detail", 1.5, "×", "how much coarser an eye judges low contrast", "assumed", 1, 5),
    _row("dim_light", 1.5, "×", "how much coarser an eye judges in a dim room",
             "acuity falls by about a third from 100 to 1 cd/m²", 1, 10),
    _row("dark", 3.0, "×", "how much coarser an eye judges in the dark",
             "acuity falls to about a third at 0.01 cd/m²", 1, 20),
    _row("display_noise", 1.5, "×", "how much coarser a noisy display in the dark shows", "assumed", 1, 10, aids=_LIVE),
    _row("indicator_blur", 0.03, "mm", "blur within which a focus lamp stays lit, for a 36 × 24 mm picture",
             "assumed: its sensors are made for a usual print, whatever you call sharp", 0.002, 0.3,
             aids=("confirmation",)),
    _row("distance_guess", 0.15, "", "share by which a distance is misjudged by eye", "assumed; practise and see",
             0.01, 1),
    _row("ring_setting", 0.5, "°", "how finely a hand sets a distance on its mark", "assumed; half a degree",
             0.02, 10),
    _row("body_sway", 12.0, "mm", "how far a standing person sways to and fro between focusing and release",
             "postural sway of quiet standing, some 10 to 15 mm", 0, 200),
    _row("kneeling_sway", 5.0, "mm", "the same seated or leaning on something", "assumed", 0, 200),
    _row("arm_length", 650.0, "mm", "your arm, from the eye to the fingertips held out",
             "adults reach some 600 to 750 mm", 300, 1200),
    _row("pace", 750.0, "mm", "one of your paces", "adults walk some 700 to 800 mm a step", 300, 1200),
    _row("eye_height", 1600.0, "mm", "your eye above the ground", "adults standing", 700, 2200),
    _row("waist_height", 1050.0, "mm", "a camera at your waist above the ground", "adults standing", 300, 1600),
    _row("reaction", 0.25, "s", "from seeing to pressing, the middle of many presses",
             "simple reaction to something seen, 0.2 to 0.3 s", 0.05, 2),
    _row("reaction_spread", 0.06, "s", "how much one press differs from another", "simple reaction, 0.03 to 0.1 s",
             0.005, 1),
    _row("reaction_presses", 0.0, "presses", "how many of your own presses those two rest on", "none yet", 0, 1000),
    _row("speed_guess", 0.15, "", "share by which a speed is misjudged by eye", "assumed; as a distance is", 0.01, 1),
    _row("ring_turn", 1.5, "s", "how long it takes to set another distance and look up", "assumed", 0.2, 20),
    _row("steady_hand", 1.0, "×", "how many times slower than 1/focal length you hold still",
             "the rule itself; try ten frames at each time and see", 0.2, 8),
    _row("hand_half_life", 60.0, "days", "days after which a trial counts half",
             "chosen here: a hand keeps for weeks, not for years", 3, 3650),
)  # fmt: skip

_TABLE = {constant.id: constant for constant in CONSTANTS}


@dataclass(frozen=True)
class Eye:
    """The table's values with the photographer's own put in.

    Parameters
    ----------
    own
        Pairs of id and value that replace the table's.

    Raises
    ------
    UnreadableError, OutOfRangeError
        When an id is none of the table's, or a value is out of its range.
    """

    own: tuple[tuple[str, float], ...] = ()

    def __post_init__(self) -> None:
        for id, value in self.own:
            constant = _TABLE.get(id)
            if constant is None:
                raise UnreadableError("constant", id, "there is none of that name", f"Choose from {', '.join(_TABLE)}")
            if not constant.low <= value <= constant.high:
                raise OutOfRangeError(
                    constant.text, f"{value:g} {constant.unit}".strip(), "that is out of range",
                    f"Write {constant.low:g} to {constant.high:g}",
                )  # fmt: skip

    @classmethod
    def of(cls, own: Mapping[str, float]) -> Eye:
        """Return the table with ``own`` values, each in the unit of its row, in place of its own."""
        return cls(tuple(sorted((id, value) for id, value in own.items())))

    @cached_property
    def values(self) -> dict[str, float]:
        """Every constant's value by id, in the unit of the table."""
        return {id: constant.value for id, constant in _TABLE.items()} | dict(self.own)

    def __getitem__(self, id: str) -> float:
        return self.values[id]


AVERAGE_EYE = Eye()


def arcmin(value: float) -> float:
    """Arc-minutes to radians.

    Examples
    --------
    >>> round(arcmin(1) * 1000, 5)  # mrad
    0.29089
    """
    return math.radians(value / 60)


def arcsec(value: float) -> float:
    """Arc-seconds to radians.

    Examples
    --------
    >>> round(arcsec(20) * 1e6, 2)  # µrad
    96.96
    """
    return math.radians(value / 3600)
