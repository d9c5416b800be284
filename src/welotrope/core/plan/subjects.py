"""Named subjects in the scene, and how each stands to a zone."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.errors import OutOfRangeError, UnreadableError
from welotrope.core.optics.film_zone import FilmZone
from welotrope.core.units.distance import parse_distance
from welotrope.core.units.text import cleaned

MAX_SUBJECTS = 12
MAX_NAME = 40


@dataclass(frozen=True)
class Subject:
    """Something to be sharp: a name (may be empty) and a film-plane distance in mm, may be infinite."""

    name: str
    distance_mm: float


class ZonePlace(StrEnum):
    """Where a subject lies against the sharp zone."""

    INSIDE = "inside"
    TOO_NEAR = "too near"
    TOO_FAR = "too far"


@dataclass(frozen=True)
class Placement:
    """A subject against a zone; ``outside_mm`` is how far outside it lies, 0 inside, infinite for ∞ beyond far."""

    subject: Subject
    place: ZonePlace
    outside_mm: float


def place_subjects(subjects: Sequence[Subject], zone: FilmZone) -> list[Placement]:
    """Say for each subject whether it lies within a zone, the tolerance of blur included, and by how much not."""
    placements = []
    for subject in subjects:
        d = subject.distance_mm
        if zone.contains(d):
            placements.append(Placement(subject, ZonePlace.INSIDE, 0.0))
        elif d < zone.near_mm:
            placements.append(Placement(subject, ZonePlace.TOO_NEAR, zone.near_mm - d))
        else:
            placements.append(Placement(subject, ZonePlace.TOO_FAR, d - zone.far_mm))
    return placements


def subject_token(subject: Subject) -> str:
    """Write a subject as one word for a URL: ``Ida@2300`` in mm, ``shore@inf``; nothing of the distance is lost."""
    distance = "inf" if math.isinf(subject.distance_mm) else repr(float(subject.distance_mm)).removesuffix(".0")
    return f"{subject.name.replace('@', ' ')}@{distance}"


def parse_subject_token(token: str) -> Subject:
    """Read what :func:`subject_token` writes; the part after the last ``@`` is mm unless it names a unit."""
    name, at, distance = token.rpartition("@")
    if not at:
        raise UnreadableError("subject", token, "it has no distance", "Write name@distance, such as Ida@2.3m")
    bare_number = distance.isascii() and distance.replace(".", "", 1).isdigit()
    text = f"{distance}mm" if bare_number else distance
    return Subject(cleaned(name).strip()[:MAX_NAME], parse_distance(text, field=f"distance of {name or 'subject'}"))


def check_count(count: int) -> None:
    """Raise OutOfRangeError when there are more subjects than a scene can hold."""
    if count > MAX_SUBJECTS:
        raise OutOfRangeError(
            "subjects",
            count,
            f"a scene holds at most {MAX_SUBJECTS}",
            "Leave out some between the ends; they change nothing",
        )
