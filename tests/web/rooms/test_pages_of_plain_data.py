"""Pages of Kit, field and typing made of plain records: no database, no application."""

from __future__ import annotations

import datetime as dt
from dataclasses import replace
from pathlib import Path

from starlette.datastructures import FormData

from tests.core.plan.kit import ALL, setup
from welotrope.core.kit.aids.models import AVERAGE_EYE
from welotrope.core.kit.body import ImageFormat
from welotrope.core.kit.camera_kind import KIND_BY_ID, CameraKindId
from welotrope.core.kit.first_kit import first_body
from welotrope.core.kit.mount import Mount
from welotrope.core.picture.picture import Picture, PictureExif
from welotrope.core.plan.field_settings import Preset
from welotrope.core.review.frame import Outing
from welotrope.core.rules import Severity
from welotrope.core.units.distance import Unit
from welotrope.demo import skarnmere
from welotrope.store.queries.field import FieldKit
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.rooms.everywhere.common import JumpData, jump_page
from welotrope.web.rooms.everywhere.room import ROOM as EVERYWHERE
from welotrope.web.rooms.field.cards import CardsAsked, CardsData, CardsForm, cards_page
from welotrope.web.rooms.kit.setup import SetupForm, SetupParts, first_setup, joined, setup_page
from welotrope.web.rooms.kit.shelf import KitData, kit_page
from welotrope.web.rooms.kit.start import AddLensData, add_lens_page
from welotrope.web.rooms.kit.start_form import MADE_FOR
from welotrope.web.rooms.log.landing import LandingData, landing_page
from welotrope.web.rooms.log.sidecar_writing import Draft, SidecarsData, sidecars_page
from welotrope.web.rooms.log.typing import LinesForm, TypingData, typing_page

BODIES = list(enumerate(skarnmere.BODIES.values(), 1))
LENSES = list(enumerate(skarnmere.LENSES.values(), 1))
ADAPTERS = list(enumerate(skarnmere.ADAPTERS.values(), 1))


def key_of(listed, one) -> int:
    return next(key for key, other in listed if other.name == one.name)


def stored(index: int) -> StoredSetup:
    made = setup(index)
    body_id, lens_id = key_of(BODIES, made.body), key_of(LENSES, made.lens)
    return StoredSetup(id=index + 1, body_id=body_id, lens_id=lens_id, setup=made)


STORED = [stored(index) for index in ALL]
PARTS = SetupParts(bodies=BODIES, lenses=LENSES, adapters=ADAPTERS, setups=STORED, in_hand=STORED[0])


def kit_data(**other: object) -> KitData:
    nothing = {"presets": [], "mounts": [], "attachments": [], "broken": [], "changes": []}
    known = {"in_hand": STORED[0], "setups": STORED, "bodies": BODIES, "lenses": LENSES, "adapters": ADAPTERS}
    return KitData(**(nothing | known | other))


def test_every_set_up_has_its_verdict_and_every_lens_its_travel():
    page = kit_page(kit_data(), unit=Unit.METRIC)
    assert set(page.verdicts) == {one.id for one in STORED}
    assert set(page.travels) == {key for key, _ in LENSES}
    assert page.travel is not None
    assert page.in_hand is STORED[0]


def test_a_set_up_that_is_blocked_is_listed_as_the_worst_of_what_was_found():
    mount = Mount(name="X-far", register_mm=10.0)
    lens = replace(STORED[0].setup.lens, mount=mount)
    made = replace(STORED[0].setup, lens=lens, adapter=None, made_for_body=False)
    page = kit_page(
        kit_data(in_hand=replace(STORED[0], setup=made), setups=[replace(STORED[0], setup=made)]), unit=Unit.METRIC
    )
    assert page.findings[0].severity is Severity.BLOCKER
    assert page.verdicts == {STORED[0].id: Severity.BLOCKER}


def test_an_empty_kit_has_nothing_in_hand():
    page = kit_page(kit_data(in_hand=None, setups=[], bodies=[], lenses=[], adapters=[]), unit=Unit.METRIC)
    assert (page.in_hand, page.findings, page.travel, page.rig_mm) == (None, (), None, None)
    assert page.has_mounts


def test_the_newest_lens_that_is_in_no_set_up_is_offered_first():
    lone = replace(LENSES[0][1], name="Lone 35")
    with_it = replace(PARTS, lenses=[*LENSES, (90, lone)])
    assert first_setup(with_it).lens_id == "90"
    assert first_setup(with_it).body_id == str(STORED[0].body_id)


def test_an_adapter_that_joins_is_chosen_for_a_pair_that_is_new():
    adapted = next(one for one in STORED if one.setup.adapter is not None)
    form = joined(PARTS, SetupForm(body_id=str(adapted.body_id), lens_id=str(adapted.lens_id)))
    chosen = dict(ADAPTERS)[int(form.adapter_id)]
    assert (chosen.lens_side, chosen.body_side) == (adapted.setup.lens.mount, adapted.setup.body.mount)
    page = setup_page(PARTS, form, adapted.id, {})
    assert page.title == f"Change {adapted.setup.name}"
    assert page.adapters[0] == (int(form.adapter_id), chosen)


def test_a_further_lens_is_for_the_body_asked_for_else_the_one_in_hand():
    bare = AddLensData(BODIES, ADAPTERS, BODIES[1][0])
    assert add_lens_page(bare, None, FormData()).body_id == BODIES[1][0]
    assert add_lens_page(bare, BODIES[0][0], FormData()).body_id == BODIES[0][0]
    assert add_lens_page(bare, 999, FormData()).body_id == BODIES[1][0]
    assert add_lens_page(AddLensData([], [], None), None, FormData()) is None
    fixed = first_body(KIND_BY_ID[CameraKindId.FIXED_RING], "Ostrel Pocket", ImageFormat(36.0, 24.0))
    page = add_lens_page(AddLensData([(5, fixed)], ADAPTERS, None), None, FormData())
    assert (page.adapters, page.form.joined) == ([], MADE_FOR)


