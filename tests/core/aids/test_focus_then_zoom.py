"""Focus at the long end, then zoom: the plane it gives against what was planted behind the lens."""

from dataclasses import replace

import pytest

from tests.core.kit.test_zoom import BODY, LENS, M42
from welotrope.core.aids.handling import Situation, focus_then_zoom, handling
from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.mount import Mount, YesNoUnknown
from welotrope.core.kit.setup import Setup


def on_adapter(thickness: float, **zoom) -> Setup:
    body = replace(BODY, mount=Mount(name="Ostrel bayonet", register_mm=18.0))
    adapter = Adapter(name="ring", lens_side=M42, body_side=body.mount, nominal_mm=27.46, measured_mm=thickness)
    return Setup(body=body, lens=replace(LENS, zoom=replace(LENS.zoom, **zoom)), adapter=adapter, zoom_mm=35)


def said(setup: Setup, stop: float, distance: float = 3_000.0) -> tuple[str, str]:
    angle = float(setup.ring(stop).angle_at_distance(distance))
    hints = handling(Situation(setup, stop, stop, angle))
    return next(((hint.text, hint.reason) for hint in hints if hint.rule == "focus-then-zoom"), ("", ""))


def test_a_parfocal_lens_stays_and_a_slip_of_the_ring_counts_a_quarter():
    found = focus_then_zoom(on_adapter(27.46, parfocal=YesNoUnknown.YES), 4, 3_000)
    assert found.plane_mm == pytest.approx(3_000, rel=1e-3)
    assert (found.holds, found.holds_from, found.known, found.finer) == (True, 3.5, True, 4.0)


def test_a_thin_adapter_throws_the_short_end_far_and_a_small_stop_forgives_it():
    setup = on_adapter(27.26, parfocal=YesNoUnknown.YES)
    found = focus_then_zoom(setup, 3.5, 3_000)
    # 0.2 mm at 70 mm, made good by the ring, leaves 0.15 mm here: the image of something 34 mm·35/0.34 away.
    wanted = 35**2 / (3_000 - 35 - 35 - 70)
    assert wanted - 35**2 / (found.plane_mm - 35 - 35 - 70) == pytest.approx(0.15, rel=0.02)
    assert not found.holds
    needs = 0.15 / setup.blur_mm
    assert found.holds_from == min(stop for stop in setup.lens.stops if stop >= needs)


def test_what_is_said_goes_by_what_is_known():
    assert said(on_adapter(27.46, parfocal=YesNoUnknown.YES), 5.6)[0] == "Focus at 70 mm, then zoom to 35 mm"
    assert "is not known" in said(on_adapter(27.46), 5.6)[1]
    assert "was not tried" in said(on_adapter(27.46, parfocal=YesNoUnknown.NO), 5.6)[1]
    text, reason = said(on_adapter(27.26), 3.5)
    assert text == "Zoom to 35 mm first, then focus"
    assert "would be off" in reason
    tried = on_adapter(27.46, parfocal=YesNoUnknown.NO, drift_from_mm=3_000, drift_to_mm=2_900)
    assert "Focus at 70 mm" in said(tried, 11)[0]
    assert said(tried.zoomed(None), 11) == ("", "")
