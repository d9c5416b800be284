"""What is stored, written to a file or shown in a form comes back as it was, whichever field is other than usual."""

import dataclasses
import datetime as dt

import pytest

from tests.one_field import variants
from welotrope.core.inputs import FormInput, read_record, texts_of
from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.mount import Mount
from welotrope.core.optics.sharpness import SharpnessStandard, Standard
from welotrope.core.review.frame import NewFrame
from welotrope.core.review.outcomes import Outcome
from welotrope.core.review.roll import Roll
from welotrope.demo import skarnmere
from welotrope.interchange.kit_json import KitDocument, read_kit, write_kit
from welotrope.store.queries import kit, log, mounts, rolls
from welotrope.store.queries.kit import JointKeys

MOUNT = Mount(name="Tarn bayonet", register_mm=46.5, throat_mm=44.0)
OTHER = Mount(name="Tarn thread", register_mm=28.8, throat_mm=38.0)
ADAPTER = Adapter(name="Ring", lens_side=MOUNT, body_side=OTHER, nominal_mm=17.7, measured_mm=17.6)
FRAME = NewFrame(taken_at=dt.datetime(2026, 3, 14, 10, 0))
# The side of a joint is a mount of its own, and its fields are looked at as such; what is a list has its own tests.
SKIPPED = (
    "lens_side",
    "body_side",
    "mount",
    "zoom",
    "image",
    "focal_mm",
    "max_stop",
    "setup_id",
    "roll_id",
    "kind",
    "factor",
)


def kit_records():
    yield from ((mounts.save_mount, mounts.get_mount, "mounts", one) for one in (MOUNT, OTHER))
    yield mounts.save_adapter, mounts.get_adapter, "adapters", ADAPTER
    for body in skarnmere.BODIES.values():
        yield kit.save_body, kit.get_body, "bodies", body
    for lens in skarnmere.LENSES.values():
        yield kit.save_lens, kit.get_lens, "lenses", lens
    for attachment in skarnmere.ATTACHMENTS:
        yield mounts.save_attachment, mounts.get_attachment, "attachments", attachment


RECORDS = [pytest.param(*one, id=f"{one[2]}-{one[3].name}") for one in kit_records()]


@pytest.mark.parametrize(("save", "get", "section", "record"), RECORDS)
def test_every_field_of_the_kit_is_stored(database, save, get, section, record):
    with database.session() as uow:
        key, seen = save(uow, record), set()
        assert get(uow, key) == record
        for name, one in variants(record, SKIPPED):
            assert save(uow, one, key) == key
            uow.sql.expire_all()
            assert get(uow, key) == one, name
            seen.add(name)
        assert len(seen) > 3


@pytest.mark.parametrize(("save", "get", "section", "record"), RECORDS)
def test_every_field_of_the_kit_is_written_to_its_file(save, get, section, record):
    for name, one in [("as it is", record), *variants(record, SKIPPED)]:
        document = KitDocument.model_construct(**{section: [one]})
        found = read_kit(write_kit(document))
        (back,) = getattr(found.document, section)
        assert back == one, name
        assert found.left_out == [], name


@pytest.mark.parametrize(("save", "get", "section", "record"), RECORDS)
def test_every_field_of_the_kit_is_shown_in_its_form_and_read_back(save, get, section, record):
    known = {"mounts": {one.name: one for one in (MOUNT, OTHER, getattr(record, "mount", None)) if one is not None}}
    for name, one in [("as it is", record), *variants(record, (*SKIPPED, "aids", "typical"))]:
        read, errors = read_record(type(one), FormInput(texts=texts_of(one), known=known))
        if errors:  # what two fields decide together
            continue
        differing = [f.name for f in dataclasses.fields(one) if getattr(one, f.name) != getattr(read, f.name)]
        assert differing == [], name


def test_every_field_of_a_frame_is_stored(database):
    with database.session() as uow:
        for name, one in variants(FRAME, SKIPPED):
            key = log.add_frame(uow, 1, one, outcome=Outcome.FRONT)
            uow.sql.expire_all()
            found = log.get_frame(uow, key)
            assert {f.name: getattr(found, f.name) for f in dataclasses.fields(one)} == {
                f.name: getattr(one, f.name) for f in dataclasses.fields(one)
            }, name
            assert found.outcome is Outcome.FRONT


def test_every_field_of_a_roll_is_stored(database):
    with database.session() as uow:
        for name, one in variants(Roll(name="26-07")):
            key = rolls.save_roll(uow, one)
            uow.sql.expire_all()
            assert rolls.get_roll(uow, key).roll == one, name


@pytest.mark.parametrize("kind", Standard)
def test_what_counts_as_sharp_and_the_joint_are_stored_with_a_set_up(database, kind):
    with database.session() as uow:
        usual = SharpnessStandard(kind=kind)
        figures = [f.name for f in dataclasses.fields(usual) if isinstance(getattr(usual, f.name), float)]
        for name, one in [(name, dataclasses.replace(usual, **{name: 1.5 * getattr(usual, name)})) for name in figures]:
            for made in (True, False):
                joint = JointKeys(made_for_body=True) if made else JointKeys(1)
                key = kit.save_setup(uow, 1, 2, one, joint=joint)
                uow.sql.expire_all()
                stored = kit.get_setup(uow, key)
                own = [
                    f for f in dataclasses.fields(one) if getattr(stored.setup.standard, f.name) != getattr(one, f.name)
                ]
                # Only what belongs to the criterion is stored.
                assert kind is stored.setup.standard.kind, name
                assert len(own) <= 1, name
                assert stored.joint == joint
                assert (stored.body_id, stored.lens_id) == (1, 2)
