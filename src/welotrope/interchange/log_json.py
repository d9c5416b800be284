"""An outing as one JSON document (``welotrope-outing``, version 1): its frames with their pictures."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping

from welotrope.core.picture.picture import Picture
from welotrope.core.review.frame import Frame, Outing
from welotrope.interchange.log_csv import frame_values

FORMAT, VERSION = "welotrope-outing", 1


def outing_json(
    outing: Outing, frames: Iterable[Frame], pictures: Mapping[int, list[Picture]], rolls: Mapping[int, str]
) -> str:
    """Return the document; ``pictures`` are by the key of their frame, ``rolls`` names by key."""
    return json.dumps(
        {
            "format": FORMAT, "version": VERSION, "outing": outing.name, "day": outing.day.isoformat(),
            "frames": [
                {
                    **frame_values(frame), "roll": rolls.get(frame.roll_id or 0),
                    "pictures": [
                        {"name": one.name, "sha256": one.sha256, "width_px": one.width_px, "height_px": one.height_px}
                        for one in pictures.get(frame.id, [])
                    ],
                }
                for frame in frames
            ],
        },
        ensure_ascii=False, indent=1,
    )  # fmt: skip
