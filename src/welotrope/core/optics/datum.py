"""Which plane a distance starts from, and the way between it and extension."""

from __future__ import annotations

from enum import StrEnum

from welotrope.core.optics import thin_lens
from welotrope.core.optics.elementwise import Values


class Datum(StrEnum):
    """The plane a distance is measured from."""

    FILM = "film"
    PRINCIPAL = "principal"


def extension_at(distance: Values, f: float, datum: Datum, *, h: float = 0.0, beyond: bool = False) -> Values:
    """Extension in mm that focuses ``distance`` (mm from ``datum``); ``beyond`` and errors as in ``thin_lens``.

    Examples
    --------
    >>> round(extension_at(450, 100, Datum.FILM), 3), round(extension_at(300, 100, Datum.PRINCIPAL), 3)
    (50.0, 50.0)
    """
    if datum is Datum.FILM:
        return thin_lens.extension_at_film_distance(distance, f, h=h, beyond=beyond)
    return thin_lens.extension_at_object_distance(distance, f)


def distance_at(x: Values, f: float, datum: Datum, *, h: float = 0.0) -> Values:
    """Distance in mm from ``datum`` that is in focus at extension ``x``; infinite at ``x ≤ 0``.

    Examples
    --------
    >>> distance_at(50.0, 100, Datum.FILM), distance_at(50.0, 100, Datum.PRINCIPAL)
    (450.0, 300.0)
    """
    if datum is Datum.FILM:
        return thin_lens.film_distance_at_extension(x, f, h=h)
    return thin_lens.object_distance_at_extension(x, f)


def distance_of_image(x_image: Values, x_focus: Values, f: float, datum: Datum, *, h: float = 0.0) -> Values:
    """Distance in mm from ``datum`` of what is imaged at ``x_image`` while the lens stands at ``x_focus``.

    Examples
    --------
    >>> round(distance_of_image(50.0, 50.0, 100, Datum.FILM), 6)
    450.0
    """
    if datum is Datum.FILM:
        return thin_lens.film_distance_of_image(x_image, x_focus, f, h=h)
    return thin_lens.object_distance_at_extension(x_image, f)
