import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from welotrope.core.errors import OutOfRangeError, UnreadableError
from welotrope.core.units.distance import (
    Unit,
    format_distance,
    format_feet,
    format_metric,
    format_rough,
    parse_distance,
    write_distance,
)


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("2.4", 2400), ("2,4 m", 2400), ("240cm", 240 * 10), ("2400 mm", 2400), (" 2.4M ", 2400), (".5", 500),
        ("8ft", 2438.4), ("8 feet", 2438.4), ("7'6\"", 2286), ("7′6″", 2286), ("7’6”", 2286), ("7'6", 2286),
        ("7 1/2 ft", 2286), ("7-1/2 ft", 2286), ("7½'", 2286), ("1/2 ft", 152.4), ("½ ft", 152.4), ("18in", 457.2),
        ("8 ft 3 in", 2514.6), ("7' 6 1/2\"", 2298.7), ("7.5 ft", 2286), ("2 metres", 2000),
        ("inf", math.inf), ("∞", math.inf), ("Infinity", math.inf), ("1.5km", 1_500_000),
    ],
)  # fmt: skip
def test_spellings(text, mm):
    assert parse_distance(text) == pytest.approx(mm, rel=1e-12)


def test_bare_number_in_feet_when_feet_lead():
    assert parse_distance("8", bare=Unit.FEET) == pytest.approx(2438.4)


@pytest.mark.parametrize(
    "text", ["", "  ", "abc", "🙂", "2.4.1", "7'6'5", "1/0 ft", "nan", "2m3", "x" * 1_000_000, "٣ m"]
)
def test_unreadable_text_is_refused_with_what_would_work(text):
    with pytest.raises(UnreadableError, match=r"Focus distance: read .*Write a distance such as") as caught:
        parse_distance(text, field="focus distance")
    assert len(str(caught.value)) < 250


@pytest.mark.parametrize("text", ["-2 m", "−2", "0", "0 ft", "1000000000", "10000.1 m"])
def test_out_of_range_text_is_refused(text):
    with pytest.raises(OutOfRangeError, match="Distance: read"):
        parse_distance(text)


@given(st.floats(20, 9_000_000), st.sampled_from(list(Unit)))
def test_formatted_text_reads_back_to_its_own_precision(mm, unit):
    assert parse_distance(format_distance(mm, unit)) == pytest.approx(mm, rel=0.02, abs=7)


@given(st.floats(20, 9_000_000), st.sampled_from(list(Unit)))
def test_formatting_is_stable(mm, unit):
    text = format_distance(mm, unit)
    assert format_distance(parse_distance(text), unit) == text


@pytest.mark.parametrize(
    ("mm", "metric", "feet"),
    [
        (450, "0.45 m", "1′5½″"), (800, "0.80 m", "2′7½″"), (996, "0.996 m", "3′3″"), (45, "45 mm", "1¾″"), (109, "0.109 m", "4¼″"), (622.3, "0.622 m", "2′0½″"), (304.7, "0.305 m", "1′0″"), (3.2, "3.2 mm", "⅛″"), (2410, "2.41 m", "7′11″"), (9996, "10.0 m", "33′"),
        (123456, "123 m", "405′"), (152.4, "0.152 m", "6″"), (12.7, "12.7 mm", "½″"), (516_941, "517 m", "1700′"), (math.inf, "∞", "∞"),
        (1.1e7, "∞", "∞"), (304.8, "0.305 m", "1′0″"), (9143, "9.14 m", "30′0″"),
    ],
)  # fmt: skip
def test_precision_shown(mm, metric, feet):
    assert format_metric(mm) == metric
    assert format_feet(mm) == feet


@pytest.mark.parametrize(
    ("mm", "metric", "feet"),
    [
        (4, "4 mm", "under ½″"),
        (446, "45 cm", "18″"),
        (737, "74 cm", "2½′"),
        (1090, "1.1 m", "3½′"),
        (12_345, "12 m", "41′"),
        (math.inf, "∞", "∞"),
    ],
)
def test_differences_are_said_roughly(mm, metric, feet):
    assert format_rough(mm, Unit.METRIC) == metric
    assert format_rough(mm, Unit.FEET) == feet


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("½ m", 500), ("1½ m", 1500), ("5'11½", 5 * 304.8 + 11.5 * 25.4), ("2m.", 2000), ("8 ft.", 8 * 304.8),
        ("8ft. 6in.", 8.5 * 304.8), ("5'-6\"", 5.5 * 304.8), ("1,200 mm", 1200), ("12,500 mm", 12_500),
        ("0,450 m", 450), ("1,25 m", 1250), ("⅞\"", 22.225), ("1,234,567 mm", 1_234_567),
    ],
)  # fmt: skip
def test_what_people_write(text, mm):
    assert parse_distance(text) == pytest.approx(mm)


@pytest.mark.parametrize("text", ["11 ft 1/0 in", "1/0 m", "1,200", "1,200 m", "2'3'4", "5'-", "m", "1.2.3", "½½ m"])
def test_what_could_mean_something_else_is_refused(text):
    with pytest.raises(UnreadableError):
        parse_distance(text)


@given(
    st.one_of(
        st.integers(10, 99_999_999).map(lambda tenths: tenths / 10),
        st.integers(1, 24_000).map(lambda halves: halves * 12.7),
        st.integers(100, 99_999).map(lambda hundredths: hundredths * 3.048),
        st.floats(1.0, 1e7),
    )
)
def test_what_a_field_shows_is_read_back_to_the_last_digit(mm):
    assert parse_distance(write_distance(mm)) == pytest.approx(mm, rel=1e-12)


@pytest.mark.parametrize(
    "text",
    ["0.45 m", "2.4 m", "7′", "7′6″", "1′6″", "½″", "3.3 ft", "2.955 m", "2955.7 mm", "85 mm", "∞", "10 m", "3.5 m"],
)
def test_a_distance_keeps_the_unit_it_was_written_in(text):
    assert write_distance(parse_distance(text)) == text
