"""The steps of a night with this set-up: where infinity is, what a little of the ring costs, how long to expose."""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.errors import OutOfRangeError
from welotrope.core.exposure.light import long_exposure, metered_for
from welotrope.core.kit.aids.magnified import MagnifiedView
from welotrope.core.kit.known_ring import InfinityBasis
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.blur import airy_diameter, total_blur
from welotrope.core.optics.depth import check_blur
from welotrope.core.optics.thin_lens import check_focal
from welotrope.core.plan.setting import RingSetting, ring_setting

SIDEREAL_RATE = 7.2921e-5
"""Angular rate of the sky, rad/s (IERS Conventions 2010: 7.292115e-5)."""
TENTH_DEG = 0.1
FILM_SPOT_MM = 0.02  # what a fine-grained film makes of a point, about 50 line pairs a mm
_SPOT_PIXELS = 2.0


def trail_time(focal_mm: float, trail_mm: float, *, declination_deg: float = 0.0) -> float:
    """Return the longest exposure, s, before a star trails by ``trail_mm``: ``t = trail/(f·ω·cos δ)``.

    Parameters
    ----------
    focal_mm
        Focal length, mm.
    trail_mm
        Allowed on the film or sensor, mm.
    declination_deg
        Of the star, −90 to 90°; infinite at the pole.

    Raises
    ------
    OutOfRangeError
        When a value is out of range.

    Examples
    --------
    >>> round(trail_time(20, 2 * 0.006), 3), round(trail_time(20, 2 * 0.006, declination_deg=60), 3)
    (8.228, 16.456)
    """
    if not -90 <= declination_deg <= 90:
        raise OutOfRangeError(
            "declination", f"{declination_deg:g}°", "no star stands there", "Write −90° to 90°; 0 is the fastest"
        )
    turn = math.cos(math.radians(declination_deg))
    if abs(declination_deg) == 90:
        return math.inf
    return check_blur(trail_mm, field="trail") / (check_focal(focal_mm) * SIDEREAL_RATE * turn)


@dataclass(frozen=True, kw_only=True)
class NightPlan:
    """A night.

    Parameters
    ----------
    infinity_deg, infinity_half_deg
        Where infinity lies on the ring, and how surely, 95 %; half-width infinite when never sighted.
    basis
        What that rests on.
    warm_cold_deg
        How much nearer to closest focus it lies warm than cold; None when not known.
    known
        Whether that was seen, or engraved by the maker for this mount; else the mark is a guess.
    far_stop
        What the far end of the ring is called.
    reached
        Whether the ring reaches it.
    star_mm
        Smallest a star can be here: Airy disc and two pixels or the film, root of squares.
    tenth_mm
        What a tenth of a degree adds: its size then.
    window_deg
        How far the ring may be off either way before a star is half as large again.
    longest_s
        Before stars trail by what counts as sharp.
    exposed_s
        What film needs for a metered ``longest_s``, and ``metered_s`` the metered time that just gives it; as they
        are without reciprocity failure.
    magnify, sees_focus
        The strongest magnification there is, as the camera quotes it, empty without one; and whether a star is seen to
        get sharp at all.
    noun
        What the distance is set on.
    setting
        The ring at infinity: what is sharp before it.
    foreground
        A second setting for a foreground that is not; None when it is inside, or there is none.
    """

    infinity_deg: float
    infinity_half_deg: float
    basis: InfinityBasis
    warm_cold_deg: float | None
    known: bool
    far_stop: str
    reached: bool
    star_mm: float
    tenth_mm: float
    window_deg: float
    longest_s: float
    exposed_s: float
    metered_s: float
    magnify: str
    sees_focus: bool
    noun: str
    setting: RingSetting
    foreground: RingSetting | None

    @property
    def is_off_the_stop(self) -> bool:
        """Whether the stars lie a tenth of a degree or more from the stop at the far end of the ring."""
        return abs(self.infinity_deg) >= TENTH_DEG / 2

    @property
    def where(self) -> str:
        """Where on the ring they lie, in words; degrees from that stop."""
        return f"{self.infinity_deg:.1f}° from {self.far_stop}" if self.is_off_the_stop else self.far_stop

    @property
    def star_um(self) -> float:
        """Smallest size of a star, µm."""
        return self.star_mm * 1000

    @property
    def tenth_um(self) -> float:
        """Its size a tenth of a degree off, µm."""
        return self.tenth_mm * 1000

    @property
    def tenth_is_nothing(self) -> bool:
        """Whether a tenth of a degree costs nothing that could be seen."""
        return self.tenth_mm < self.star_mm * 1.02


@dataclass(frozen=True, kw_only=True)
class NightStep:
    """A step of the night: what to do, and why or how far."""

    do: str
    why: str


