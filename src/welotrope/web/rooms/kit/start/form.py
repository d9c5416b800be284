"""What a newcomer is asked: what one looks through, the format, the lens, and two distances."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from welotrope.core import fields
from welotrope.core.errors import ConflictError, Field
from welotrope.core.inputs import Ask, Input, Joined, Reader, Typed, asks, check_limits, number_input
from welotrope.core.kit.body import Body
from welotrope.core.kit.first_kit import (
    BY_ID,
    FINDERS,
    LooksThrough,
    first_body,
    first_lens,
    first_stops,
    pixels_across,
)
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.lens_inputs import THROW_BY_EYE
from welotrope.core.kit.picture_size import OFFERED, parse_picture_size
from welotrope.core.kit.traits import OF_A_SENSOR
from welotrope.core.kit.zoom import parse_focals
from welotrope.core.optics.sharpness import ImageFormat
from welotrope.core.ring.reading_inputs import distance_cell
from welotrope.core.units.distance import check_ends
from welotrope.web.forms.record_form import record_form

LOOKS = Input(
    name="looks", field=Field("looks", "what you look through"), label="What do you look through?", ask=Ask.PICK,
    options=tuple((one.id, one.label) for one in FINDERS), usual="display", group="looks", write=lambda one: one.id,
    read=lambda text, _typed: BY_ID.get(text, BY_ID["display"]),
)  # fmt: skip
SIZE = Input(
    name="size", field=Field("size", "picture size"), also=("picture_width", "picture_height"), label="Picture size",
    usual="36 × 24", read=lambda text, _typed: parse_picture_size(text), empty=(36.0, 24.0), offers=OFFERED,
    group="format",
    hint="width × height in mm, or a name: 6 × 6, 4 × 5 in, crop 1.5",
)  # fmt: skip
MEGAPIXELS = number_input(
    "megapixels", Field("megapixels", "megapixels"), "Megapixels", low=0.1, high=400, group="format",
    hint="empty on film",
)  # fmt: skip


def _take_image(reader: Reader, typed: Typed) -> ImageFormat | None:
    size, megapixels = SIZE.take(reader, typed), MEGAPIXELS.take(reader, typed)
    if reader.errors:
        return None
    across = None if megapixels is None else pixels_across(megapixels, *size)
    return reader.take(MEGAPIXELS.name, lambda: ImageFormat(size[0], size[1], across), None)


@dataclass(frozen=True, kw_only=True)
class FirstAsked:
    """The first kit and the first question; lengths in mm, throw in degrees."""

    looks: LooksThrough = field(metadata=asks(LOOKS))
    image: ImageFormat = field(
        metadata=asks(Joined(inputs=(SIZE, MEGAPIXELS), take=_take_image, texts=lambda _image: {}))
    )
    focals_mm: tuple[float, ...] = field(
        metadata=asks(
            Input(
                name="focal",
                field=fields.FOCAL,
                label="Focal length",
                unit="mm",
                group="lens",
                hint="the number before mm on its front ring; of a zoom both: 35-70",
                read=lambda text, _typed: parse_focals(text, fields.FOCAL),
                empty=(50.0,),
            )
        )
    )
    stops: tuple[float, ...] = field(
        metadata=asks(
            Input(
                name="stops",
                field=fields.STOPS,
                label="Widest stop",
                group="lens",
                empty=(2.0,),
                hint="2, or from and to: 2-16",
                read=lambda text, _typed: first_stops(text),
            )
        )
    )
    closest_mm: float | None = field(
        metadata=asks(
            distance_cell(
                "nearest",
                fields.CLOSEST,
                "Nearest distance on it",
                optional=True,
                group="lens",
                example="0.45 m",
                example_ft="1.5 ft",
                hint="ten focal lengths are taken if empty",
            )
        )
    )
    throw_deg: float | None = field(metadata=asks(THROW_BY_EYE))
    near_mm: float = field(
        metadata=asks(
            distance_cell(
                "near",
                Field("near", "near"),
                "The nearest",
                group="scene",
                half_empty="Write a distance, such as 2 m",
                example="2 m",
                example_ft="7 ft",
            )
        )
    )
    far_mm: float = field(
        metadata=asks(
            distance_cell(
                "far",
                Field("far", "far"),
                "and the farthest",
                group="scene",
                optional=True,
                empty=math.inf,
                example="5 m",
                example_ft="16 ft",
                hint="the horizon if empty",
            )
        )
    )

    def __post_init__(self) -> None:
        check_limits(self)
        if self.looks.finder in OF_A_SENSOR and self.image.width_px is None:
            raise ConflictError(
                MEGAPIXELS.field, "", "an electronic finder shows what a sensor sees",
                "Write how many megapixels it has, such as 24",
            )  # fmt: skip
        check_ends(self.near_mm, self.far_mm)

    def body(self) -> Body:
        """Return the body, with typical values."""
        medium = "film" if self.image.width_px is None else "digital"
        return first_body(self.looks, f"My {medium} camera", self.image)

    def lens(self) -> Lens:
        """Return the lens."""
        return first_lens(self.focals_mm, self.stops, self.closest_mm, self.throw_deg)


FirstForm = record_form(FirstAsked)
