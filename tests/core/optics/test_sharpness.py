import math

import pytest

from welotrope.core.errors import ConflictError, OutOfRangeError
from welotrope.core.optics.sharpness import ImageFormat, SharpnessStandard, Standard

FULL = ImageFormat(36, 24, 6000)
ROLL = ImageFormat(56, 56)


@pytest.mark.parametrize(
    ("standard", "image", "blur"),
    [
        (SharpnessStandard(kind=Standard.PRINT), FULL, math.hypot(36, 24) / 1500),
        (SharpnessStandard(kind=Standard.PRINT), ROLL, 56 * math.sqrt(2) / 1500),
        (SharpnessStandard(kind=Standard.FILM), ROLL, 56 * math.sqrt(2) / 1300),
        (SharpnessStandard(kind=Standard.PIXEL), FULL, 0.012),
        (SharpnessStandard(kind=Standard.PIXEL, pixels=3), FULL, 0.018),
        (SharpnessStandard(kind=Standard.OWN, own_mm=0.02), ROLL, 0.02),
        # 1 arc-minute at 1 m is 0.2909 mm; a 360 mm print enlarges 36 mm ten times
        (SharpnessStandard(kind=Standard.VIEWING, print_width_mm=360, viewing_mm=1000, acuity_arcmin=1), FULL, 0.02909),
    ],
)
def test_blur_of_each_school(standard, image, blur):
    assert standard.acceptable_blur(image) == pytest.approx(blur, rel=1e-3)


def test_film_has_no_pixels():
    with pytest.raises(ConflictError, match="film has no pixels"):
        SharpnessStandard(kind=Standard.PIXEL).acceptable_blur(ROLL)


@pytest.mark.parametrize(
    ("values", "field"),
    [
        ({"kind": Standard.PIXEL, "pixels": 0}, "Pixels of blur"),
        ({"kind": Standard.OWN, "own_mm": 0}, "Circle of confusion"),
        ({"kind": Standard.VIEWING, "print_width_mm": 1}, "Print width"),
        ({"kind": Standard.VIEWING, "viewing_mm": 1e9}, "Viewing distance"),
        ({"kind": Standard.VIEWING, "acuity_arcmin": 0}, "Acuity"),
        # Also what the school in hand does not read is kept, and must be a number.
        ({"kind": Standard.PRINT, "pixels": math.nan}, "Pixels of blur"),
        ({"kind": Standard.PRINT, "own_mm": math.inf}, "Circle of confusion"),
    ],
)
def test_out_of_range_parameters_name_their_field(values, field):
    with pytest.raises(OutOfRangeError, match=field):
        SharpnessStandard(**values).acceptable_blur(FULL)


@pytest.mark.parametrize(("args", "field"), [((0, 24), "width"), ((36, 999), "height"), ((36, 24, 3), "Pixels")])
def test_formats_out_of_range(args, field):
    with pytest.raises(OutOfRangeError, match=field):
        ImageFormat(*args)
