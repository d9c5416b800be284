"""Every rule of the fit check against a truth table written apart: what is not known never passes as checked."""

import itertools
from dataclasses import replace

import pytest

from tests.core.kit.test_fit import ADAPTER, NATIVE, SAFE, with_body, with_lens
from welotrope.core.kit.fit import FIT_RULES, check_fit, checked_parts
from welotrope.core.kit.mount import Link, Mount, YesNoUnknown
from welotrope.core.kit.traits import ApertureRing
from welotrope.core.rules import RuleFinding, Severity, answer

YES, NO, UNKNOWN = YesNoUnknown.YES, YesNoUnknown.NO, YesNoUnknown.UNKNOWN
RINGS = tuple(ApertureRing)


def worst_or_milder(severity):
    """What the table says a rule says at worst holds."""
    order = list(Severity)
    return order[order.index(severity) :]


def said_of(rule, setup):
    """``stop``, ``careful``, ``note``, ``checked`` or ``not asked``."""
    said = answer(FIT_RULES[rule], setup)
    if not isinstance(said, RuleFinding):
        return said.value
    assert said.severity in worst_or_milder(FIT_RULES[rule].severity)
    return said.severity.value


LEVER_ROWS = list(itertools.product((YES, NO, UNKNOWN), RINGS, (None, 0.5, 3.0, 27.0), (None, 2.0)))


@pytest.mark.parametrize(("lever", "ring", "thickness", "proud"), LEVER_ROWS)
def test_a_coupling_lever_behind_an_adapter(lever, ring, thickness, proud):
    setup = with_body(with_lens(aperture_ring=ring), coupling_lever=lever, lever_proud_mm=proud)
    setup = replace(setup, adapter=replace(ADAPTER, measured_mm=thickness))
    harmless = lever is NO or ring in (ApertureRing.CUT, ApertureRing.NONE)
    held_off = thickness is not None and thickness >= (12 if proud is None else proud)
    if harmless or held_off:
        expected = "checked"
    elif lever is YES and ring is ApertureRing.UNCUT and None not in (thickness, proud):
        expected = "stop"
    else:
        expected = "careful"
    assert said_of("coupling-lever", setup) == expected


@pytest.mark.parametrize(("lever", "ring"), list(itertools.product((YES, NO, UNKNOWN), RINGS)))
def test_a_coupling_lever_without_an_adapter(lever, ring):
    setup = with_body(with_lens(NATIVE, aperture_ring=ring), coupling_lever=lever)
    table = {(YES, ApertureRing.UNCUT): "stop", (YES, ApertureRing.UNKNOWN): "careful",
             (UNKNOWN, ApertureRing.UNCUT): "careful", (UNKNOWN, ApertureRing.UNKNOWN): "careful"}  # fmt: skip
    assert said_of("coupling-lever", setup) == table.get((lever, ring), "checked")


@pytest.mark.parametrize(
    ("pin", "of_mount", "presses", "adapted"), list(itertools.product((YES, NO, UNKNOWN), (YES, NO, UNKNOWN), (YES, NO, UNKNOWN), (True, False)))
)  # fmt: skip
def test_an_aperture_pin(pin, of_mount, presses, adapted):
    setup = with_lens(pin=pin, mount=replace(SAFE.lens.mount, pin=of_mount))
    if adapted:
        setup = replace(setup, adapter=replace(ADAPTER, lens_side=setup.lens.mount, presses_pin=presses))
    else:
        setup = with_body(replace(setup, adapter=None), mount=setup.lens.mount, presses_pin=presses)
    no_pin = pin is NO or (pin is UNKNOWN and of_mount is NO)
    assert said_of("aperture-pin", setup) == ("checked" if no_pin or presses is YES else "careful")


@pytest.mark.parametrize(("actuation", "ring", "works"), list(itertools.product(tuple(Link), RINGS, (True, False))))
def test_what_works_the_aperture_on_an_adapter(actuation, ring, works):
    setup = with_lens(aperture_ring=ring, mount=replace(SAFE.lens.mount, actuation=actuation))
    setup = replace(setup, adapter=replace(ADAPTER, lens_side=setup.lens.mount, works_aperture=works))
    has_ring = ring in (ApertureRing.CUT, ApertureRing.UNCUT)
    well = works or actuation is Link.NONE or (actuation is Link.MECHANICAL and has_ring)
    assert said_of("aperture-control", setup) == ("checked" if well else "careful")


@pytest.mark.parametrize(
    ("depth", "thickness", "clearance"), list(itertools.product((None, 0.0, 4.0, 40.0), (None, -2.0, 0.0, 27.0), (None, 5.0)))
)  # fmt: skip
def test_rear_parts(depth, thickness, clearance):
    setup = with_body(with_lens(protrusion_mm=depth), clearance_mm=clearance)
    setup = replace(setup, adapter=replace(ADAPTER, measured_mm=thickness))
    if depth == 0 and (thickness is None or thickness >= 0):
        expected = "checked"
    elif depth is None or thickness is None:
        expected = "careful"
    elif depth <= thickness:
        expected = "checked"
    elif clearance is None:
        expected = "careful"
    else:
        expected = "checked" if depth <= thickness + clearance else "stop"
    assert said_of("rear-protrusion", setup) == expected


