"""Ranges as text: the ends always differ, and reading them back gives the depth that is stated."""

import math
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from welotrope.core.units.distance import Unit, format_depth, format_span, parse_distance

VULGAR = {"⅛": 0.125, "¼": 0.25, "⅜": 0.375, "½": 0.5, "⅝": 0.625, "¾": 0.75, "⅞": 0.875}


@pytest.mark.parametrize(
    ("near", "far", "unit", "shown"),
    [
        (1496, 1505, "m", ("1.496 m", "1.505 m", "9 mm")), (2100, 2810, "m", ("2.10 m", "2.81 m", "71 cm")),
        (299.9, 300.1, "m", ("299.90 mm", "300.10 mm", "0.20 mm")), (3980, math.inf, "m", ("3.98 m", "∞", "")),
        (1496, 1505, "ft", ("4′10.9″", "4′11.3″", "0.4″")), (2100, 2810, "ft", ("6′11″", "9′3″", "2½′")),
        (1450, 1500, "ft", ("4′9″", "4′11″", "2.0″")), (20_600, 21_400, "ft", ("67′7″", "70′3″", "2½′")),
        (622, 660, "ft", ("2′0½″", "2′2″", "1.5″")), (304.8, 340, "ft", ("1′0″", "1′1½″", "1.4″")),
    ],
)  # fmt: skip
def test_ranges_as_they_are_said(near, far, unit, shown):
    span = format_span(near, far, Unit(unit))
    assert (span.near, span.far, span.depth) == shown


@given(st.floats(100, 2e5), st.floats(1e-6, 2), st.sampled_from(Unit))
def test_the_ends_differ_and_tell_the_depth_to_a_third(near, share, unit):
    far = near * (1 + share)
    if far - near < 0.02:  # finer than any lens is told
        return
    span = format_span(near, far, unit)
    assert span.near != span.far
    told = read(span.far) - read(span.near)
    assert told == pytest.approx(far - near, rel=0.34, abs=0.006)


def read(text):
    """Millimetres of what was written, eighths of an inch included."""
    for sign, part in VULGAR.items():
        if sign in text:
            whole = re.search(rf"(\d*){sign}", text)[1]
            text = re.sub(rf"\d*{sign}", f"{int(whole or 0) + part}", text)
    return parse_distance(text)


@pytest.mark.parametrize(
    ("mm", "metric", "feet"), [(5.08, "5 mm", "0.20″"), (2.4, "2.4 mm", "0.09″"), (9, "9 mm", "0.4″")]
)
def test_depths(mm, metric, feet):
    assert format_depth(mm, Unit.METRIC) == metric
    assert format_depth(mm, Unit.FEET) == feet
