"""Every fit rule on its own: what makes it speak, how loudly, and what silences it."""

from dataclasses import replace

import pytest

from welotrope.core.errors import ConflictError, OutOfRangeError
from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.aids.matte import MatteScreen
from welotrope.core.kit.aids.peaking import Peaking, PeakingLevel
from welotrope.core.kit.aids.split_image import SplitImage
from welotrope.core.kit.body import Body, with_screen
from welotrope.core.kit.camera_kind import FinderKind
from welotrope.core.kit.fit import FIT_RULES, check_fit, verdict
from welotrope.core.kit.joint import joint_of, route_of
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.mount import STANDARD_MOUNTS, Link, Mount, YesNoUnknown
from welotrope.core.kit.setup import Setup
from welotrope.core.kit.traits import ApertureRing, BodyTraits, LensFit, Screen
from welotrope.core.optics.sharpness import ImageFormat
from welotrope.core.optics.thin_lens import Datum
from welotrope.core.ring.true_infinity import adapter_effect
from welotrope.core.rules import RuleFinding, Severity, answer

THREAD = STANDARD_MOUNTS[0]
SHORT = Mount(
    name="Ostrel bayonet",
    register_mm=18.0,
    throat_mm=46.0,
    actuation=Link.ELECTRONIC,
    stop_report=Link.ELECTRONIC,
    protruding=YesNoUnknown.NO,
    pin=YesNoUnknown.NO,
)
LONG = Mount(
    name="Kyrstad bayonet",
    register_mm=47.0,
    throat_mm=44.0,
    actuation=Link.MECHANICAL,
    stop_report=Link.MECHANICAL,
    protruding=YesNoUnknown.NO,
    pin=YesNoUnknown.YES,
)
FIT = LensFit(
    protrusion_mm=0.0,
    aperture_ring=ApertureRing.CUT,
    pin=YesNoUnknown.NO,
    image_circle_mm=45.0,
    endless=False,
    length_mm=40.0,
)
ADAPTER = Adapter(
    name="ring 27",
    lens_side=THREAD,
    body_side=SHORT,
    measured_mm=27.46,
    nominal_mm=None,
    optics=False,
    presses_pin=YesNoUnknown.YES,
)
SAFE = Setup(
    body=Body(
        "b",
        ImageFormat(36, 24, 6000),
        (),
        SHORT,
        BodyTraits(finder=FinderKind.ELECTRONIC, clearance_mm=5.0, coupling_lever=YesNoUnknown.NO),
    ),
    lens=Lens(name="l", focal_mm=50, stops=(2, 16), closest_mm=450, throw_deg=230, mount=THREAD, fit=FIT),
    adapter=ADAPTER,
)


def with_lens(setup=SAFE, **changes):
    fit = replace(setup.lens.fit, **{k: v for k, v in changes.items() if k in LensFit.__dataclass_fields__})
    rest = {k: v for k, v in changes.items() if k not in LensFit.__dataclass_fields__}
    return replace(setup, lens=replace(setup.lens, fit=fit, **rest))


def with_body(setup=SAFE, **changes):
    traits = replace(setup.body.traits, **{k: v for k, v in changes.items() if k in BodyTraits.__dataclass_fields__})
    rest = {k: v for k, v in changes.items() if k not in BodyTraits.__dataclass_fields__}
    return replace(setup, body=replace(setup.body, traits=traits, **rest))


def with_adapter(**changes):
    return replace(SAFE, adapter=replace(ADAPTER, **changes))


NATIVE = replace(with_body(mount=THREAD, coupling_lever=YesNoUnknown.NO), adapter=None)
OTHER = Mount(name="other", register_mm=30.0)


def test_a_set_up_of_which_all_is_known_and_well_finds_nothing():
    assert check_fit(SAFE) == ()
    assert check_fit(NATIVE) == ()
    assert verdict([]) is None


