"""Values from outside: each entry of reference/optics.toml, to half its last printed digit."""

import math
import tomllib
from pathlib import Path

import pytest

from welotrope.core.optics.thin_lens import Datum
from welotrope.core.plan import calculations

REFERENCE = tomllib.loads((Path(__file__).parents[1] / "reference/optics.toml").read_text())


def datum_of(case):
    return Datum(case.get("from", "principal"))


def matches(value, printed):
    digits = len(printed.partition(".")[2])
    return value == pytest.approx(float(printed), abs=0.5 * 10**-digits)


@pytest.mark.parametrize("case", REFERENCE["depth"], ids=lambda case: case["source"])
def test_depth(case):
    result = calculations.depth(case["focal"], case["stop"], case["blur"], case["focus"], datum_of(case))
    assert matches(result.near_mm, case["near"])
    assert matches(result.far_mm, case["far"])
    if "hyperfocal" in case:
        assert matches(result.hyperfocal_mm, case["hyperfocal"])


@pytest.mark.parametrize("case", REFERENCE["zone"], ids=lambda case: case["source"])
def test_zone(case):
    result = calculations.zone(case["focal"], case["near"], case["far"], case["blur"], datum_of(case))
    assert matches(result.focus_mm, case["focus"])
    assert matches(result.spread_mm, case["spread"])
    assert matches(result.stop_exact, case["stop_exact"])
    assert result.stop_marked == case["stop_marked"]


@pytest.mark.parametrize("case", REFERENCE["window"], ids=lambda case: case["source"])
def test_window_at_infinity(case):
    result = calculations.ring(
        case["focal"], case["lead"], case["stop"], case["blur"], math.inf, Datum.FILM, diameter_mm=60
    )
    assert matches(result.angle_deg, case["angle_deg"])
    assert matches(result.window_deg, case["window_deg"])
    assert result.window_mm == pytest.approx(result.window_deg * math.pi * 60 / 360)
