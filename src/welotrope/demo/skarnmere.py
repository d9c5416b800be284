"""What there is at Skarnmere Slip: the yard that restores the lake ferry *Teal*. All names are invented."""

from __future__ import annotations

import datetime as dt
import math

from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.aids.magnified import MagnifiedView
from welotrope.core.kit.aids.matte import MatteScreen
from welotrope.core.kit.aids.peaking import Peaking, PeakingLevel
from welotrope.core.kit.aids.split_image import SplitImage
from welotrope.core.kit.attachment import Attachment, AttachmentKind
from welotrope.core.kit.body import Body
from welotrope.core.kit.camera_kind import FinderKind
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.lens_inputs import InfinitySide
from welotrope.core.kit.mount import STANDARD_MOUNTS, Link, Mount, YesNoUnknown
from welotrope.core.kit.traits import ApertureRing, BodyTraits, LensFit, ScaleStandard, Screen
from welotrope.core.kit.zoom import Zoom
from welotrope.core.optics.sharpness import ImageFormat, SharpnessStandard, Standard
from welotrope.core.plan.setting import Subject
from welotrope.core.review.frame import Ambient, Support, Technique
from welotrope.core.review.outcomes import Outcome
from welotrope.core.review.roll import Roll
from welotrope.core.ring.depth_marks import MarkPair, MarkReading, MarkRecord
from welotrope.core.ring.focus_shift import FocusShift, ShiftTrial
from welotrope.core.ring.survey import Point, ReadingUnit, Survey, SurveyKind
from welotrope.core.ring.true_infinity import InfinityRecord, Sighting, Warmth
from welotrope.core.units.distance import Unit
from welotrope.store.queries.ring_records import Record, RecordKind

LEVELS = (PeakingLevel("low", 0.2), PeakingLevel("mid", 0.1), PeakingLevel("high", 0.05))

OSTREL = Mount(
    name="Ostrel bayonet", register_mm=18.0, throat_mm=46.0, actuation=Link.ELECTRONIC, stop_report=Link.ELECTRONIC,
    protruding=YesNoUnknown.NO, pin=YesNoUnknown.NO,
)  # fmt: skip
KYRSTAD = Mount(
    name="Kyrstad bayonet", register_mm=44.0, throat_mm=48.0, actuation=Link.MECHANICAL, stop_report=Link.MECHANICAL,
    protruding=YesNoUnknown.UNKNOWN, pin=YesNoUnknown.NO,
)  # fmt: skip
M42, M39, T2, _C = STANDARD_MOUNTS

ADAPTERS = {
    "m42-ostrel": Adapter(
        name="thread ring, 27.5",
        lens_side=M42,
        body_side=OSTREL,
        nominal_mm=27.46,
        measured_mm=27.46,
        presses_pin=YesNoUnknown.YES,
    ),
    "m39-ostrel": Adapter(
        name="thin thread ring",
        lens_side=M39,
        body_side=OSTREL,
        nominal_mm=10.8,
        measured_mm=10.74,
        presses_pin=YesNoUnknown.NO,
    ),
    "t2-ostrel": Adapter(
        name="long T tube",
        lens_side=T2,
        body_side=OSTREL,
        nominal_mm=37.0,
        measured_mm=37.18,
        presses_pin=YesNoUnknown.NO,
    ),
    "m42-kyrstad": Adapter(
        name="flat thread ring",
        lens_side=M42,
        body_side=KYRSTAD,
        nominal_mm=1.46,
        measured_mm=1.46,
        presses_pin=YesNoUnknown.YES,
    ),
}

BODIES = {
    "ostrel": Body(
        "Ostrel 6",
        ImageFormat(36, 24, 6000),
        (MagnifiedView(1280, (6, 12)), Peaking(1280, LEVELS)),
        OSTREL,
        BodyTraits(
            finder=FinderKind.ELECTRONIC,
            clearance_mm=6.0,
            coupling_lever=YesNoUnknown.NO,
            peaking_colours=("white", "red", "yellow"),
            stabiliser=True,
            burst_fps=8,
            shutter_lag_ms=60,
            distance_scale=ScaleStandard.NONE,
            aids_need_manual_focus=YesNoUnknown.YES,
            magnifier_fires=YesNoUnknown.NO,
            by_wire=YesNoUnknown.YES,
            slots=8,
        ),
    ),
    "kyrstad": Body(
        "Kyrstad Reflex",
        ImageFormat(36, 24),
        (MatteScreen(0.92, 2.8), SplitImage(0.92, 6.5)),
        KYRSTAD,
        BodyTraits(
            finder=FinderKind.SLR,
            clearance_mm=3.5,
            coupling_lever=YesNoUnknown.YES,
            screens=(Screen("split image", 2.8, 6.5), Screen("plain matte, old", 2.0), Screen("collar", 2.8, 6.5, 5.0)),
            burst_fps=2,
            shutter_lag_ms=110,
            by_wire=YesNoUnknown.NO,
        ),
    ),
}


