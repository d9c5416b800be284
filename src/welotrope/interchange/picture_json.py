"""What is measured in pictures and live frames, as JSON values."""

from __future__ import annotations

import math
from collections.abc import Sequence

from welotrope.core.json_values import JsonObject
from welotrope.core.live.guides import Guide, found, has_drifted, headline, next_step, reason, sharp_or_not
from welotrope.core.live.outline import Outlined
from welotrope.core.live.sweep import LiveReading
from welotrope.core.picture.sharpness_map import SharpnessMap


def live_values(reading: LiveReading, curve: Sequence[tuple[float, float]]) -> JsonObject:
    """Return a frame for JSON: what was measured, the same in words, and the curve of the sweep so far."""
    return {
        "sharpness": round(reading.sharpness, 3), "best": round(reading.best, 3), "share": round(reading.share, 4),
        "state": reading.state.value, "low": round(reading.low, 4), "high": round(reading.high, 4),
        "frame": reading.frame, "best_frame": reading.best_frame, "best_at": _rounded(reading.best_place),
        "best_at_low": _rounded(reading.best_low), "best_at_high": _rounded(reading.best_high),
        "change": reading.change.value, "says": headline(reading), "why": reason(reading), "found": found(reading),
        "curve": [[round(place, 2), round(share, 3)] for place, share in curve],
    }  # fmt: skip


def guide_values(guide: Guide, step: int, reading: LiveReading) -> JsonObject:
    """Return for JSON where a frame leads in a guided use, what to do there, and whether focus has drifted."""
    now = next_step(guide, min(step, len(guide.steps) - 1), reading)
    here = guide.steps[now]
    return {
        "guide": guide.key, "step": now, "steps": len(guide.steps), "do": here.says, "by_hand": here.by_hand,
        "fresh": here.fresh and now != step, "mark": here.below or None,
        "drifted": here.watches and has_drifted(reading),
    }  # fmt: skip


def outline_values(outlined: Outlined, limit_px: float) -> JsonObject:
    """Return what is sharp for JSON: rows of cells, 1 sharp, 0 not, null where nothing can be told; and in words."""
    pairs = zip(outlined.sharp.tolist(), outlined.known.tolist(), strict=True)
    return {
        "cell_px": outlined.cell_px,
        "cells": [[int(sharp) if known else None for sharp, known in zip(*row, strict=True)] for row in pairs],
        "blur_px": None if math.isnan(outlined.blur_px) else round(outlined.blur_px, 2),
        "says": sharp_or_not(outlined, limit_px),
    }  # fmt: skip


def _rounded(value: float | None) -> float | None:
    return None if value is None else round(value, 3)


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
