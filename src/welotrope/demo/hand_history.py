"""Three months of one hand at Skarnmere Slip: what was practised from December on, and a rangefinder that is out.

Everything is drawn from fixed seeds through the same functions as a photographer's own trials. The rangefinder of the
Skelmar leaves focus in front at every distance; with the scale the same lens lands where it should.
"""

from __future__ import annotations

import datetime as dt
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from welotrope.core.hand.skill_trial import side_of
from welotrope.core.kit.aids.rangefinder import RangefinderPatch
from welotrope.core.kit.aids.viewing_optics import LightLevel
from welotrope.core.kit.body import Body
from welotrope.core.kit.camera_kind import FinderKind
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.mount import STANDARD_MOUNTS, YesNoUnknown
from welotrope.core.kit.setup import Setup, resolved
from welotrope.core.kit.traits import ApertureRing, BodyTraits, LensFit
from welotrope.core.optics.sharpness import ImageFormat, SharpnessStandard, Standard
from welotrope.core.practice import drill_readings
from welotrope.core.practice.drills import DrillId, DrillTrial, distance_of
from welotrope.core.review.frame import Technique, frame_at
from welotrope.core.review.outcomes import Outcome
from welotrope.store.queries import kit, log, practice
from welotrope.store.queries.practice import NewDrill
from welotrope.store.unit_of_work import UnitOfWork

_OUT_MM = -0.13  # of the rangefinder, mm of extension: in front
_SEED = 260314
_, M39, _, _ = STANDARD_MOUNTS


@dataclass(frozen=True, kw_only=True)
class _Shoot:
    """Frames of a day: outing, aid, subjects with their distance (mm) and stop, and what the aid is always off by."""

    outing: str
    day: dt.datetime
    aid: str
    subjects: tuple[tuple[str, float, float], ...]
    error_mm: float


_SHOOTS = (
    _Shoot(
        outing="Rivets, winter shed", day=dt.datetime(2026, 1, 11, 10, 5), aid="rangefinder", error_mm=_OUT_MM,
        subjects=(
            ("rivet heads", 1100, 2), ("rivet heads", 1100, 2.8), ("Ove at the forge", 2200, 2),
            ("Ove at the forge", 2400, 2.8), ("the keel", 3800, 2), ("the keel", 3800, 5.6), ("tongs", 1300, 2),
            ("tongs", 1300, 4), ("shed door", 6500, 2.8),
        ),
    ),
    _Shoot(
        outing="Lettering the boards", day=dt.datetime(2026, 2, 8, 11, 30), aid="rangefinder", error_mm=_OUT_MM,
        subjects=(
            ("brush hand", 1000, 2.8), ("brush hand", 1000, 2), ("Ida", 1700, 2), ("Ida", 1700, 2.8),
            ("Ida’s nearer eye", 1500, 2), ("gold leaf", 1050, 4), ("boards drying", 4200, 2.8),
            ("boards drying", 4200, 2),
        ),
    ),
    _Shoot(
        outing="Lettering the boards", day=dt.datetime(2026, 2, 8, 14, 10), aid="scale", error_mm=0.0,
        subjects=(
            ("the yard", 7000, 8), ("crane", 9000, 8), ("Mats with the cart", 4000, 8), ("slipway", 6000, 11),
            ("ferry’s bow", 5000, 8), ("ferry’s bow", 5000, 5.6),
        ),
    ),
)  # fmt: skip


SKELMAR = Body(
    "Skelmar R", ImageFormat(36, 24), (RangefinderPatch(47, 0.72),), M39,
    BodyTraits(finder=FinderKind.RANGEFINDER, clearance_mm=9.0, coupling_lever=YesNoUnknown.YES,
    by_wire=YesNoUnknown.NO),
)  # fmt: skip
ALDERMOOR = Lens(
    name="Aldermoor 50", focal_mm=50, stops=(2, 2.8, 4, 5.6, 8, 11, 16), closest_mm=900, throw_deg=170,
    ring_diameter_mm=50, mount=M39,
    fit=LensFit(
        protrusion_mm=0.0, aperture_ring=ApertureRing.NONE, pin=YesNoUnknown.NO, image_circle_mm=44.0, length_mm=38.0
    ),
)  # fmt: skip


def add_hand_history(uow: UnitOfWork, setups: Sequence[int]) -> None:
    """Add the rangefinder with its frames, and drills; ``setups`` are keys in the order of the demo's set-ups."""
    rng = np.random.default_rng(_SEED)
    body, lens = kit.save_body(uow, SKELMAR), kit.save_lens(uow, ALDERMOOR)
    ranged = kit.get_setup(uow, kit.save_setup(uow, body, lens, SharpnessStandard(kind=Standard.FILM)))
    outings: dict[str, int] = {}
    for shoot in _SHOOTS:
        if shoot.outing not in outings:
            outings[shoot.outing] = log.add_outing(uow, shoot.outing, shoot.day.date())
        _shoot(uow, ranged, outings[shoot.outing], shoot, rng)
    _tape(uow, kit.get_setup(uow, setups[3]), rng)
    _guesses(uow, rng)
    _daily(uow, kit.get_setup(uow, setups[0]), rng)


