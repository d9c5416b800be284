import json
from pathlib import Path

import pytest

from welotrope.core.errors import OutOfRangeError, UnreadableError
from welotrope.core.kit.aids.confirmation import Confirmation
from welotrope.core.kit.aids.microprism import Microprism
from welotrope.core.kit.aids.rangefinder import RangefinderPatch
from welotrope.interchange import kit_json, kit_transfer
from welotrope.interchange.kit_csv import decode, read_lens_lines
from welotrope.store.queries import kit
from welotrope.store.session import Database


def exported(database):
    with database.session() as session:
        return kit_json.write_kit(kit_transfer.gather(session))


def test_the_whole_kit_round_trips_into_an_empty_database(database, tmp_path):
    text = exported(database)
    assert "Infinity" not in text
    result = kit_json.read_kit(text)
    assert result.bad == []
    other = Database(tmp_path / "other")
    for _ in range(2):  # a second import of the same file changes nothing
        with other.session() as session:
            kit_transfer.store(session, result.document)
            session.commit()
        assert json.loads(exported(other)) == json.loads(text)
    other.close()


def test_every_ring_record_is_in_the_file_and_calibrates_the_other_database(database, tmp_path):
    document = kit_json.read_kit(exported(database)).document
    assert {entry.kind for entry in document.records} >= {"shift", "measured", "infinity"}
    other = Database(tmp_path / "other")
    with other.session() as session, database.session() as before:
        kit_transfer.store(session, document)
        rings = [
            sorted((stored.setup.name, round(stored.setup.known.true.throw_deg, 6)) for stored in kit.list_setups(one))
            for one in (session, before)
        ]
    assert rings[0] == rings[1]
    other.close()


def test_what_is_not_known_is_left_out_and_said(database):
    sent = json.loads(exported(database))
    sent["bodies"][0]["traits"]["strap"] = "worn"
    sent["lenses"][0]["colour"] = "black"
    result = kit_json.read_kit(json.dumps(sent))
    assert result.bad == []
    assert [(row.place.split(" (")[0], row.reason.split(":")[0]) for row in result.left_out] == [
        ("bodies 1", "traits.strap"), ("lenses 1", "colour"),
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("units", "mm", "field", "kept"),
    [(["ft"], [914.4, 1524], "engraved_ft", (3, 5)), (["m", "ft"], [1000, 1500], "engraved_m", (1, 1.5))],
)
def test_the_one_list_of_the_first_version_goes_to_the_scale_it_was_read_from(units, mm, field, kept):
    lens = {"name": "Old", "focal_mm": 50, "stops": [2, 16], "closest_mm": 900, "engraved_units": units}
    sent = {"format": "welotrope-kit", "version": 1, "lenses": [lens | {"engraved_mm": mm}]}
    result = kit_json.read_kit(json.dumps(sent))
    assert result.bad == result.left_out == []
    assert getattr(result.document.lenses[0], field) == kept


def test_a_kit_of_the_released_version_is_taken_whole(tmp_path):
    """Written by the version that was out before; one body given a rangefinder, an indicator and a microprism."""
    sent = json.loads((Path(__file__).parent / "released/kit-1.json").read_text())
    body = sent["bodies"][0]
    body["traits"] |= {"rangefinder_base_mm": 38.0, "rangefinder_reads_mm": 2010.0, "confirmation": True}
    body["aids"].append({"finder_magnification": 0.92, "prism_deg": 6.0})
    result = kit_json.read_kit(json.dumps(sent))
    assert result.bad == result.left_out == []
    assert len(result.document.lenses) == len(sent["lenses"])
    assert result.document.bodies[0].aids[-3:] == (
        Microprism(0.92, 6.0), RangefinderPatch(38.0, 0.7, 2010.0), Confirmation(5.6),
    )  # fmt: skip


def test_csv_names_the_columns_it_leaves_out_and_knows_feet():
    (line,), strange = read_lens_lines("name;focal;stops;closest_ft;colour\nBare 50;50;2 16;1.5;black\n")
    assert strange == ["colour"]
    assert line.fields["closest_focus"] == "1.5 ft"


@pytest.mark.parametrize(
    ("change", "place", "words"),
    [
        (lambda kit: kit["lenses"][2].update(closest_mm=2e5), "lenses 3 (Tarnholt 35)", "must turn nearer"),
        (lambda kit: kit["lenses"][0].update(focal_mm="long"), "lenses 1 (Velloise 20)", "that is not a number"),
        (lambda kit: kit["adapters"][0].update(nominal_mm=-30), "adapters 1", "nominal thickness"),
        (lambda kit: kit["adapters"][0].update(body_side=kit["adapters"][0]["lens_side"]), "adapters 1", "own mount"),
        (lambda kit: kit["mounts"][0].update(register_mm=-1), "mounts 1", "Flange distance"),
        (lambda kit: kit["bodies"][0]["image"].update(width_mm=0), "bodies 1", "Picture width"),
        (lambda kit: kit["setups"][0].update(lens="Ghost"), "setups 1", "names the lens “Ghost”"),
        (lambda kit: kit["setups"][0].update(colour="red"), "setups 1", "nothing here is called so"),
        (lambda kit: kit["presets"][0].update(subjects=["nobody"]), "presets 1", "no distance"),
        (lambda kit: kit.update(version=3), "file", "version 3"),
        (lambda kit: kit.update(format="other"), "file", "not a kit"),
        (lambda kit: kit.update(lenses={}), "file", "must be a list"),
        (lambda kit: kit.update(secrets=[]), "file", "does not know: secrets"),
    ],
)
def test_each_bad_item_is_named_and_the_rest_is_known(database, change, place, words):
    kit = json.loads(exported(database))
    change(kit)
    result = kit_json.read_kit(json.dumps(kit))
    assert any(row.place.startswith(place) and words.lower() in row.reason.lower() for row in result.bad), result.bad
    assert len(result.bad) == 1
    if place != "file":
        assert len(result.document.bodies) + len(result.document.lenses) >= 5


@pytest.mark.parametrize("text", ["", "{", "[]", "nonsense", '{"format": NaN}', "[" * 100_000])
def test_what_is_no_kit_is_said_to_be_none(text):
    assert kit_json.read_kit(text).bad[0].place == "file"


@pytest.mark.parametrize("delimiter", [",", ";", "\t"])
@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
def test_csv_in_any_dialect_and_encoding(delimiter, encoding):
    rows = [
        ["Name", "Focal", "Stops", "Closest"],
        ["Ærø 58", "58", "2 2.8 4", '"0.5 m"' if delimiter == "," else "0,5 m"],
    ]
    data = "\r\n".join(delimiter.join(row) for row in rows).encode(encoding)
    (line,), strange = read_lens_lines(decode(data))
    assert strange == []
    assert line.line == 2
    assert line.fields["name"] == "Ærø 58"
    assert line.fields["closest_focus"].endswith("5 m")


def test_csv_without_its_columns_or_too_long_is_refused():
    with pytest.raises(UnreadableError, match="no column stops, closest"):
        read_lens_lines("name;focal\nx;50\n")
    with pytest.raises(OutOfRangeError, match="Split it"):
        read_lens_lines("name,focal,stops,closest\n" + "x,50,2,1\n" * 1200)