def cards_data(index: int = 0, **other: object) -> CardsData:
    known = {"presets": (), "attachments": (), "slot": None, "changes": (), "eye": AVERAGE_EYE, "unit": Unit.METRIC}
    return CardsData(setup=setup(index), **(known | other))


def asked_cards(*parts: str, **texts: str) -> CardsAsked:
    asked, errors = CardsForm.model_validate({"part": list(parts), "trap": "6 m", **texts}).value({})
    assert errors == {}
    return asked


def test_a_card_that_cannot_be_made_is_left_out_and_named():
    asked = asked_cards("log", "stack", stack_near="2 cm", stack_far="3 cm")
    page = cards_page(cards_data(), CardsForm(), asked, {})
    assert len(page.left_out) == 1
    assert page.pages >= 1
    assert cards_page(cards_data(), CardsForm(), asked_cards("log"), {}).left_out == ()


def test_a_strip_needs_the_diameter_of_the_ring():
    lens = replace(setup(0).lens, ring_diameter_mm=None)
    bare = replace(cards_data(), setup=replace(setup(0), lens=lens))
    assert cards_page(bare, CardsForm(), asked_cards("strip"), {}).no_strip
    assert not cards_page(cards_data(), CardsForm(), asked_cards("log"), {}).no_strip


def typed(text: str, *, unit: Unit = Unit.METRIC, bare: Unit = Unit.METRIC):
    kept = FieldKit(setups=STORED, presets={}, changes={}, slots={}, ticked={})
    data = TypingData(kit=kept, in_hand=STORED[0], outings=[], rolls={})
    return typing_page(data, LinesForm(first="1"), {}, text, bare=bare, unit=unit)


def test_each_typed_line_is_said_back_or_why_not():
    page = typed("50/8 2.5m ok\nnonsense here")
    assert (page.good, page.bad) == (1, 1)
    assert page.echo[0].words == "1  Norrvik 50 f/8, 2.50 m, 2.06 m to 3.20 m, hit"
    assert "′" in typed("50/8 2.5m ok", unit=Unit.FEET).echo[0].words


def test_nothing_can_be_typed_without_a_set_up():
    data = TypingData(
        kit=FieldKit(setups=[], presets={}, changes={}, slots={}, ticked={}), in_hand=None, outings=[], rolls={}
    )
    page = typing_page(data, LinesForm(), {}, "28/8 ok", bare=Unit.METRIC, unit=Unit.METRIC)
    assert "no set-up" in page.errors["text"]


def test_one_jumps_to_settings_of_the_lens_in_hand_outings_lenses_and_bodies():
    outing = Outing(4, "Launch day", dt.date(2026, 3, 14), 60)
    preset = Preset(id=3, lens_id=1, name="bench", distance_mm=2400.0, stop=8.0, subjects=())
    data = JumpData(in_hand=STORED[0], presets=[preset], outings=[outing], lenses=LENSES[:1], bodies=BODIES[:1])
    found = {(item.kind, item.name): item.href for item in jump_page(data, [EVERYWHERE])}
    assert found["outing", "Launch day"] == "/log?outing=4"
    assert found["lens", LENSES[0][1].name] == "/kit/lenses/1"
    assert found["body", BODIES[0][1].name] == "/kit/bodies/1"
    assert found["preset", "bench"].startswith("/scale?")
    assert "8" in found["preset", "bench"]


def picture(id: int, **more: object) -> Picture:
    return Picture(
        id=id, sha256=f"{id:064x}", name=f"{id}.jpg", media_type="image/jpeg", bytes=1, width_px=600, height_px=400,
        taken_at=dt.datetime(2026, 3, 14, 12), exif=PictureExif(), **more,
    )  # fmt: skip


def test_the_picture_that_came_last_is_shown_and_what_was_refused():
    data = LandingData(landed=[picture(7), picture(9), picture(8)], refused=("a.txt is no picture.", "b is none."))
    page = landing_page(data, None, typed="", errors={}, at_computer=True)
    assert (page.newest.id, page.count, page.refused, page.watching) == (9, 3, "b is none.", False)
    nothing = landing_page(LandingData(), None, typed="/x", errors={"folder": "There is none."}, at_computer=False)
    assert (nothing.newest, nothing.count, nothing.typed, nothing.at_computer) == (None, 0, "/x", False)


def test_pictures_without_a_place_and_without_a_frame_are_counted():
    outing = Outing(4, "Launch day", dt.date(2026, 3, 14), 60)
    loose = Draft(picture=picture(1), path=None, existing_sha=None, merged=None)
    beside = Draft(picture=picture(2), path=Path("/p/2.xmp"), existing_sha="0" * 64, merged=None)
    data = SidecarsData(outing=outing, drafts=(loose, beside), count=5, batches=[])
    page = sidecars_page(data, at_computer=True)
    assert (page.loose, page.beside, page.unmatched) == (1, 0, 3)


def test_a_set_up_that_cannot_be_is_told_before_it_is_stored():
    page = setup_page(PARTS, SetupForm.of_stored(STORED[0]), None, {"body_id": "None is chosen."})
    assert page.errors == {"body_id": "None is chosen."}
    assert page.findings is not None
    assert all(finding.severity in Severity for finding in page.findings)
