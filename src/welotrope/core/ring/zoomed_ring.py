"""The ring of a zoom at another focal length than the one it was read at: it keeps its distances."""

from __future__ import annotations

import numpy as np

from welotrope.core.optics import thin_lens
from welotrope.core.ring.curved_ring import CurvedRing
from welotrope.core.ring.focus_ring import FocusRing

_POINTS = 64


def zoomed_separation(h_mm: float, long_mm: float, focal_mm: float) -> float:
    """Return the separation of the principal planes of a zoom at another focal length; all mm.

    With ``x`` in proportion to the square of the focal length and the distance ``D = f²/x + 2f + x + h`` kept,
    ``h`` grows by twice what the focal length loses (``x`` being small beside it).
    """
    return h_mm + 2 * (long_mm - focal_mm)


def ring_at_focal(ring: FocusRing, past_mm: float, focal_mm: float, moved_mm: float) -> CurvedRing:
    """Return a ring at another focal length, mm.

    Parameters
    ----------
    ring
        The ring at the focal length it was read at.
    past_mm
        What of its extension is not the lens's own, such as an adapter's error, mm.
    focal_mm
        The other focal length, mm.
    moved_mm
        What the image is moved by at the other focal length, mm, as an extension.

    Notes
    -----
    A group in front of the one that zooms makes of every distance an image at the same place, so the distances of
    the ring are kept, and a slip of it moves the final image by the square of the focal length.
    """
    h = zoomed_separation(ring.h_mm, ring.focal_mm, focal_mm)
    angles = np.linspace(0.0, ring.throw_deg, _POINTS)
    own = np.asarray(ring.extension_at_angle(angles), dtype=np.float64) - past_mm
    extensions = own * (focal_mm / ring.focal_mm) ** 2
    near = own > 0
    distances = thin_lens.film_distance_at_extension(own[near], ring.focal_mm, h=ring.h_mm)
    extensions[near] = thin_lens.extension_at_film_distance(distances, focal_mm, h=h)
    return CurvedRing(
        focal_mm=focal_mm, throw_deg=ring.throw_deg, angles_deg=tuple(angles.tolist()),
        extensions_mm=tuple(extensions.tolist()), h_mm=h, start_mm=moved_mm,
    )  # fmt: skip