def _metres(*values: float) -> tuple[float, ...]:
    return tuple(value * 1000 for value in values)


LENSES = {
    "norrvik": Lens(
        name="Norrvik 50",
        focal_mm=50,
        stops=(1.4, 2, 2.8, 4, 5.6, 8, 11, 16),
        closest_mm=450,
        throw_deg=230,
        ring_diameter_mm=61,
        engraved_m=(0.45, 0.5, 0.55, 0.6, 0.7, 0.8, 0.9, 1, 1.2, 1.5, 1.7, 2, 2.5, 3, 4, 5, 7, 10, 15, 30),
        engraved_ft=(1.5, 1.75, 2, 2.5, 3, 3.5, 4, 5, 6, 8, 10, 15, 25, 50, 100),
        mount=M42,
        fit=LensFit(
            protrusion_mm=0.0,
            aperture_ring=ApertureRing.CUT,
            pin=YesNoUnknown.YES,
            image_circle_mm=45.0,
            length_mm=42.0,
        ),
    ),
    "velloise": Lens(
        name="Velloise 20",
        focal_mm=20,
        stops=(3.5, 5.6, 8, 11, 16, 22),
        closest_mm=250,
        throw_deg=95,
        infinity_side=InfinitySide.LEFT,
        ring_diameter_mm=64,
        engraved_units=(Unit.METRIC,),
        mount=M39,
        fit=LensFit(
            protrusion_mm=None,
            aperture_ring=ApertureRing.NONE,
            pin=YesNoUnknown.NO,
            image_circle_mm=44.0,
            length_mm=24.0,
        ),
    ),
    "tarnholt": Lens(
        name="Tarnholt 35",
        focal_mm=35,
        stops=(2.8, 4, 5.6, 8, 11, 16),
        closest_mm=400,
        throw_deg=160,
        ring_diameter_mm=58,
        mount=KYRSTAD,
        fit=LensFit(
            protrusion_mm=0.0,
            aperture_ring=ApertureRing.UNCUT,
            pin=YesNoUnknown.NO,
            image_circle_mm=44.0,
            length_mm=48.0,
        ),
    ),
    "brannoch": Lens(
        name="Brannoch 135",
        focal_mm=135,
        stops=(2.8, 4, 5.6, 8, 11, 16, 22),
        closest_mm=1500,
        throw_deg=280,
        ring_diameter_mm=72,
        mount=T2,
        fit=LensFit(
            protrusion_mm=0.0,
            aperture_ring=ApertureRing.NONE,
            pin=YesNoUnknown.NO,
            image_circle_mm=60.0,
            length_mm=96.0,
        ),
    ),
    "lindmere": Lens(
        name="Lindmere 35–70",
        focal_mm=70,
        stops=(3.5, 4, 5.6, 8, 11, 16, 22),
        closest_mm=800,
        throw_deg=140,
        ring_diameter_mm=66,
        mount=M42,
        zoom=Zoom(focals_mm=(35, 50, 70), widest_long=4.5, parfocal=YesNoUnknown.YES),
        fit=LensFit(
            protrusion_mm=0.0,
            aperture_ring=ApertureRing.CUT,
            pin=YesNoUnknown.YES,
            image_circle_mm=44.0,
            length_mm=78.0,
        ),
    ),
    "ostrel-28": Lens(
        name="Ostrel 28 W",
        focal_mm=28,
        stops=(2.8, 4, 5.6, 8, 11, 16),
        closest_mm=280,
        engraved_units=(),
        mount=OSTREL,
        fit=LensFit(
            protrusion_mm=0.0,
            aperture_ring=ApertureRing.NONE,
            pin=YesNoUnknown.NO,
            image_circle_mm=52.0,
            length_mm=46.0,
        ),
    ),
}