@pytest.mark.parametrize(
    ("rule", "setup", "severity", "words"),
    [
        ("mounts-known", with_lens(mount=None), Severity.CAREFUL, "Not known: the mount of the lens"),
        ("mounts-known", with_body(with_lens(mount=None), mount=None), Severity.CAREFUL, "lens and the body"),
        ("mounts-join", replace(SAFE, adapter=None), Severity.BLOCKER, "does not go on"),
        ("mounts-join", with_adapter(lens_side=LONG), Severity.BLOCKER, "takes Kyrstad bayonet lenses, this one is M42×1"),
        ("mounts-join", with_adapter(body_side=OTHER), Severity.BLOCKER, "goes on other"),
        ("register-possible", with_lens(mount=replace(OTHER, register_mm=None)), Severity.CAREFUL, "flange distance of other"),
        ("register-possible", with_body(mount=LONG), Severity.BLOCKER, "1.54 mm inside the body"),
        ("register-possible", with_lens(mount=replace(OTHER, register_mm=18.1)), Severity.CAREFUL, "flush or recessed"),
        ("infinity", with_adapter(measured_mm=None), Severity.CAREFUL, "Not known: the thickness"),
        ("infinity", with_adapter(measured_mm=27.56), Severity.CAREFUL, "0.10 mm too thick: focus stops at"),
        ("infinity", with_adapter(measured_mm=27.36), Severity.NOTE, "0.10 mm too thin: infinity lies 3.2° before"),
        ("rear-protrusion", with_lens(protrusion_mm=None), Severity.CAREFUL, "Not known: how far the rear"),
        ("rear-protrusion", with_body(with_lens(protrusion_mm=30), clearance_mm=None), Severity.CAREFUL, "how much room"),
        ("rear-protrusion", with_lens(protrusion_mm=40), Severity.BLOCKER, "7.5 mm more than there is room for"),
        ("rear-protrusion", with_body(with_lens(protrusion_mm=28), clearance_mm=0), Severity.BLOCKER, "0.5 mm more than there is room"),
        ("rear-protrusion", with_body(with_lens(NATIVE, protrusion_mm=6), finder=FinderKind.SLR), Severity.BLOCKER, "break the mirror"),
        ("coupling-lever", with_body(with_lens(NATIVE, aperture_ring=ApertureRing.UNCUT), coupling_lever=YesNoUnknown.YES),
         Severity.BLOCKER, "can bend or break"),
        ("coupling-lever", with_body(with_lens(NATIVE, aperture_ring=ApertureRing.UNCUT), coupling_lever=YesNoUnknown.UNKNOWN),
         Severity.CAREFUL, "Not known"),
        ("coupling-lever", with_body(with_lens(NATIVE, aperture_ring=ApertureRing.UNKNOWN), coupling_lever=YesNoUnknown.YES),
         Severity.CAREFUL, "Not known"),
        ("aperture-pin", replace(with_lens(pin=YesNoUnknown.YES), adapter=replace(ADAPTER, presses_pin=YesNoUnknown.NO)),
         Severity.CAREFUL, "stays wide open"),
        ("aperture-pin", replace(with_lens(pin=YesNoUnknown.UNKNOWN), adapter=replace(ADAPTER, presses_pin=YesNoUnknown.NO)),
         Severity.CAREFUL, "Not known"),
        ("aperture-pin", replace(with_lens(pin=YesNoUnknown.YES), adapter=replace(ADAPTER, presses_pin=YesNoUnknown.UNKNOWN)),
         Severity.CAREFUL, "Not known"),
        ("aperture-control", with_lens(aperture_ring=ApertureRing.NONE), Severity.CAREFUL, "stays at one stop"),
        ("aperture-control", with_lens(mount=replace(THREAD, actuation=Link.UNKNOWN)), Severity.CAREFUL, "Not known"),
        ("adapter-optics", with_adapter(optics=True), Severity.CAREFUL, "Not known"),
        ("throat", with_body(with_lens(protrusion_mm=30, rear_mm=47)), Severity.BLOCKER, "has to pass a throat of 46 mm"),
        ("throat", with_lens(protrusion_mm=30), Severity.CAREFUL, "Not known: how wide the rear"),
        ("aperture-control", with_lens(mount=replace(THREAD, actuation=Link.ELECTRONIC)), Severity.CAREFUL, "stays as it was"),
        ("endless-focus", with_lens(endless=True), Severity.NOTE, "no hard stops"),
        ("image-circle", with_lens(image_circle_mm=30), Severity.NOTE, "covers 30 mm, the picture is 43 mm"),
        ("image-circle", with_lens(image_circle_mm=None), Severity.NOTE, "Not known"),
        ("tripod-foot", with_adapter(measured_mm=40), Severity.NOTE, "40 mm adapter has no tripod foot"),
    ],
)  # fmt: skip
def test_each_rule(rule, setup, severity, words):
    finding = answer(FIT_RULES[rule], setup)
    assert isinstance(finding, RuleFinding)
    assert finding.rule == rule
    assert finding.severity is severity
    assert words in finding.text
    assert finding.clears.endswith(".")
    if "Not known" in finding.text:
        assert "Look for" in finding.clears


@pytest.mark.parametrize(
    ("rule", "setup"),
    [
        ("register-possible", with_body(mount=THREAD)),
        ("infinity", with_adapter(measured_mm=27.47)),
        ("infinity", with_adapter(measured_mm=30, optics=True)),
        ("rear-protrusion", with_lens(protrusion_mm=30)),
        ("rear-protrusion", with_lens(protrusion_mm=None, mount=SHORT)),
        ("coupling-lever", with_body(with_lens(aperture_ring=ApertureRing.UNCUT), coupling_lever=YesNoUnknown.YES)),
        ("coupling-lever", with_body(with_lens(NATIVE, aperture_ring=ApertureRing.CUT), coupling_lever=YesNoUnknown.YES)),
        ("aperture-pin", with_lens(pin=YesNoUnknown.YES)),
        ("aperture-control", replace(with_lens(mount=replace(THREAD, actuation=Link.ELECTRONIC)),
                                        adapter=replace(ADAPTER, works_aperture=True))),
        ("image-circle", with_lens(image_circle_mm=43.3)),
        ("tripod-foot", with_adapter(measured_mm=40, foot=True)),
    ],
)  # fmt: skip
def test_each_rule_is_silenced_by_what_clears_it(rule, setup):
    assert not isinstance(answer(FIT_RULES[rule], setup), RuleFinding)


