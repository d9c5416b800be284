"""The exact thin lens: object distance, film-plane distance and extension.

Symbols: ``f`` focal length, ``s`` object distance from the front principal plane, ``D`` distance from
the film plane as engraved, ``x`` extension past the infinity position, ``h`` separation of the
principal planes; all in mm. Gaussian optics (Hecht, *Optics*, ch. 5 and 6); aberrations, focus
breathing and thick-lens shift beyond ``h`` are left out.
"""

from __future__ import annotations

import math
from enum import StrEnum

import numpy as np

from welotrope.core import fields
from welotrope.core.errors import ConflictError, OutOfRangeError, TooCloseError
from welotrope.core.optics.elementwise import Values, as_given, divide

MIN_FOCAL_MM, MAX_FOCAL_MM = 1.0, 5000.0
# Extension over focal length up to which a lens is at infinity: what rounding leaves is no distance.
_AT_INFINITY = 1e-9


def check_focal(f: float, *, field: str = fields.FOCAL) -> float:
    """Return ``f`` when it lies in 1 to 5000 mm, else raise OutOfRangeError.

    Parameters
    ----------
    f
        Focal length in mm, 1 to 5000.
    field
        What an error names.
    """
    if not MIN_FOCAL_MM <= f <= MAX_FOCAL_MM:
        raise OutOfRangeError(field, f"{f:g} mm", "no camera lens has that", "Write 1 to 5000 mm")
    return f


def extension_at_object_distance(s: Values, f: float) -> Values:
    """Extension ``x = f²/(s−f)``, mm; 0 at infinity.

    Parameters
    ----------
    s
        Object distance in mm from the front principal plane; infinity allowed.
    f
        Focal length in mm, 1 to 5000.

    Raises
    ------
    TooCloseError
        When any ``s`` is at or inside the focal point (``s ≤ f``).

    Examples
    --------
    >>> round(extension_at_object_distance(2000, 50), 4)
    1.2821
    """
    if np.any(np.asarray(s) <= f):
        raise TooCloseError(
            "distance",
            f"{float(np.min(s)):g} mm",
            f"inside {f:g} mm from the lens a {f:g} mm lens forms no image",
            f"Give more than {f:g} mm from the lens",
        )
    return as_given(f * f / (np.asarray(s) - f), s)


def object_distance_at_extension(x: Values, f: float) -> Values:
    """Object distance ``s = f + f²/x``, mm; infinite at ``x ≤ 0`` (at or past the infinity position).

    Parameters
    ----------
    x
        Extension in mm from the infinity position; negative past it.
    f
        Focal length in mm, 1 to 5000.

    Examples
    --------
    >>> object_distance_at_extension(50.0, 100)
    300.0
    >>> object_distance_at_extension(0.0, 50)
    inf
    """
    extension = np.asarray(x, dtype=np.float64)
    return as_given(np.where(extension > _AT_INFINITY * f, f + divide(f * f, extension), np.inf), x)


def shortest_film_distance(f: float, *, h: float = 0.0) -> float:
    """Return the least object-to-film distance, mm, that a lens can image, ``4f + h`` (life size).

    Parameters
    ----------
    f
        Focal length in mm, 1 to 5000.
    h
        Separation of the principal planes in mm; 0 for a thin lens, negative where they cross.

    Examples
    --------
    >>> shortest_film_distance(50)
    200.0
    """
    return 4.0 * f + h


def extension_at_film_distance(D: Values, f: float, *, h: float = 0.0, beyond: bool = False) -> Values:
    """Extension, mm, for an object at ``D`` from the film plane.

    Solves ``(s−f) + f²/(s−f) = D − 2f − h`` for ``s−f`` without cancellation. Every distance has two solutions, whose
    extensions multiply to ``f²``: at or below life size (0 at infinity), and with ``beyond`` at or above it.

    Parameters
    ----------
    D
        Distance in mm from the film plane; infinity allowed.
    f
        Focal length in mm, 1 to 5000.
    h
        Separation of the principal planes in mm; 0 for a thin lens, negative where they cross.
    beyond
        Whether the solution above life size is wanted.

    Raises
    ------
    TooCloseError
        When any ``D`` is below ``4f + h``.

    Examples
    --------
    >>> round(extension_at_film_distance(450, 100), 3)  # half life size
    50.0
    """
    distance = np.asarray(D, dtype=np.float64)
    shortest = shortest_film_distance(f, h=h)
    if np.any(distance < shortest * (1 - 1e-12)):
        raise TooCloseError(
            "distance",
            f"{float(np.min(distance)):g} mm from the film plane",
            f"a {f:g} mm lens forms no image of anything nearer than {shortest:g} mm",
            f"Give at least {shortest:g} mm from the film plane, {_four_focal_lengths(h)}",
        )
    span = distance - 2 * f - h
    root = np.sqrt(np.maximum(span - 2 * f, 0.0)) * np.sqrt(span + 2 * f)
    half = span / 2 + root / 2  # halved first: at the end of what a float holds their sum would be infinite
    return as_given(half if beyond else f * f / half, D)


