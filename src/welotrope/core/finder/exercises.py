"""The exercises: what each trains, with which aids and scenes, and how a round begins."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.errors import UnreadableError
from welotrope.core.finder.finder import AIDS

SCREENS = ("matte", "split_image", "diagonal", "microprism", "collar")
PLACES = ("shed", "plank", "sitter", "quay", "deck")


@dataclass(frozen=True)
class Exercise:
    """An exercise.

    Parameters
    ----------
    id, title, task
        Key, name, and what to do, in one or two sentences.
    aids, scenes
        What it can be done with.
    start
        Where the ring begins: ``anywhere``, ``infinity``, ``near`` or ``locked``.
    turned
        Whether the camera begins upright.
    """

    id: str
    title: str
    task: str
    aids: tuple[str, ...]
    scenes: tuple[str, ...]
    start: str = "anywhere"
    turned: bool = False


EXERCISES: tuple[Exercise, ...] = (
    Exercise("single", "Place the plane", "Put the plane of focus on the thing named, then release.", AIDS, PLACES),
    Exercise(
        "drop-in", "From infinity and back",
        "The ring stands at infinity. Turn nearer through sharp and beyond, come back to the sharpest, release.",
        AIDS, PLACES, "infinity",
    ),
    Exercise(
        "through", "Through focus",
        "The ring stands at its near end. See both sides of sharp, each time less far, and stop in the middle.",
        AIDS, PLACES, "near",
    ),
    Exercise(
        "camera-turn", "Turn the camera",
        "Every line here runs along the split and would not break. Turn the camera (r), then focus.",
        ("split_image",), ("deck",),
    ),
    Exercise(
        "peak-then-magnify", "Peak, then magnify",
        "Turn until the edges light, then magnify (m) and finish on the picture itself.",
        ("peaking",), ("plank", "sitter", "shed"),
    ),
    Exercise(
        "trap", "Trap the boat",
        "The ring is set and stays. The boat comes on: release as the bow ball meets the plane, early enough for your"
        " hand and the shutter.",
        ("matte", "magnified", "peaking", "confirmation"), ("boat",), "locked",
    ),
    Exercise(
        "lean", "Lean, do not turn",
        "The ring is set and stays. Lean in and out until the nearer eye is sharpest, release.",
        ("matte", "split_image", "microprism", "magnified", "peaking"), ("sitter", "plank"), "locked",
    ),
    Exercise(
        "stars", "Stars",
        "Magnify the bright pair, turn until it is smallest and parts, pass that and come back. A mask (d) shows a"
        " spike that must stand in the middle of its cross.",
        ("magnified",), ("stars",),
    ),
)  # fmt: skip
_BY_ID = {exercise.id: exercise for exercise in EXERCISES}


def exercise(id: str) -> Exercise:
    """Return an exercise.

    Raises
    ------
    UnreadableError
        When there is none of that name.
    """
    if id not in _BY_ID:
        raise UnreadableError("exercise", id, "there is none of that name", f"Choose from {', '.join(_BY_ID)}")
    return _BY_ID[id]