def night_steps(
    plan: NightPlan, blur_mm: float, *, film: bool = False, corrected: bool = False
) -> tuple[NightStep, ...]:
    """Return the steps of a night in order.

    ``blur_mm`` is what counts as sharp, mm; on ``film`` long times lose speed unless that is ``corrected`` for.

    Parameters
    ----------
    plan
        Plan for the night.
    blur_mm
        Acceptable blur diameter in mm, 0.0001 to 2.
    film
        Whether it records on film.
    corrected
        Whether the ring's infinity was corrected by sighting.
    """
    basis = {
        InfinityBasis.MEASURED: "From your measured distances.",
        InfinityBasis.ADAPTER: "Only calculated from the adapter’s thickness: never rely on it for stars.",
        InfinityBasis.ENGRAVED: "Only as engraved: never rely on it for stars."
        if plan.known
        else "Not known yet for this set-up: the mark is only a starting point.",
    }.get(plan.basis) or f"By your own sightings, give or take {plan.infinity_half_deg:.1f}°.{_warmth(plan)}"
    tenth = (
        "A tenth of a degree makes no visible difference with this lens;"
        if plan.tenth_is_nothing
        else f"A tenth of a degree makes a star of {plan.star_um:.0f} µm one of {plan.tenth_um:.0f} µm;"
    )
    longest = "any time" if math.isinf(plan.longest_s) else f"{plan.longest_s:.1f} s"
    release = "cable release, or self-timer" if film else "2 s self-timer to avoid shake"
    test = (
        "Take one frame there and one slightly to each side: only the developed film shows which is sharp."
        if film
        else "Take a test frame and check it enlarged, corners included."
    )
    pairs = (
        (f"Set the {plan.noun} {'near' if plan.is_off_the_stop or not plan.known else 'to'} {plan.where}.", basis),
        *_look(plan, tenth),
        ("Tape the ring." if plan.noun == "ring" else "Leave it so,", test),
        (f"Expose up to {longest}", f"before stars trail by {blur_mm:.3f} mm; {release}."
         + (_film(plan, corrected=corrected) if film else "")),
        ("Check again when it gets colder:", "infinity moves with temperature."),
    )  # fmt: skip
    return tuple(NightStep(do=do, why=why) for do, why in pairs)


def _look(plan: NightPlan, tenth: str) -> tuple[tuple[str, str], ...]:
    """Return the steps of looking at a star, by what the camera shows of it."""
    keeps = f"{tenth} within {plan.window_deg:.1f}° either way the star stays below 1.5 times its size."
    if plan.noun != "ring":
        keeps = "It is larger on both sides; the smallest is in between."
    back = ("Go past it and come back.", keeps)
    if plan.magnify:
        return (
            ("First find a star:", "widest aperture, highest ISO, exposure preview off, no magnification."
             " Aim at the brightest star or a lamp on the horizon, and centre it."),
            (f"Magnify {plan.magnify} on it.", "Turn until the star is smallest; a close double star separates."),
            back,
        )  # fmt: skip
    if plan.sees_focus:
        look = (
            "Look at a bright star on the screen.",
            "Turn until the star is smallest; a close double star separates.",
        )
        return look, back
    return (
        ("Trust no finder with it:", f"it shows no focus on stars. Check infinity by day and mark its place; {tenth}"),
    )


def _warmth(plan: NightPlan) -> str:
    if plan.warm_cold_deg is None:
        return ""
    side = "nearer the close end" if plan.warm_cold_deg > 0 else "nearer the far end"
    return f" Warm it lies {abs(plan.warm_cold_deg):.1f}° {side} than cold."


def _film(plan: NightPlan, *, corrected: bool) -> str:
    if not corrected:
        return " Film loses speed beyond a second: its data sheet tells the exponent to plan with."
    return (
        f" Metered for {plan.metered_s:.1f} s, the film needs all of it; metered for {plan.longest_s:.0f} s it would"
        f" need {plan.exposed_s:.0f} s, and stars trail."
    )


def plan_night(
    setup: Setup, stop: float, *, declination_deg: float = 0.0, foreground_mm: float | None = None,
    exponent: float | None = None,
) -> NightPlan:  # fmt: skip
    """Plan a night.

    Parameters
    ----------
    setup
        In hand.
    stop
        Marked.
    declination_deg
        Of the stars, −90 to 90°.
    foreground_mm
        Of something that is to be sharp besides, mm from the film plane; None without.
    exponent
        Of the film's reciprocity failure; None for a sensor or when not known.

    Raises
    ------
    OutOfRangeError, TooCloseError
        When a value is out of range.
    """
    ring, known = setup.ring(setup.lens.check_has(stop)), setup.known
    infinity = ring.infinity_deg
    at = ring.clamp(infinity)
    per_mm = ring.degrees_per_mm(at)
    pitch = setup.body.image.pitch_mm
    point = total_blur(airy_diameter(stop), _SPOT_PIXELS * pitch if pitch else FILM_SPOT_MM)
    tenth = total_blur(point, TENTH_DEG / per_mm / stop)
    longest = trail_time(ring.focal_mm, setup.blur_mm, declination_deg=declination_deg)
    setting = ring_setting(setup, at, stop)
    second = None
    if foreground_mm is not None:
        ring.check_near(foreground_mm, field="foreground")
        if not setting.zone.contains(foreground_mm):
            second = ring_setting(setup, ring.clamp(float(ring.angle_at_distance(foreground_mm))), stop)
    magnified = setup.body.aids_by_tag.get("magnified")
    strongest = (
        magnified.words(max(magnified.steps)) if isinstance(magnified, MagnifiedView) and magnified.steps else ""
    )
    return NightPlan(
        infinity_deg=infinity, infinity_half_deg=known.found.half_deg if known.found else math.inf,
        basis=known.infinity_basis, warm_cold_deg=known.found.warm_cold_deg if known.found else None,
        known=setup.infinity_known, far_stop=setup.far_stop_words, reached=infinity >= -TENTH_DEG / 2,
        star_mm=point, tenth_mm=tenth,
        window_deg=point * math.sqrt(1.5**2 - 1) * stop * per_mm, longest_s=longest,
        exposed_s=longest if exponent is None or math.isinf(longest) else long_exposure(longest, exponent),
        metered_s=longest if exponent is None or math.isinf(longest) else metered_for(longest, exponent),
        magnify=strongest,
        sees_focus=setup.body.kind.sees_focus, noun=setup.noun,
        setting=setting, foreground=second,
    )  # fmt: skip