def _four_focal_lengths(h: float) -> str:
    return "four times the focal length" + (" and the separation of the principal planes" if h else "")


def film_distance_at_extension(x: Values, f: float, *, h: float = 0.0) -> Values:
    """Film-plane distance ``D = s + f + x + h``, mm; infinite at ``x ≤ 0``.

    Parameters
    ----------
    x
        Extension in mm from the infinity position; negative past it.
    f
        Focal length in mm, 1 to 5000.
    h
        Separation of the principal planes in mm; 0 for a thin lens, negative where they cross.

    Examples
    --------
    >>> film_distance_at_extension(50.0, 100)
    450.0
    >>> film_distance_at_extension(0.0, 50)
    inf
    """
    extension = np.asarray(x, dtype=np.float64)
    s = np.where(extension > _AT_INFINITY * f, f + divide(f * f, extension), np.inf)
    return as_given(s + f + extension + h, x)


def film_distance_of_image(x_image: Values, x_focus: Values, f: float, *, h: float = 0.0) -> Values:
    """Film-plane distance ``s' + v + h``, mm, of what is imaged at ``x_image`` while the lens stands at ``x_focus``.

    The film stays where the ring put it: only the object distance ``s'`` is that of the image, ``v = f + x_focus`` is
    that of the focus. Infinite at ``x_image ≤ 0``.

    Parameters
    ----------
    x_image
        Extension in mm at which the point is imaged.
    x_focus
        Extension in mm that the lens stands at.
    f
        Focal length in mm, 1 to 5000.
    h
        Separation of the principal planes in mm; 0 for a thin lens, negative where they cross.

    Examples
    --------
    >>> round(film_distance_of_image(49.0, 50.0, 100), 2)  # farther than the plane in focus
    454.08
    """
    s = object_distance_at_extension(x_image, f)
    return as_given(np.asarray(s) + f + np.asarray(x_focus) + h, x_image)


def image_of_film_distance(D: Values, x_focus: Values | float, f: float, *, h: float = 0.0) -> Values:
    """Extension, mm, at which an object ``D`` from the film plane is imaged while the lens stands at ``x_focus``.

    The inverse of :func:`film_distance_of_image`; 0 at infinity.

    Parameters
    ----------
    D
        Distance in mm from the film plane; infinity allowed.
    x_focus
        Extension in mm that the lens stands at.
    f
        Focal length in mm, 1 to 5000.
    h
        Separation of the principal planes in mm; 0 for a thin lens, negative where they cross.

    Raises
    ------
    TooCloseError
        When any object would lie at or inside the front focal point.

    Examples
    --------
    >>> round(image_of_film_distance(450.0, 50.0, 100), 6)
    50.0
    """
    s = np.asarray(D, dtype=np.float64) - f - np.asarray(x_focus) - h
    return as_given(extension_at_object_distance(s, f), D)


def vergence_of_image(x_image: Values, x_focus: Values, f: float, *, h: float = 0.0) -> Values:
    """Reciprocal of :func:`film_distance_of_image`, 1/mm; 0 at infinity, negative past it.

    Parameters
    ----------
    x_image
        Extension in mm at which the point is imaged.
    x_focus
        Extension in mm that the lens stands at.
    f
        Focal length in mm, 1 to 5000.
    h
        Separation of the principal planes in mm; 0 for a thin lens, negative where they cross.

    Examples
    --------
    >>> round(vergence_of_image(50.0, 50.0, 100) * 450, 6)
    1.0
    """
    image = np.asarray(x_image, dtype=np.float64)
    return as_given(image / (f * f + image * (2 * f + np.asarray(x_focus) + h)), x_image)


def vergence_at_extension(x: Values, f: float, *, h: float = 0.0) -> Values:
    """Reciprocal film-plane distance ``1/D = x/(f² + x(2f + x + h))`` in 1/mm; 0 at infinity, negative past it.

    Parameters
    ----------
    x
        Extension in mm from the infinity position; negative past it.
    f
        Focal length in mm, 1 to 5000.
    h
        Separation of the principal planes in mm; 0 for a thin lens, negative where they cross.

    Examples
    --------
    >>> round(vergence_at_extension(50.0, 100) * 450, 6)
    1.0
    """
    extension = np.asarray(x, dtype=np.float64)
    return as_given(extension / (f * f + extension * (2 * f + extension + h)), x)


def extension_at_vergence(vergence: Values, f: float, *, h: float = 0.0, beyond: bool = False) -> Values:
    """Extension, mm, that focuses a reciprocal film-plane distance in 1/mm: 0 at infinity, negative past it.

    The inverse of :func:`vergence_at_extension`. What is nearer than a lens can image gives life size, ``f``.

    Parameters
    ----------
    vergence
        Reciprocal distance from the film plane in 1/mm.
    f
        Focal length in mm, 1 to 5000.
    h
        Separation of the principal planes in mm; 0 for a thin lens, negative where they cross.
    beyond
        Whether the solution above life size is wanted.

    Examples
    --------
    >>> round(extension_at_vergence(1 / 450, 100), 6)
    50.0
    """
    asked = np.asarray(vergence, dtype=np.float64)
    w = divide(asked, 1 - h * asked)
    rest, root = 1 - 2 * f * w, np.sqrt(np.maximum(1 - 4 * f * w, 0.0))
    w = np.minimum(w, 1 / (4 * f))
    rest = np.maximum(rest, 0.5)
    below = 2 * w * f * f / (rest + root)
    return as_given(divide(f * f, below) if beyond else below, vergence)