ATTACHMENTS = (
    Attachment(name="close-up +1", kind=AttachmentKind.CLOSEUP, labelled=1),
    Attachment(name="close-up +2", kind=AttachmentKind.CLOSEUP, labelled=2, measured=1.9),
    Attachment(name="close-up +4", kind=AttachmentKind.CLOSEUP, labelled=4),
    Attachment(name="tube 9", kind=AttachmentKind.TUBE, least_mm=9),
    Attachment(name="tube 16", kind=AttachmentKind.TUBE, least_mm=16),
    Attachment(name="tube 30", kind=AttachmentKind.TUBE, least_mm=30),
    Attachment(name="bench bellows", kind=AttachmentKind.BELLOWS, least_mm=42, most_mm=140),
)

# body, lens, standard, adapter
SETUPS: tuple[tuple[str, str, SharpnessStandard, str | None], ...] = (
    ("ostrel", "norrvik", SharpnessStandard(kind=Standard.PRINT), "m42-ostrel"),
    ("ostrel", "velloise", SharpnessStandard(kind=Standard.PRINT), "m39-ostrel"),
    ("kyrstad", "tarnholt", SharpnessStandard(kind=Standard.FILM), None),
    ("kyrstad", "norrvik", SharpnessStandard(kind=Standard.FILM), "m42-kyrstad"),
    ("ostrel", "brannoch", SharpnessStandard(kind=Standard.PIXEL, pixels=2), "t2-ostrel"),
    ("ostrel", "ostrel-28", SharpnessStandard(kind=Standard.PRINT), None),
    ("ostrel", "lindmere", SharpnessStandard(kind=Standard.PRINT), "m42-ostrel"),
)
SLOTS = (("ostrel", "norrvik", 1), ("ostrel", "velloise", 2), ("ostrel", "brannoch", 2))


def _readings(*pairs: tuple[float, float]) -> tuple[Point, ...]:
    return tuple(Point(position, metres * 1000) for position, metres in pairs)


# The Tarnholt was measured on a collar from the film mark; the 1 m reading was taken on a slant.
TARNHOLT_SURVEY = Survey(
    points=_readings(
        (163.5, 0.4), (125.1, 0.5), (85.1, 0.7), (60.6, 1.0), (37.6, 1.5), (22.1, 2.5), (11.4, 5), (1.1, math.inf)
    ),
    kind=SurveyKind.MEASURED, error=0.5, distance_error=0.003,
)  # fmt: skip
# The Ostrel 28 turns by wire: its indicator was read against the shed wall, some steps twice.
OSTREL_SURVEY = Survey(
    points=_readings(
        (0, math.inf), (3, 2.9), (6, 1.16), (6, 1.18), (9, 0.70), (12, 0.502), (12, 0.496), (14, 0.411), (15, 0.39),
        (15, 0.385), (16, 0.365), (18, 0.318), (18, 0.32), (20, 0.281),
    ),
    way=ReadingUnit.STEPS, kind=SurveyKind.MEASURED, end=20,
)  # fmt: skip
VELLOISE_SIGHTINGS = InfinityRecord(
    tuple(Sighting(angle, warmth) for angle, warmth in (
        (4.0, Warmth.WARM), (4.4, Warmth.WARM), (3.2, Warmth.COLD), (3.5, Warmth.COLD), (3.8, Warmth.UNNOTED),
    ))
)  # fmt: skip
TARNHOLT_SHIFT = FocusShift(
    tuple(ShiftTrial(stop, angle) for stop, angle in (
        (2.8, 40.1), (2.8, 39.8), (2.8, 40.2), (4, 40.9), (4, 41.2), (4, 41.0), (5.6, 41.6), (5.6, 41.9), (8, 42.0),
        (8, 41.7),
    ))
)  # fmt: skip
NORRVIK_MARKS = MarkRecord(
    (
        MarkReading(stop=16, far_mm=math.inf, near_mm=2600.0), MarkReading(stop=8, far_mm=math.inf, near_mm=5300.0),
    ),
    (MarkPair(11, 27.0),),
)  # fmt: skip