def test_optics_turn_an_impossible_register_from_stop_to_careful():
    setup = with_body(mount=LONG)
    glass = replace(
        setup, adapter=Adapter(name="with glass", lens_side=THREAD, body_side=LONG, nominal_mm=3, optics=True)
    )
    assert answer(FIT_RULES["register-possible"], glass).severity is Severity.CAREFUL


def test_findings_come_worst_first():
    found = check_fit(with_lens(replace(SAFE, adapter=None), endless=True, mount=None))
    assert [finding.severity for finding in found] == sorted(
        (finding.severity for finding in found), key=list(Severity).index
    )
    assert verdict(check_fit(replace(SAFE, adapter=None))) is Severity.BLOCKER


def test_unknown_everything_is_never_safe():
    bare = Setup(body=Body("b", ImageFormat(36, 24)), lens=Lens(name="l", focal_mm=50, stops=(2, 16), closest_mm=450))
    assert verdict(check_fit(bare)) is Severity.CAREFUL


def test_adapter_thickness_and_error():
    assert ADAPTER.needed_mm == pytest.approx(27.46)
    assert replace(ADAPTER, measured_mm=27.5).error_mm == pytest.approx(0.04)
    assert replace(ADAPTER, optics=True).error_mm is None
    assert route_of(SAFE).length_mm == pytest.approx(67.46)
    assert route_of(with_lens(length_mm=None)).length_mm is None


def test_joint_gathers_room_error_and_infinity():
    joint = joint_of(replace(SAFE, adapter=replace(ADAPTER, measured_mm=27.36)))
    assert joint.room_mm == pytest.approx(27.46)
    assert joint.error_mm == pytest.approx(-0.10)
    assert joint.effect.infinity_deg == pytest.approx(0.10 * 360 / SAFE.lens.helicoid().lead_mm)
    assert joint.length_mm == pytest.approx(67.36)
    assert joint_of(with_lens(mount=None)).room_mm is None
    assert joint_of(NATIVE).room_mm == 0


def test_only_a_reflex_with_its_own_lens_opens_for_focusing():
    reflex = with_body(NATIVE, finder=FinderKind.SLR)
    assert reflex.opens_for_focusing
    assert (reflex.view_stop(11), NATIVE.view_stop(11)) == (2, 11)
    assert not with_body(finder=FinderKind.SLR).opens_for_focusing
    assert not with_lens(reflex, mount=replace(THREAD, actuation=Link.NONE)).opens_for_focusing


def test_another_screen_replaces_matte_and_split_and_leaves_the_rest():
    live = Peaking(1280, (PeakingLevel("low", 0.2),))
    body = Body("b", ImageFormat(36, 24, 6000), (MatteScreen(0.9, 2.8), SplitImage(0.9, 6.5), live))
    plain = with_screen(body, Screen("old matte", 2.0))
    assert plain.aids == (MatteScreen(0.9, 2.0), live)
    assert with_screen(plain, Screen("split", 2.8, 6.5)).aids == body.aids
    with pytest.raises(ConflictError, match="no finder magnification"):
        with_screen(replace(body, aids=(live,)), Screen("x"))


def test_an_adapter_to_its_own_mount_and_without_thickness_is_refused():
    with pytest.raises(ConflictError, match="own mount"):
        Adapter(name="odd", lens_side=THREAD, body_side=THREAD)
    for thickness in (-30, 1e9):
        with pytest.raises(OutOfRangeError, match="thickness"):
            Adapter(name="odd", lens_side=THREAD, body_side=SHORT, nominal_mm=thickness)


@pytest.mark.parametrize("name_register", [("M42×1", 45.46), ("M39×26 tpi", 28.8), ("T2", 55.0), ("C", 17.526)])
def test_published_registers(name_register):
    assert name_register in [(mount.name, mount.register_mm) for mount in STANDARD_MOUNTS]


def test_thick_adapter_against_the_reference():
    """f 50, ε = +0.10 mm: farthest sharp distance 25 050 mm from the principal plane."""
    effect = adapter_effect(50, 0.10, datum=Datum.PRINCIPAL)
    assert effect.farthest_mm == pytest.approx(25_050, abs=0.5)
    assert not effect.reaches_infinity
    assert effect.infinity_extension_mm is None


def test_thin_adapter_moves_infinity_before_the_stop():
    effect = adapter_effect(50, -0.15, lead_mm=10.8, diameter_mm=60)
    assert effect.reaches_infinity
    assert effect.infinity_deg == pytest.approx(5.0)
    assert effect.infinity_mm == pytest.approx(2.618, abs=0.001)
    with pytest.raises(OutOfRangeError, match="Adapter error"):
        adapter_effect(50, 1e9)
