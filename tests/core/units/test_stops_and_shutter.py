import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from welotrope.core.errors import OutOfRangeError, UnreadableError
from welotrope.core.units.exposure import (
    FULL_STOPS,
    THIRD_STOPS,
    format_shutter,
    format_stop,
    next_marked_stop,
    nominal_stop,
    parse_shutter,
    parse_stop,
    parse_stops,
    snap_stop,
    stops_between,
)


@pytest.mark.parametrize(("series", "step"), [(FULL_STOPS, 1), (THIRD_STOPS, 1 / 3)])
def test_series_follow_powers_of_root_two(series, step):
    """Engraved numbers are roundings of 2^(k/2), k in whole, half or third stops."""
    for index, marked in enumerate(series):
        exact = 2 ** ((index * step - 1) / 2)
        assert marked == pytest.approx(exact, rel=0.06)


@pytest.mark.parametrize(
    ("text", "stop"), [("5.6", 5.6), ("f/5.6", 5.6), ("f 5,6", 5.6), ("F11", 11), ("0.95", 0.95), ("f/128", 128)]
)
def test_stop_spellings(text, stop):
    assert parse_stop(text) == stop


@pytest.mark.parametrize("text", ["", "f/", "🙂", "1e3", "-4", "5.6.1", "9" * 1_000_000])
def test_unreadable_stops(text):
    with pytest.raises(UnreadableError, match="Stop: read"):
        parse_stop(text)


@pytest.mark.parametrize("text", ["0", "f/0", "0.4", "129", "1000"])
def test_stops_out_of_range(text):
    with pytest.raises(OutOfRangeError, match="between f/0.5 and f/128"):
        parse_stop(text)


def test_list_of_stops_is_sorted_without_repeats():
    assert parse_stops("8 2,8; 4, 2 8") == (2, 2.8, 4, 8)
    with pytest.raises(UnreadableError, match="engraved stops"):
        parse_stops("  ")


def test_next_marked_stop_is_never_wider_than_needed():
    assert next_marked_stop(8.0, FULL_STOPS) == 8
    assert next_marked_stop(8.05, FULL_STOPS) == 11
    assert next_marked_stop(65, FULL_STOPS) is None


def test_snapping_and_steps():
    assert snap_stop(6.5, (4, 5.6, 8)) == 5.6
    assert stops_between(8, 16) == pytest.approx(2)
    assert [nominal_stop(N) for N in (11.31, 7.78, 5.657, 200)] == [11, 8, 5.6, 200]
    assert [format_stop(N) for N in (0.95, 1.4, 2.0, 11.31)] == ["f/0.95", "f/1.4", "f/2", "f/11"]


@pytest.mark.parametrize(
    ("text", "seconds"),
    [
        ("1/250", 1 / 250),
        ("250", 1 / 250),
        ("1/250 s", 1 / 250),
        ("0,5s", 0.5),
        ('2"', 2),
        ("30 s", 30),
        ("2 / 3", 2 / 3),
    ],
)
def test_shutter_spellings(text, seconds):
    assert parse_shutter(text) == pytest.approx(seconds)


@pytest.mark.parametrize("text", ["", "0", "1/0", "fast", "-1 s", "999999 s"])
def test_bad_shutter_times(text):
    with pytest.raises((UnreadableError, OutOfRangeError), match="Shutter: read"):
        parse_shutter(text)


@given(st.sampled_from([1 / 8000, 1 / 1000, 1 / 250, 1 / 60, 1 / 3, 0.5, 1, 2, 15, 120.0]))
def test_shutter_round_trip(seconds):
    assert math.isclose(parse_shutter(format_shutter(seconds)), seconds, rel_tol=1e-9)


@pytest.mark.parametrize(
    ("text", "stops"),
    [
        ("2,2.8,4", (2, 2.8, 4)), ("1:2.8", (2.8,)), ("1:2.8 4 5,6", (2.8, 4, 5.6)), ("2-16", (2, 2.8, 4, 5.6, 8, 11, 16)),
        ("f/1.8–f/16", (1.8, 2.8, 4, 5.6, 8, 11, 16)), ("2,4,8", (2, 4, 8)), ("2,8", (2.8,)), ("2,8 4 5,6", (2.8, 4, 5.6)),
        ("2, 2.8, 4", (2, 2.8, 4)), ("3.5 to 22", (3.5, 5.6, 8, 11, 16, 22)),
    ],
)  # fmt: skip
def test_lists_and_spans_of_stops(text, stops):
    assert parse_stops(text) == stops


@pytest.mark.parametrize("text", ["2,8,4,5,6", "16-2", "2-", "1:", "2,,x"])
def test_lists_that_could_mean_two_things_are_refused(text):
    with pytest.raises(UnreadableError):
        parse_stops(text)
