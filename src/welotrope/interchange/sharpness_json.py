"""A sharpness map as JSON values."""

from __future__ import annotations

import math

from welotrope.core.json_values import JsonObject
from welotrope.core.picture.sharpness_map import SharpnessMap


def sharpness_values(found: SharpnessMap) -> JsonObject:
    """Return a map for JSON: rows of scores, null where nothing can be said, and the sharpest places, best first."""
    return {
        "width_px": found.width_px, "height_px": found.height_px, "rows": found.rows, "cols": found.cols,
        "softened": found.softened,
        "shake": None if found.shake is None else {
            "length_px": round(found.shake.length_px, 1), "direction_deg": round(found.shake.direction_deg),
        },
        "map": [[None if math.isnan(score) else round(score, 3) for score in row] for row in found.scores.tolist()],
        "sharpest": [
            {"x": round(place.x, 4), "y": round(place.y, 4), "score": round(place.score, 3)} for place in found.places
        ],
    }  # fmt: skip


def measured_values(found: SharpnessMap) -> JsonObject:
    """Return a map for keeping: as for JSON, with the blur of each cell and place in pixels."""
    return {
        **sharpness_values(found), "cell_px": found.cell_px,
        "blur_px": [[None if math.isnan(one) else round(one, 2) for one in row] for row in found.blur_px.tolist()],
        "places": [
            {"x": round(one.x, 4), "y": round(one.y, 4), "score": one.score, "blur_px": round(one.blur_px, 2)}
            for one in found.places
        ],
    }  # fmt: skip