def _shoot(uow: UnitOfWork, stored: kit.StoredSetup, outing: int, shoot: _Shoot, rng: np.random.Generator) -> None:
    setup = stored.setup
    for place, (subject, distance, stop) in enumerate(shoot.subjects):
        shown = resolved(setup, shoot.aid, distance, stop)
        spread = 0.45 * shown.half_mm if shoot.aid == "scale" else 0.6 * shown.defocus_mm
        error = shoot.error_mm + float(rng.normal(0, spread))
        ring = setup.ring(stop)
        angle = ring.clamp(float(ring.angle_at_distance(distance)) - error * shown.degrees_per_defocus)
        frame = frame_at(stored.id, setup, angle, stop, shoot.day + dt.timedelta(minutes=4 * place))
        outcome, miss = _seen(error, shown.half_mm, distance, float(ring.distance_at_angle(angle)))
        log.add_frame(
            uow, outing,
            replace(
                frame, subject=subject, aid=shoot.aid, believed_mm=distance, iso=400, miss_mm=miss,
                technique=Technique.SINGLE.value if shoot.aid == "rangefinder" else Technique.SET.value,
                light="indoors" if shoot.day.month == 1 else "shade",
            ),
            outcome=outcome,
        )  # fmt: skip


def _seen(error_mm: float, half_mm: float, distance_mm: float, plane_mm: float) -> tuple[Outcome, float | None]:
    """Return what a picture shows of an error, and how far off in the scene, as it is read: to two figures."""
    if abs(error_mm) <= half_mm:
        return Outcome.HIT, None
    miss = abs(plane_mm - distance_mm)
    figures = 10 ** math.floor(math.log10(max(miss, 1.0)) - 1) if math.isfinite(miss) else 1.0
    read = round(miss / figures) * figures if math.isfinite(miss) else None
    return (Outcome.BEHIND if error_mm > 0 else Outcome.FRONT), read


def _tape(uow: UnitOfWork, stored: kit.StoredSetup, rng: np.random.Generator) -> None:
    """Two evenings with tape on the ring, the split image getting finer; once the ring stood at its end."""
    for session, day, spread in (
        ("demo-tape-1", dt.datetime(2025, 12, 20, 19, 0), 1.7), ("demo-tape-2", dt.datetime(2026, 2, 22, 19, 30), 0.9),
    ):  # fmt: skip
        base = DrillTrial(
            drill=DrillId.TAPE, aid="split_image", light=LightLevel.ROOM, stop=1.4, distance_mm=2000.0, against=session
        )
        shown = resolved(stored.setup, "split_image", 2000.0, 1.4, light=LightLevel.ROOM)
        for place in range(9):
            error = float(rng.normal(0, spread)) * shown.defocus_mm * shown.degrees_per_defocus
            left = 0.0 if (session, place) == ("demo-tape-1", 4) else None
            trial = drill_readings.on_the_ring(stored.setup, base, round(error, 1), left_deg=left)
            _keep(uow, stored, trial, session, day + dt.timedelta(minutes=2 * place))


def _guesses(uow: UnitOfWork, rng: np.random.Generator) -> None:
    """Guesses on walks: too far by a tenth at first, closer later; and a few of Mats, who has an eye of his own."""
    for day, bias, spread, person in (
        (dt.date(2026, 1, 4), 0.20, 0.2, ""), (dt.date(2026, 1, 18), 0.16, 0.17, ""),
        (dt.date(2026, 2, 15), 0.12, 0.14, ""), (dt.date(2026, 3, 8), 0.10, 0.11, ""),
        (dt.date(2026, 3, 8), -0.2, 0.3, "Mats"),
    ):  # fmt: skip
        session = f"guess-{day:%Y%m%d}{'-' + person if person else ''}"
        for place in range(6):
            true = round(distance_of(session, place, 700.0) * float(rng.uniform(0.85, 1.2)), -1)
            believed = round(true * math.exp(float(rng.normal(bias, spread))), -2)
            trial = drill_readings.guessed(DrillId.GUESS, max(believed, 200.0), true, LightLevel.BRIGHT)
            at = dt.datetime.combine(day, dt.time(15)) + dt.timedelta(minutes=3 * place)
            _keep(uow, None, trial, session, at, person=person)


def _daily(uow: UnitOfWork, stored: kit.StoredSetup, rng: np.random.Generator) -> None:
    """Five pictures a day in the week before the launch, wide open."""
    for day in range(9, 14):
        session = f"demo-daily-{day}"
        for place in range(5):
            distance = distance_of(session, place, 500.0)
            base = DrillTrial(
                drill=DrillId.DAILY, aid="magnified", technique=Technique.PASS.value, stop=1.4, distance_mm=distance
            )
            shown = resolved(stored.setup, "magnified", distance, 1.4)
            z = float(rng.normal(0.2, 0.9))
            side = side_of(z, shown.half_z)
            at = dt.datetime(2026, 3, day, 8, 10) + dt.timedelta(minutes=place)
            _keep(uow, stored, drill_readings.by_side(stored.setup, base, side), session, at)


def _keep(
    uow: UnitOfWork,
    stored: kit.StoredSetup | None,
    trial: DrillTrial,
    session: str,
    at: dt.datetime,
    *,
    person: str = "",
) -> None:
    setup: Setup | None = stored.setup if stored else None
    new = NewDrill(
        session=session, person=person, setup_id=stored.id if stored else None,
        body_name=setup.body.name if setup else "", lens_name=setup.lens.name if setup else "", taken_at=at,
    )  # fmt: skip
    practice.add_drill(uow, new, trial)