IDA, BOARD, ROPE, OVE = (
    Subject("Ida, hands", 2300), Subject("name board", 2600), Subject("rope coil", 1900), Subject("Ove", 3200)
)  # fmt: skip
PRESETS = (
    ("velloise", "lake at night", math.inf, 3.5, ()),
    # Two zones that leave no gap at f/8, as Plan finds them.
    ("velloise", "quay, far zone", 1773.7, 8.0, (Subject("front row", 1600), Subject("far shore", math.inf))),
    ("velloise", "deck, near zone", 609.5, 8.0, (Subject("Mats", 560), Subject("wheel", 850))),
    ("tarnholt", "shed, both doors", 3100.0, 8.0, (Subject("bench", 2100), Subject("doors", 6200))),
    ("brannoch", "race, first trap", 30000.0, 4.0, ()),
    ("brannoch", "jetty mark", 14000.0, 5.6, (Subject("lead boat", 14000),)),
    ("norrvik", "quay", 6000.0, 8.0, (Subject("band", 4400), Subject("gangway", 9500))),
    ("norrvik", "winch", 1200.0, 4.0, (Subject("pawl", 1180), Subject("drum", 1260))),
    ("norrvik", "name plate", 461.0, 8.0, ()),
    ("norrvik", "shed bench", 2400.0, 5.6, (ROPE, IDA, BOARD, OVE)),
    ("ostrel-28", "deck rail", 420.0, 5.6, (Subject("rail", 410), Subject("cleat", 430))),
)

# set-up, kind, record
RECORDS: tuple[tuple[int, RecordKind, Record], ...] = (
    (2, RecordKind.MEASURED, TARNHOLT_SURVEY),
    (2, RecordKind.SHIFT, TARNHOLT_SHIFT),
    (5, RecordKind.MEASURED, OSTREL_SURVEY),
    (1, RecordKind.INFINITY, VELLOISE_SIGHTINGS),
    (0, RecordKind.MARKS, NORRVIK_MARKS),
)

# set-up, aid, scene, stop, scatter of the hand at first and at last in units of what the picture shows, bias, rounds
PRACTICE: tuple[tuple[int, str, str, float, tuple[float, float], float, int], ...] = (
    (0, "magnified", "shed", 1.4, (1.6, 0.7), 0.0, 12), (0, "peaking", "plank", 1.4, (0.7, 0.7), 0.4, 10),
    (0, "matte", "sitter", 1.4, (1.3, 1.3), 0.2, 6), (3, "split_image", "shed", 1.4, (1.2, 1.2), 0.1, 11),
)  # fmt: skip

OUTING = ("Teal, from shed to launch", dt.date(2026, 3, 14))
H, F, B, M, U = Outcome.HIT, Outcome.FRONT, Outcome.BEHIND, Outcome.MOVED, Outcome.UNSURE
# minute, set-up, set distance in mm, stop, preset, shutter in s, ISO, film frame, result, note
FRAMES: tuple[tuple[int, int, float, float, str, float | None, int | None, str, Outcome | None, str], ...] = (
    (0, 0, 2400, 5.6, "shed bench", 1 / 60, 1600, "", H, "Ida splicing, hands and board both in"),
    (2, 0, 2300, 2.8, "", 1 / 125, 800, "", H, "magnified 6× on the splice"),
    (3, 0, 2300, 1.4, "", 1 / 250, 400, "", B, "swayed after un-magnifying"),
    (5, 0, 2300, 1.4, "", 1 / 250, 400, "", H, ""),
    (9, 0, 1200, 4, "winch", 1 / 30, 1600, "", F, "pawl sharp, drum not"),
    (11, 0, 1230, 4, "", 1 / 30, 1600, "", H, "tripod"),
    (14, 0, 620, 8, "", 1 / 15, 800, "", H, "lettering, tripod, 12×"),
    (21, 2, 3100, 8, "shed, both doors", 1 / 30, 400, "1", H, "set and shoot"),
    (22, 2, 3100, 8, "shed, both doors", 1 / 30, 400, "2", M, "Ove walked"),
    (25, 2, 1800, 4, "", 1 / 60, 400, "3", H, "split image on the mast"),
    (27, 2, 1800, 4, "", 1 / 60, 400, "4", U, "grain hides it"),
    (31, 3, 2000, 1.4, "", 1 / 125, 400, "5", F, "judged blur on the bright screen"),
    (33, 3, 2000, 2, "", 1 / 60, 400, "6", H, "split image, camera turned"),
    (52, 1, 3200, 8, "quay, far zone", 1 / 250, 200, "", H, "crowd on the quay"),
    (53, 1, 3200, 8, "quay, far zone", 1 / 250, 200, "", H, ""),
    (55, 1, 900, 8, "deck, near zone", 1 / 250, 400, "", H, "from the hip at the gangway"),
    (56, 1, 900, 8, "deck, near zone", 1 / 250, 400, "", B, "Mats leaned in under 0.7 m"),
    (61, 0, 6000, 8, "quay", 1 / 500, 200, "", H, "band"),
    (78, 4, 14000, 5.6, "jetty mark", 1 / 1000, 400, "", F, "fired before the mark"),
    (79, 4, 14000, 5.6, "jetty mark", 1 / 1000, 400, "", H, "waited for it"),
    (80, 4, 14000, 5.6, "jetty mark", 1 / 1000, 400, "", M, "race, second boat cut in"),
    (82, 4, 11000, 5.6, "", 1 / 1000, 400, "", H, "re-set closer"),
    (95, 4, 45000, 4, "", 1 / 500, 400, "", B, "peaking only"),
    (440, 1, math.inf, 3.5, "", 15, 3200, "", None, "lake at night, test shot to check at home"),
)

