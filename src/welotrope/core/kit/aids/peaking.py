"""Edges lit on the display where the picture changes steeply."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from welotrope.core import fields
from welotrope.core.errors import OutOfRangeError, UnreadableError
from welotrope.core.hand.evidence import ShownBy
from welotrope.core.inputs import Group, Input, field_spec
from welotrope.core.kit.aids import models
from welotrope.core.kit.aids.kind import (
    FAIL,
    SET,
    AidInput,
    AidJudgement,
    AidKind,
    AidRecord,
    Aids,
    AskedAid,
    Case,
    Chosen,
    FinderScene,
    FinderView,
    Lit,
    needed,
    positive,
)
from welotrope.core.kit.aids.magnified import ASKED_DISPLAY, DISPLAY_PX, USUAL_PX, display_seen
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.aids.viewing_optics import Detail, FramePlace, LightLevel, Sensor, Target, ViewingOptics
from welotrope.core.optics.blur import airy_diameter
from welotrope.core.rules import Finding, Rule
from welotrope.core.units.text import check_text, number

MOST_LEVELS = 8
USUAL_WORDS = "low 0.2, mid 0.1, high 0.05"


@dataclass(frozen=True)
class PeakingLevel:
    """A peaking sensitivity: its name on the body and its threshold in contrast per display pixel."""

    name: str
    threshold_per_px: float


def _read_levels(text: str) -> tuple[PeakingLevel, ...]:
    levels = []
    for part in [part.strip() for part in text.split(",") if part.strip()][:MOST_LEVELS]:
        name, _, threshold = part.rpartition(" ")
        value = number(threshold, "peaking level")
        if not name or not 0.001 <= value <= 2:
            raise UnreadableError(
                "peaking levels", part, "a level is a name and a threshold of 0.001 to 2",
                f"Write them like {USUAL_WORDS}",
            )  # fmt: skip
        levels.append(PeakingLevel(name.strip()[:20], value))
    return tuple(levels)


def _check_levels(levels: tuple[PeakingLevel, ...]) -> None:
    if not 1 <= len(levels) <= MOST_LEVELS:
        raise OutOfRangeError("number of peaking levels", len(levels), "out of range", f"Write 1 to {MOST_LEVELS}")
    for level in levels:
        check_text(level.name, fields.PEAKING_LEVEL, 20)
        if not 0.001 <= level.threshold_per_px <= 10:
            raise OutOfRangeError(
                fields.PEAKING_LEVEL, f"{level.threshold_per_px:g}", "out of range", "Write 0.001 to 10"
            )


LEVELS = Input(
    name="peaking", field=fields.PEAKING_LEVEL, label="Peaking levels", group=Group.AIDS,
    hint=f"Each a name and its threshold; {USUAL_WORDS} is a fair start",
    read=lambda text, _typed: _read_levels(text), valid=_check_levels, optional=True, empty=(),
    write=lambda levels: ", ".join(f"{level.name} {level.threshold_per_px:g}" for level in levels),
)  # fmt: skip


@dataclass(frozen=True)
class Peaking(AidRecord):
    """Edges lit on the display where the picture changes steeply."""

    display_px: int = field(metadata=field_spec(DISPLAY_PX))
    levels: tuple[PeakingLevel, ...] = field(metadata=field_spec(LEVELS))


def _made(values: Chosen) -> Peaking | None:
    return Peaking(values[DISPLAY_PX.name] or USUAL_PX, values[LEVELS.name]) if values[LEVELS.name] else None


def _request(said: Chosen) -> AskedAid:
    """Seen at a magnification, the picture has so many more pixels across."""
    aid = Peaking(round(said["display_px"] * said["step"]), (PeakingLevel("", said["threshold_per_px"]),))
    own = {} if said["contrast"] is None else {"edge_contrast": said["contrast"]}
    sensor = Sensor(said["pitch_mm"], said["sensor_px"])
    return AskedAid(aid=aid, sensor=sensor, lens_blur_mm=said["lens_blur_mm"], constants=own)


def _judge(aid: Peaking, sight: ViewingOptics, target: Target, sensor: Sensor | None, eye: Eye) -> AidJudgement:
    pixels = needed(sensor)
    display_mm = pixels.pitch_mm * models.sensor_px_per_display_px(pixels.width_px, aid.display_px, 1)
    own = best = sight.lens_blur_mm
    if own is None or best is None:
        best = math.hypot(eye["lens_blur"], sight.middle_blur_mm or 0.0, airy_diameter(sight.working_view_stop))
        own = _corner_blur(sight, eye) if target.place is FramePlace.CORNER else best
    contrast = eye[
        {Detail.TEXTURE: "texture_contrast", Detail.FAINT: "low_contrast"}.get(target.detail, "edge_contrast")
    ]
    lit = {}
    for level in aid.levels:
        # Weak edges and soft corners light over less of the ring, or not at all: that is less lit, not a finer band.
        bands = [
            models.peaking_defocus(display_mm, C, level.threshold_per_px, blur, sight.working_view_stop)
            for C, blur in ((contrast, own), (max(contrast, eye["edge_contrast"]), best))
        ]
        if bands[0] is not None and bands[1] is not None:
            lit[level.name] = max(bands[0], bands[1])
    if not lit:
        return AidJudgement(defocus_mm=None)
    name, band = min(lit.items(), key=lambda item: item[1])
    return AidJudgement(label=f"Peaking {name}".strip(), defocus_mm=band, chosen={"level": name})


def _corner_blur(sight: ViewingOptics, eye: Eye) -> float:
    """Return the lens's own blur in a corner, mm: as measured, else as usual where the corner is soft."""
    airy = airy_diameter(sight.working_view_stop)
    if sight.corner_blur_mm is not None:
        return math.hypot(eye["lens_blur"], sight.corner_blur_mm, airy)
    return math.hypot(eye["lens_blur"] * (eye["corner_blur"] if sight.soft_corners else 1.0), airy)


