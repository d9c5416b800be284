"""Power of a thin lens from where it brings things into focus."""

from __future__ import annotations

import math

from welotrope.core.errors import ConflictError


def power_from_range(working_mm: float, *, main_mm: float = math.inf) -> float:
    """Return the real power, dioptres, of a close-up lens from one measured working distance.

    ``main_mm`` is what the main lens was set to, from the attachment; both in mm.

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