ROLL = Roll(name="26-07", film="Grauwe", iso=400, push_stops=1, body_name="Kyrstad Reflex")
# Scene that a frame's picture shows, by its place in FRAMES; nothing for the test shot that is checked at home.
SHOWN = (
    "shed", "sitter", "sitter", "sitter", "plank", "plank", "deck", "shed", "shed", "deck", "shed", "sitter", "sitter",
    "quay", "quay", "deck", "deck", "quay", "boat", "boat", "boat", "boat", "boat", "stars",
)  # fmt: skip
# What was meant and found, by its place in FRAMES: subject, aid, technique, support, sharp instead, miss in mm.
MEANT: dict[int, tuple[str, str, Technique, Support, str, float | None]] = {
    0: ("Ida’s hands", "scale", Technique.SET, Support.HAND, "", None),
    1: ("the splice", "magnified", Technique.PASS, Support.HAND, "", None),
    2: ("Ida’s nearer eye", "magnified", Technique.PASS, Support.HAND, "her ear", 90.0),
    3: ("Ida’s nearer eye", "magnified", Technique.LEAN, Support.HAND, "", None),
    4: ("drum of the winch", "peaking", Technique.SINGLE, Support.TRIPOD, "the pawl", 25.0),
    5: ("drum of the winch", "magnified", Technique.PASS, Support.TRIPOD, "", None),
    6: ("lettering", "magnified", Technique.PASS, Support.TRIPOD, "", None),
    7: ("both doors", "scale", Technique.SET, Support.HAND, "", None),
    8: ("Ove", "scale", Technique.SET, Support.HAND, "", None),
    9: ("the mast", "split_image", Technique.FROM_INFINITY, Support.LEANT, "", None),
    10: ("the mast", "split_image", Technique.FROM_INFINITY, Support.LEANT, "", None),
    11: ("Mats’s eye", "matte", Technique.SINGLE, Support.HAND, "the collar", 40.0),
    12: ("Mats’s eye", "split_image", Technique.PASS, Support.HAND, "", None),
    13: ("the crowd", "scale", Technique.SET, Support.HAND, "", None),
    14: ("the one in the white hat", "scale", Technique.SET, Support.HAND, "", None),
    15: ("the varnished rail", "scale", Technique.SET, Support.HAND, "", None),
    16: ("Mats", "scale", Technique.SET, Support.HAND, "the wheel", 180.0),
    17: ("the band", "scale", Technique.SET, Support.HAND, "", None),
    18: ("bow of the lead boat", "peaking", Technique.TRAP, Support.MONOPOD, "the jetty", 900.0),
    19: ("bow of the lead boat", "peaking", Technique.TRAP, Support.MONOPOD, "", None),
    20: ("bow of the lead boat", "peaking", Technique.TRAP, Support.MONOPOD, "", None),
    21: ("bow of the lead boat", "magnified", Technique.TRAP, Support.MONOPOD, "", None),
    22: ("the far boat", "peaking", Technique.SINGLE, Support.MONOPOD, "the shore", 9000.0),
    23: ("the bright pair", "magnified", Technique.FROM_INFINITY, Support.TRIPOD, "", None),
}
LIGHTS = (Ambient.INDOORS,) * 13 + (Ambient.SUN,) * 10 + (Ambient.NIGHT,)
# Three pictures nobody logged: minutes after the first frame.
NOT_LOGGED = ((37.5, "plank"), (66.0, "quay"), (101.0, "boat"))
CLOCK_FAST_S = 424.0
LARGE_FRAME = 3  # of more than twelve million pixels, to be looked at closely