def _level(case: Case) -> Finding | None:
    if case.defocus_mm is None:
        return None
    fits = case.defocus_mm <= case.sight.half_window_mm
    ending = "set the middle of the lit band" if fits else "rough only; finish with a more precise aid"
    return Finding(text=f"level {case.level}: {ending}" if case.level else ending)


def _colour(case: Case) -> Finding | None:
    if not case.works or not case.colours:
        return None
    warm = case.target.light in (LightLevel.ROOM, LightLevel.DIM)
    for colour in ("blue", "white", "yellow") if warm else ("red", "yellow", "white"):
        if colour in case.colours:
            why = "lamplight is warm" if warm else "daylight has little of it"
            return Finding(text=f"in {colour}: {why}")
    return Finding(text=f"in {case.colours[0]}")


def _edges(case: Case) -> Finding | None:
    if not case.works:
        return Finding(text="nothing lights: the lens or the subject is too soft at this stop")
    if case.target.place is FramePlace.CORNER and case.sight.soft_corners:
        return Finding(text="in a soft corner little lights, and early: peak in the middle, or judge the corner by eye")
    if case.target.detail in (Detail.TEXTURE, Detail.FAINT):
        return Finding(text="lights only hard, contrasty edges; look over the whole frame for what does light")
    return None


def _seen(aids: Aids) -> FinderScene:
    levels = aids["peaking"].levels if "peaking" in aids else _read_levels(USUAL_WORDS)
    return display_seen(aids, Lit(tuple((level.name, level.threshold_per_px) for level in levels)))


PEAKING = AidKind(
    tag="peaking",
    label="Peaking",
    about="Peaking at one level, seen at ``step`` over the whole frame.",
    record=Peaking, by=ShownBy.PEAKS,
    inputs=(DISPLAY_PX, LEVELS),
    made=_made,
    texts=lambda aid: {DISPLAY_PX.name: str(aid.display_px), LEVELS.name: LEVELS.write(aid.levels)},
    asked=(
        *ASKED_DISPLAY,
        AidInput(name="contrast", low=1e-3, high=1, usual=None), AidInput(name="threshold_per_px", low=1e-3, high=10),
        AidInput(name="lens_blur_mm", low=0, high=1, usual=None), positive("step", usual=1.0),
    ),
    request=_request,
    judges=_judge,
    rules=(
        Rule(id="peaking-level", topic=SET, when="something lights", says=_level,
             source="a lower level lights a thinner band"),
        Rule(id="peaking-colour", topic=SET, when="the body's colours are entered", says=_colour,
             source="a colour that is rare in the scene is easier to see"),
        Rule(id="peaking-edges", topic=FAIL, says=_edges,
             when="nothing lights, edges are weak, or it sits in a soft corner",
             clears="a harder edge, or a wider stop", source="an edge lights by how steeply it changes"),
    ),
    views=(FinderView(key="peaking", name="Peaking", seen=_seen),),
    live=True,
)  # fmt: skip