@pytest.mark.parametrize(
    ("depth", "thickness", "across", "throat"), list(itertools.product((0.0, 4.0, 40.0), (0.0, 27.0), (None, 38.0, 47.0), (None, 46.0)))
)  # fmt: skip
def test_the_throat(depth, thickness, across, throat):
    body_mount = replace(SAFE.body.mount, throat_mm=throat)
    setup = with_body(with_lens(protrusion_mm=depth, rear_mm=across), mount=body_mount)
    setup = replace(setup, adapter=replace(ADAPTER, body_side=body_mount, measured_mm=thickness))
    if depth <= thickness:
        expected = "checked"
    elif across is None or throat is None:
        expected = "careful"
    else:
        expected = "checked" if across < throat else "stop"
    assert said_of("throat", setup) == expected


@pytest.mark.parametrize(
    ("lens", "body", "throat", "thickness", "expected"),
    [
        (45.46, 18.0, 46.0, 27.46, "checked"),
        (45.46, None, 46.0, 27.46, "careful"),
        (None, 18.0, 46.0, 27.46, "careful"),
        (19.2, 18.0, 46.0, None, "checked"),
        # Under a millimetre: a flush or recessed ring exists in principle.
        (18.5, 18.0, 46.0, None, "careful"),
        (18.5, 18.0, 46.0, 0.5, "checked"),
        (18.0, 18.0, 46.0, None, "careful"),
        (18.0, 18.0, 46.0, 0.0, "checked"),
        # Deeper than the flange: only a recessed ring, where the throat leaves room round a 42 mm thread.
        (16.0, 18.0, 46.0, None, "careful"),
        (16.0, 18.0, 46.0, -2.0, "checked"),
        (16.0, 18.0, 46.0, 1.0, "careful"),
        (16.0, 18.0, None, -2.0, "careful"),
        (16.0, 18.0, 44.0, -2.0, "stop"),
    ],
)
def test_routes_by_register(lens, body, throat, thickness, expected):
    lens_mount, body_mount = (
        Mount(name="a", register_mm=lens, throat_mm=42.0),
        Mount(name="b", register_mm=body, throat_mm=throat),
    )
    setup = with_body(with_lens(mount=lens_mount), mount=body_mount)
    setup = replace(setup, adapter=replace(ADAPTER, lens_side=lens_mount, body_side=body_mount, measured_mm=thickness))
    assert said_of("register-possible", setup) == expected


def test_glass_in_the_adapter_changes_focal_length_and_widest_stop_everywhere():
    tele = replace(SAFE, adapter=replace(ADAPTER, optics=True, factor=1.4))
    assert tele.lens.focal_mm == pytest.approx(70)
    assert tele.lens.widest == pytest.approx(2.8)
    assert tele.ring().focal_mm == pytest.approx(70)
    assert said_of("adapter-optics", tele) == "checked"
    assert replace(tele, adapter=ADAPTER).lens == SAFE.lens
    assert said_of("adapter-optics", replace(SAFE, adapter=replace(ADAPTER, optics=True))) == "careful"


def test_a_thickness_as_sold_is_known_and_not_checked():
    sold = replace(SAFE, adapter=replace(ADAPTER, measured_mm=None, nominal_mm=27.46))
    assert "infinity" not in checked_parts(sold)
    assert said_of("infinity", sold) == "note"
    assert "nobody has measured or sighted" in check_fit(sold)[0].text


def test_checked_is_said_only_of_what_is_known_and_well():
    """Every fact taken away in turn: no part that was looked at may stay “checked” on nothing."""
    full = set(checked_parts(SAFE))
    assert {"mounts", "flange distance", "infinity", "rear parts", "coupling lever", "aperture pin"} <= full
    assert check_fit(SAFE) == ()
    without = {
        "mounts": with_lens(mount=None),
        "flange distance": with_body(mount=replace(SAFE.body.mount, register_mm=None)),
        "infinity": replace(SAFE, adapter=replace(ADAPTER, measured_mm=None)),
        "rear parts": with_lens(protrusion_mm=None),
        "coupling lever": replace(
            with_body(with_lens(aperture_ring=ApertureRing.UNKNOWN), coupling_lever=UNKNOWN),
            adapter=replace(ADAPTER, measured_mm=1.0),
        ),
        "aperture pin": replace(
            with_lens(pin=UNKNOWN, mount=replace(SAFE.lens.mount, pin=UNKNOWN)), adapter=replace(ADAPTER, presses_pin=UNKNOWN)
        ),
        "how the aperture is worked": with_lens(mount=replace(SAFE.lens.mount, actuation=Link.UNKNOWN)),
        "picture size": with_lens(image_circle_mm=None),
    }  # fmt: skip
    for part, setup in without.items():
        assert part not in checked_parts(setup), part
        assert check_fit(setup), part
