"""How each kind of series is taken."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.kit.lens import Lens
from welotrope.core.testshot.series_words import SeriesKind

NEARER, FARTHER = "nearer", "farther"


@dataclass(frozen=True, kw_only=True)
class SeriesGuide:
    """How a series is taken: what it asks, step by step, what is written for each picture, and which drawing shows it.

    ``tells`` says beforehand how many pictures settle it; ``least`` is the fewest that tell anything.
    """

    kind: SeriesKind
    label: str
    question: str
    tells: str
    steps: tuple[str, ...]
    places_label: str
    example: str
    drawing: str
    least: int


GUIDES = {
    one.kind: one
    for one in (
        SeriesGuide(
            kind=SeriesKind.STOPS, label="Which stop is sharpest", question="Which stop of this lens is the sharpest?",
            tells="One picture at each stop tells; two stops beyond the sharpest are enough.",
            steps=(
                "Put the camera on a tripod before something flat and full of detail that fills the picture, such as a "
                "wall of brick far away.",
                "Focus once, and leave the ring and the light alone.",
                "Take one picture at each stop with the self-timer; let the time follow.",
            ),
            places_label="Stops, in the order of the pictures", example="1.4 2 2.8 4 5.6 8", drawing="wall", least=3,
        ),
        SeriesGuide(
            kind=SeriesKind.SHIFT, label="How focus moves with the stop",
            question="Does focus move when this lens is stopped down?",
            tells="Three to six pictures of the slope sheet tell, one at each stop.",
            steps=(
                "Put the camera on a tripod before the slope sheet, at 35° to 60°. Focus on the bold line, wide open.",
                "Leave the ring alone from now on.",
                "Take one picture at each stop, the widest first, with the self-timer.",
            ),
            places_label="Stops, in the order of the pictures", example="1.4 2 2.8 4", drawing="slope", least=2,
        ),
        SeriesGuide(
            kind=SeriesKind.RING, label="Where the ring is sharpest",
            question="Where on the ring is this subject sharpest?",
            tells="Four to ten pictures tell. It ends once two on either side of the sharpest have settled it.",
            steps=(
                "Put the camera on a tripod before the slope sheet, something detailed, or stars. It has to fill the "
                "middle of the picture.",
                "Set the widest stop and begin on one side of the sharpest place.",
                "Turn the ring by the same small amount before each picture, through the sharpest place, and note each "
                "reading.",
            ),
            places_label="Readings, in the order of the pictures", example="0 2.5 5 7.5 10", drawing="far", least=4,
        ),
        SeriesGuide(
            kind=SeriesKind.LEVEL, label="Whether the lens stands straight",
            question="Does the lens stand straight to the film?",
            tells="Two pictures of the wall sheets tell: one focused nearer than the wall, one farther.",
            steps=(
                "Pin at least three wall sheets side by side so that they reach across the picture. Stand straight "
                "before them with a tripod, the lens at its widest stop.",
                "Focus on the wall, then turn the ring a little nearer, until all of it is soft but the black squares "
                "can still be made out. Take the first picture.",
                "Turn the ring as far to the other side of the wall, and take the second.",
            ),
            places_label="Focused nearer or farther than the wall, in the order of the pictures",
            example=f"{NEARER} {FARTHER}", drawing="wall", least=1,
        ),
    )
}  # fmt: skip


def usual_places(kind: SeriesKind, lens: Lens) -> str:
    """Return what a series with a lens is usually taken at, as it would be written; empty where that is open."""
    if kind is SeriesKind.LEVEL:
        return f"{NEARER} {FARTHER}"
    if not kind.has_stops:
        return ""
    stops = sorted(lens.stops)
    return " ".join(f"{stop:g}" for stop in (stops[:6] if kind is SeriesKind.SHIFT else stops))
