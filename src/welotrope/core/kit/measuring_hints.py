"""How to find what a form asks for: what to do with hands, paper and ruler, and which drawing shows it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class MeasuringHint:
    """What to do, in a few sentences, and the key of a drawing."""

    text: str
    drawing: str


MEASURING_HINTS: dict[str, MeasuringHint] = {
    "throw": MeasuringHint(
        "Turn the ring to ∞ and put a pencil tick on ring and barrel. Turn to the nearest distance and tick "
        "the ring again at the barrel’s tick. Wrap a strip of paper round the rubber and mark both ticks: its "
        "length in mm, with the ring’s diameter, is the throw. An estimate by eye (a quarter, a third, "
        "half or most of a turn) is enough to begin with.",
        "strip",
    ),
    "diameter": MeasuringHint(
        "Wrap a strip of paper once around the focus ring, mark where it overlaps, and divide that length by 3.14.",
        "strip",
    ),
    "closest_focus": MeasuringHint(
        "The nearest distance it can be set to. It counts from the film or sensor, the circle with a line "
        "through it on the body’s top, not from the front of the lens.",
        "scale",
    ),
    "reading_distance": MeasuringHint(
        "Any number engraved on the ring, such as 2 m. Put ∞ on the index, then that number, and note how far "
        "you turned: in degrees on a printed collar, which Scale prints.",
        "scale",
    ),
    "planes": MeasuringHint(
        "Of a thick lens: what its data sheet calls the distance between the principal planes, or hiatus. "
        "Leave it empty unless you take close-ups; the magnification at closest focus gives it too.",
        "planes",
    ),
    "magnification": MeasuringHint(
        "At closest focus, photograph a ruler across the long side of the picture. The picture’s width in mm, "
        "divided by the mm of ruler you see, is the magnification.",
        "ruler",
    ),
    "length": MeasuringHint(
        "From the face of the mount to the front rim, set to ∞, with a ruler.",
        "rear",
    ),
    "protrusion": MeasuringHint(
        "Stand the lens on its front on a table and lay a ruler across the mount’s face: how far the rear "
        "sticks out past it, set to ∞. Do not touch the glass.",
        "rear",
    ),
    "rear": MeasuringHint(
        "Across the part that goes into the body, behind the mount’s face, with a caliper or a ruler.",
        "rear",
    ),
    "image_circle": MeasuringHint(
        "Hold the lens over white paper in a dark room, facing a window: measure the bright round picture’s diameter. "
        "Never before the sun.",
        "circle",
    ),
    "register_mm": MeasuringHint(
        "From the mount’s face to the film or sensor. It belongs to the mount, not to your camera: published "
        "lists have it; the common threads are entered already.",
        "register",
    ),
    "measured": MeasuringHint(
        "Between the two faces that meet lens and body, with a caliper, in three places round it. A hundredth "
        "of a millimetre matters: a repairer or a workshop has a micrometer.",
        "register",
    ),
    "split_deviation": MeasuringHint(
        "Stop the lens down until one half of the split image blacks out: at about f/4 the prisms have 6.5°, at "
        "f/2.8 nearer 9°. The maker’s screen list shows it too.",
        "split",
    ),
    "microprism_deviation": MeasuringHint(
        "As with a split image: find the f-stop where the spot goes dark. About 5° if it still works at f/4.",
        "prisms",
    ),
    "screen_stop": MeasuringHint(
        "Look at a row of things at different distances and stop down slowly, the aperture held closed by "
        "hand: the stop at which the depth you see begins to grow is the screen’s. Bright ones begin at about "
        "f/2.8, old ground glass at f/2.",
        "screen",
    ),
    "finder_magnification": MeasuringHint(
        "With a 50 mm lens, keep both eyes open: when the picture in the finder is as large as the world "
        "beside it, it is 1 time; most are 0.7 to 0.95.",
        "screen",
    ),
    "rangefinder_base": MeasuringHint(
        "Between the middles of the two windows on the front of the camera, with a ruler.",
        "patch",
    ),
    "rangefinder_reads": MeasuringHint(
        "Tape 2 m from the film mark to a line on a wall, make its two pictures meet in the patch, and read the scale.",
        "patch",
    ),
    "display_px": MeasuringHint(
        "The manual gives dots; three dots make a pixel, and a display of 1.04 million dots is about 720 across.",
        "display",
    ),
    "steps": MeasuringHint(
        "What the manual calls magnification in manual focus, such as 6× and 12×, over the whole picture.",
        "display",
    ),
    "width_px": MeasuringHint(
        "The longer side of a picture at full size, as the file’s properties show it.",
        "display",
    ),
    "clearance": MeasuringHint(
        "From the maker’s data, or a repairer. Do not measure behind a mirror with a rod.",
        "register",
    ),
    "lever_proud": MeasuringHint(
        "Lay a ruler across the mount face and measure how far the lever or ridge protrudes in front of it.",
        "register",
    ),
    "labelled": MeasuringHint(
        "The marking on the rim: +1, +2, +4; a close-up lens of 500 mm focal length is 2.",
        "planes",
    ),
    "exponent": MeasuringHint(
        "The film’s data sheet gives an exponent, e.g. 1.3, or a table of corrected times for"
        " exposures longer than 1 s.",
        "screen",
    ),
}