def magnification(x: Values, f: float) -> Values:
    """Magnification ``m = x/f``, a ratio; 0 at infinity, 1 at life size.

    Parameters
    ----------
    x
        Extension in mm from the infinity position; negative past it.
    f
        Focal length in mm, 1 to 5000.

    Examples
    --------
    >>> magnification(50.0, 100)
    0.5
    """
    return as_given(np.asarray(x) / f, x)


def effective_stop(N: float, m: Values, *, P: float = 1.0) -> Values:
    """Effective f-number ``N(1 + m/P)`` at magnification ``m`` with pupil magnification ``P``.

    Parameters
    ----------
    N
        F-number, 0.5 to 128.
    m
        Magnification, a ratio; 0 at infinity, 1 at life size.
    P
        Pupil magnification, a ratio.

    Examples
    --------
    >>> round(effective_stop(16, 0.5), 2)
    24.0
    """
    return as_given(N * (1 + np.asarray(m) / P), m)


class Datum(StrEnum):
    """The plane a distance is measured from."""

    FILM = "film"
    PRINCIPAL = "principal"


def extension_at(distance: Values, f: float, datum: Datum, *, h: float = 0.0, beyond: bool = False) -> Values:
    """Extension in mm that focuses ``distance`` (mm from ``datum``); ``beyond`` and errors as in ``thin_lens``.

    Parameters
    ----------
    distance
        Distance in mm from ``datum``; infinity allowed.
    f
        Focal length in mm, 1 to 5000.
    datum
        Plane that distances are measured from.
    h
        Separation of the principal planes in mm; 0 for a thin lens, negative where they cross.
    beyond
        Whether the solution above life size is wanted.

    Examples
    --------
    >>> round(extension_at(450, 100, Datum.FILM), 3), round(extension_at(300, 100, Datum.PRINCIPAL), 3)
    (50.0, 50.0)
    """
    if datum is Datum.FILM:
        return extension_at_film_distance(distance, f, h=h, beyond=beyond)
    return extension_at_object_distance(distance, f)


def distance_at(x: Values, f: float, datum: Datum, *, h: float = 0.0) -> Values:
    """Distance in mm from ``datum`` that is in focus at extension ``x``; infinite at ``x ≤ 0``.

    Parameters
    ----------
    x
        Extension in mm from the infinity position; negative past it.
    f
        Focal length in mm, 1 to 5000.
    datum
        Plane that distances are measured from.
    h
        Separation of the principal planes in mm; 0 for a thin lens, negative where they cross.

    Examples
    --------
    >>> distance_at(50.0, 100, Datum.FILM), distance_at(50.0, 100, Datum.PRINCIPAL)
    (450.0, 300.0)
    """
    if datum is Datum.FILM:
        return film_distance_at_extension(x, f, h=h)
    return object_distance_at_extension(x, f)


def distance_of_image(x_image: Values, x_focus: Values, f: float, datum: Datum, *, h: float = 0.0) -> Values:
    """Distance in mm from ``datum`` of what is imaged at ``x_image`` while the lens stands at ``x_focus``.

    Parameters
    ----------
    x_image
        Extension in mm at which the point is imaged.
    x_focus
        Extension in mm that the lens stands at.
    f
        Focal length in mm, 1 to 5000.
    datum
        Plane that distances are measured from.
    h
        Separation of the principal planes in mm; 0 for a thin lens, negative where they cross.

    Examples
    --------
    >>> round(distance_of_image(50.0, 50.0, 100, Datum.FILM), 6)
    450.0
    """
    if datum is Datum.FILM:
        return film_distance_of_image(x_image, x_focus, f, h=h)
    return object_distance_at_extension(x_image, f)


def power_from_range(working_mm: float, *, main_mm: float = math.inf) -> float:
    """Return the real power, dioptres, of a close-up lens from one measured working distance.

    ``main_mm`` is what the main lens was set to, from the attachment; both in mm.

    Parameters
    ----------
    working_mm
        Distance in mm from the close-up lens to what is in focus.
    main_mm
        Distance in mm from the close-up lens that the main lens is focused on; infinity allowed.

    Raises
    ------
    ConflictError
        When the working distance is not the nearer of the two.

    Examples
    --------
    >>> power_from_range(500)
    2.0
    """
    if not 0 < working_mm < main_mm:
        raise ConflictError(
            "working distance", f"{working_mm:g} mm", "a close-up lens brings the subject nearer",
            "Measure from its front to what is sharp, with the ring at infinity",
        )  # fmt: skip
    return 1000 / working_mm - (0.0 if math.isinf(main_mm) else 1000 / main_mm)
