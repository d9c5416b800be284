"""Every rule of the set-up sheet: when it speaks, when not, and the changes a photographer makes."""

from dataclasses import replace

import pytest

from tests.core.kit.test_fit import SAFE, with_body
from welotrope.core.errors import OutOfRangeError
from welotrope.core.kit.aids.confirmation import Confirmation
from welotrope.core.kit.aids.magnified import MagnifiedView
from welotrope.core.kit.aids.peaking import Peaking, PeakingLevel
from welotrope.core.kit.aids.split_image import SplitImage
from welotrope.core.kit.body import Body
from welotrope.core.kit.camera_kind import FinderKind
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.mount import YesNoUnknown
from welotrope.core.kit.setup import Setup
from welotrope.core.kit.sheet import (
    SHEET_RULES,
    School,
    SheetCase,
    SheetChange,
    SlotEntry,
    check_slot,
    find_slot,
    sheet_lines,
    slot_card,
)
from welotrope.core.kit.traits import BodyTraits, ScaleStandard
from welotrope.core.optics.sharpness import ImageFormat
from welotrope.core.rules import NoFinding, RuleFinding, answer

LIVE = replace(
    SAFE,
    body=replace(
        SAFE.body,
        aids=(MagnifiedView(1280, (6, 12)), Peaking(1280, (PeakingLevel("low", 0.2), PeakingLevel("high", 0.05))), Confirmation()),
        traits=BodyTraits(
            finder=FinderKind.ELECTRONIC, clearance_mm=5, coupling_lever=YesNoUnknown.NO, peaking_colours=("white", "red"), stabiliser=True,
            burst_fps=8, distance_scale=ScaleStandard.PIXEL, aids_need_manual_focus=YesNoUnknown.YES,
            magnifier_fires=YesNoUnknown.NO, slots=4,
        ),
    ),
)  # fmt: skip
FILM = Setup(
    body=Body("f", ImageFormat(36, 24), (SplitImage(0.9),), None, BodyTraits(finder=FinderKind.SLR)),
    lens=Lens(name="l", focal_mm=50, stops=(4, 16), closest_mm=450),
)
SLOT = SlotEntry(number=2, lens_id=1, lens_name="l", focal_mm=50, widest=2, shared_with=())


def case(setup=LIVE, school=School.SET, slot=SLOT):
    return SheetCase(setup, school, slot)


@pytest.mark.parametrize(
    ("rule", "given", "text", "reason"),
    [
        ("do-not-mount", case(replace(LIVE, adapter=None)), "Do not mount", "does not go on"),
        ("manual-focus", case(), "Focus mode: manual", "do not appear at all"),
        (
            "manual-focus",
            case(with_body(LIVE, aids_need_manual_focus=YesNoUnknown.NO)),
            "manual",
            "nothing but your hand",
        ),
        ("release", case(), "no lens attached", "refuse to fire"),
        ("slot", case(), "Lens slot 2: 50 mm, f/2", "file then carries"),
        ("slot", case(slot=replace(SLOT, shared_with=("Other",))), "slot 2", "shared with Other"),
        ("slot", case(slot=None), "Enter 50 mm, f/2 in a free", "no slot is assigned"),
        ("stabiliser", case(), "focal length: 50 mm", "blurs"),
        ("magnifier", case(), "button the thumb reaches", "does not fire by itself"),
        ("peaking", case(), "Peaking low in a colour the scene has not (white, red)", "whole frame"),
        ("peaking", case(school=School.PLACE), "Peaking low", "finish magnified"),
        ("preview", case(), "Exposure preview on", "will not get"),
        ("mode", case(), "automatic ISO", "never touched"),
        ("mode", case(school=School.PLACE), "Manual exposure", "opening up"),
        ("mode", case(FILM), "set the shutter by hand", "fixed"),
        ("metering", case(school=School.PLACE), "lock it before you magnify", "alone"),
        ("metering", case(), "whole frame", "no time"),
        ("drive", case(), "Burst, 8 a second", "moment"),
        ("drive", case(school=School.PLACE), "Single frames", "one"),
        ("tripod", case(school=School.PLACE), "self-timer 2 s, stabiliser off", "finger"),
        ("user-mode", case(), "user mode", "dial"),
        (
            "infinity",
            case(replace(LIVE, adapter=replace(LIVE.adapter, measured_mm=27.56))),
            "infinity mark",
            "too thick",
        ),
        ("dark-split", case(replace(FILM, lens=replace(FILM.lens, stops=(4.5, 16)))), "matte part", "opens to f/4.5"),
        ("dead-scale", case(), "Read the distance on the lens", "reports it"),
        ("dead-confirmation", case(), "Do not wait", "stay dark"),
        ("zone-only", case(with_body(LIVE, finder=FinderKind.ZONE)), "before you raise", "no focus"),
    ],
)
def test_each_rule_speaks(rule, given, text, reason):
    words = answer(SHEET_RULES[rule], given)
    assert isinstance(words, RuleFinding)
    assert text in words.text
    assert reason in words.reason


@pytest.mark.parametrize(
    ("rule", "given"),
    [
        ("do-not-mount", case()), ("manual-focus", case(FILM)), ("release", case(FILM)),
        ("release", case(replace(LIVE, adapter=replace(LIVE.adapter, works_aperture=True)))),
        ("slot", case(with_body(LIVE, slots=0))), ("stabiliser", case(with_body(LIVE, stabiliser=False))),
        ("magnifier", case(with_body(LIVE, magnifier_fires=YesNoUnknown.YES))), ("magnifier", case(FILM)),
        ("peaking", case(FILM)), ("preview", case(FILM)), ("tripod", case()), ("user-mode", case(FILM)),
        ("infinity", case(replace(LIVE, adapter=replace(LIVE.adapter, measured_mm=27.46)))), ("dark-split", case(replace(FILM, lens=replace(FILM.lens, stops=(1.4, 16))))),
        ("dead-scale", case(with_body(LIVE, distance_scale=ScaleStandard.NONE))),
        ("dead-confirmation", case(with_body(LIVE, aids=LIVE.body.aids[:2]))), ("zone-only", case()),
    ],
)  # fmt: skip
def test_each_rule_is_silent_where_it_has_nothing_to_say(rule, given):
    assert answer(SHEET_RULES[rule], given) is NoFinding.NOT_ASKED


def test_lines_are_reworded_dropped_and_added():
    changes = [
        SheetChange("manual-focus", "MF on the lens switch"),
        SheetChange("user-mode", dropped=True),
        SheetChange("own-1", "Lens cap off", "it happens"),
        SheetChange("own-2", dropped=True),
    ]
    lines = {line.id: line for line in sheet_lines(case(), changes=changes)}
    assert lines["manual-focus"].text == "MF on the lens switch"
    assert lines["manual-focus"].own
    assert "do not appear" in lines["manual-focus"].reason
    assert "user-mode" not in lines
    assert "own-2" not in lines
    assert list(lines)[-1] == "own-1"
    assert sheet_lines(case())[0].id == "manual-focus"


def test_slot_cards_name_who_shares():
    lens = LIVE.lens
    card = slot_card([(2, 7, replace(lens, name="b")), (1, 5, lens), (2, 6, replace(lens, name="a"))])
    assert [(e.number, e.lens_name, e.shared_with) for e in card] == [(1, "l", ()), (2, "b", ("a",)), (2, "a", ("b",))]
    assert find_slot(card, 6).lens_name == "a"
    assert find_slot(card, 9) is None
    with pytest.raises(OutOfRangeError, match="Choose 1 to 4"):
        check_slot(5, 4)
