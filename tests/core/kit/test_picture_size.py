import pytest

from welotrope.core.errors import OutOfRangeError, UnreadableError
from welotrope.core.kit.body import OFFERED, parse_picture_size


@pytest.mark.parametrize(
    ("text", "size"),
    [
        ("36 × 24", (36, 24)), ("36x24mm", (36, 24)), ("23,6 x 15,7", (23.6, 15.7)), ("6x6", (56, 56)),
        ("6 X 6", (56, 56)), ("645", (56, 41.5)), ("6 × 9", (84, 56)), ("4x5", (120, 95)), ('4x5"', (120, 95)),
        ("8 × 10 inches", (245, 195)), ("full frame", (36, 24)), ("full-frame", (36, 24)), ("crop 1.5", (23.6, 15.7)),
        ("6 x 6 mm", (6, 6)), ("3.6 x 2.4 mm", (3.6, 2.4)), ("11x14 in", (279.4, 355.6)), ("6.17 x 4.55", (6.17, 4.55)),
    ],
)  # fmt: skip
def test_sizes_as_people_write_them(text, size):
    assert parse_picture_size(text) == pytest.approx(size)


@pytest.mark.parametrize(("text", "offer"), [("3.6 x 2.4", "36 × 24"), ("360 x 240", "36 × 24"), ("1x2", "1 × 2 mm")])
def test_an_unusual_size_is_asked_about(text, offer):
    with pytest.raises(OutOfRangeError, match="than usual") as asked:
        parse_picture_size(text)
    assert offer in asked.value.sentence


@pytest.mark.parametrize("text", ["", "36", "big", "36 x", "6x6x6", "²x²"])
def test_what_is_no_size_is_refused(text):
    with pytest.raises(UnreadableError, match="width and a height"):
        parse_picture_size(text)


def test_every_size_offered_is_understood_and_smaller_than_its_material():
    for written, called in OFFERED:
        width, height = parse_picture_size(written)
        assert width >= height > 4
        if called in ("roll film", "sheet film"):
            sides = [float(part.strip(" inc")) for part in written.split("×")]
            nominal = sorted(side * (25.4 if "in" in written else 10.0) for side in sides)
            assert height < nominal[0]
            assert width < nominal[1] * 1.02
