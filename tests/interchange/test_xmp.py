"""Sidecars as exiftool and exiv2 read them, and merged into those of other programs without losing a thing."""

import dataclasses
import datetime as dt
import json
import math
import subprocess
from dataclasses import replace

import pytest
from lxml import etree

from welotrope.core.errors import WelotropeError
from welotrope.core.kit.setup import Setup
from welotrope.core.picture.lens_data import LensData, exposure_time, rational
from welotrope.core.picture.picture import Picture
from welotrope.core.review.frame import Frame, Spot
from welotrope.core.review.roll import Roll
from welotrope.demo.skarnmere import BODIES, LENSES, SETUPS
from welotrope.interchange.xmp import MAX_BYTES, merged, read_properties

NOON = dt.datetime(2026, 3, 14, 12, 30, 5)
PICTURE = Picture(
    id=1, sha256="0" * 64, name="a.jpg", media_type="image/jpeg", bytes=1, width_px=6000, height_px=4000, taken_at=NOON
)
FRAME = Frame(
    id=1, outing_id=1, taken_at=NOON, lens_name="Norrvik 50", body_name="Ostrel 6", focal_mm=50, stop=2.8,
    distance_mm=2300.0, subject="Ida’s <hands> & rope", note="the “splice”", tags=("teal", "shed"), spot=Spot(0.25, 0.5),
)  # fmt: skip


def setup_of(index):
    body, lens, standard, _ = SETUPS[index]
    return Setup(body=BODIES[body], lens=LENSES[lens], standard=standard)


def data_of(frame=FRAME, setup=0, roll=None):
    return LensData(frame=frame, picture=PICTURE, setup=None if setup is None else setup_of(setup), roll=roll, now=NOON)


def by_exiftool(path):
    told = subprocess.check_output(["exiftool", "-j", "-n", "-G1", str(path)])
    return json.loads(told)[0]


def by_exiv2(path):
    told = subprocess.run(["exiv2", "-PXkv", str(path)], check=True, capture_output=True, text=True).stdout
    return dict(line.split(maxsplit=1) for line in told.splitlines() if len(line.split(maxsplit=1)) == 2)


@pytest.fixture
def sidecar(tmp_path):
    def written(data, existing=None):
        path = tmp_path / "a.xmp"
        path.write_bytes(merged(existing, data.properties(), path.name).data)
        return path

    return written


def test_a_lens_faster_than_one_is_told_without_a_negative_rational(sidecar):
    """APEX apertures are unsigned: 2·log₂ 0.95 is below nothing, and readers make infinity of it."""
    data = data_of(dataclasses.replace(FRAME, stop=0.95))
    fast = dataclasses.replace(data.setup.lens, stops=(0.95, 2.0, 4.0))
    path = sidecar(dataclasses.replace(data, setup=dataclasses.replace(data.setup, lens=fast)))
    tool, two = by_exiftool(path), by_exiv2(path)
    assert tool["XMP-exif:FNumber"] == 0.95
    assert tool["XMP-exifEX:LensInfo"] == "50 50 0.95 0.95"
    assert not {"XMP-exif:MaxApertureValue", "XMP-exif:ApertureValue"} & set(tool)
    assert not any("-" in value for name, value in two.items() if "Aperture" in name)


def test_both_clients_read_what_the_lens_never_sent(sidecar):
    path = sidecar(data_of())
    tool, two = by_exiftool(path), by_exiv2(path)
    assert tool["XMP-exifEX:LensModel"] == "Norrvik 50"
    assert tool["XMP-aux:Lens"] == "Norrvik 50"
    assert tool["XMP-exif:FNumber"] == 2.8
    assert tool["XMP-exif:FocalLength"] == 50
    assert tool["XMP-exif:SubjectDistance"] == 2.3
    assert tool["XMP-exif:MaxApertureValue"] == pytest.approx(1.4, rel=0.01)
    assert tool["XMP-exif:ApertureValue"] == pytest.approx(2.8, rel=0.01)
    assert tool["XMP-exifEX:LensInfo"] == "50 50 1.4 1.4"
    assert tool["XMP-dc:Description"] == "Ida’s <hands> & rope. the “splice”"
    assert tool["XMP-dc:Subject"] == ["teal", "shed"]
    assert tool["XMP-exif:SubjectArea"] == "1500 2000" or tool["XMP-exif:SubjectArea"] == [1500, 2000]
    assert two["Xmp.exif.FNumber"] == "28/10"
    assert two["Xmp.exif.SubjectDistance"] == "2300/1000"
    assert two["Xmp.exifEX.LensModel"] == "Norrvik 50"
    assert "teal" in two["Xmp.dc.subject"]


def test_a_zoom_says_its_range_and_infinity_is_infinity(sidecar):
    frame = replace(FRAME, lens_name="Lindmere 35–70", focal_mm=35, distance_mm=math.inf)
    tool = by_exiftool(sidecar(data_of(frame, setup=6)))
    assert tool["XMP-exifEX:LensInfo"] == "35 70 3.5 4.5"
    assert tool["XMP-exif:SubjectDistance"] in ("inf", 4294967295)


def test_a_scan_is_given_body_speed_date_and_roll(sidecar):
    frame = replace(FRAME, film_frame="12A", body_name="Kyrstad Reflex", shutter_s=1 / 60, stop=4)
    path = sidecar(data_of(frame, setup=2, roll=Roll(name="26-07", film="Grauwe", iso=400, push_stops=1)))
    tool = by_exiftool(path)
    assert tool["XMP-tiff:Model"] == "Kyrstad Reflex"
    assert tool["XMP-exif:ExposureTime"] == pytest.approx(1 / 60)
    assert tool["XMP-exifEX:PhotographicSensitivity"] == 800
    assert tool["XMP-exif:FileSource"] == 1
    assert tool["XMP-exif:DateTimeOriginal"] == "2026:03:14 12:30:05"
    assert tool["XMP-dc:Source"] == "Roll 26-07, Grauwe ISO 400 at 800, frame 12A"
    assert by_exiv2(path)["Xmp.exif.ExposureTime"] == "1/60"


def test_what_is_not_known_is_not_written():
    bare = Frame(id=1, outing_id=1, taken_at=NOON)
    assert data_of(bare, setup=None).properties() == ()
    undated = replace(FRAME, film_frame="1", undated=True)
    assert "exif:DateTimeOriginal" not in {one.name for one in data_of(undated).properties()}


FOREIGN = """<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>
<!-- kept -->
<x:xmpmeta xmlns:x="adobe:ns:meta/" x:xmptk="somebody 1.0">
 <rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">
  <rdf:Description rdf:about="" xmlns:exif="http://ns.adobe.com/exif/1.0/" xmlns:own="http://example.org/own/1/"
    exif:FNumber="40/10" own:secret="42">
   <own:history><rdf:Seq><rdf:li rdf:parseType="Resource"><own:did>crop</own:did></rdf:li></rdf:Seq></own:history>
  </rdf:Description>
  <rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:xmp="http://ns.adobe.com/xap/1.0/">
   <dc:subject><rdf:Bag><rdf:li>boats</rdf:li></rdf:Bag></dc:subject>
   <dc:description><rdf:Alt><rdf:li xml:lang="x-default">Mine</rdf:li><rdf:li xml:lang="de">Meins</rdf:li></rdf:Alt></dc:description>
   <xmp:Rating>4</xmp:Rating>
  </rdf:Description>
 </rdf:RDF>
</x:xmpmeta>
<?xpacket end="w"?>""".encode()


def test_a_foreign_sidecar_loses_nothing(sidecar):
    path = sidecar(data_of(), FOREIGN)
    data = path.read_bytes()
    tool, two = by_exiftool(path), by_exiv2(path)
    assert tool["XMP-exif:FNumber"] == 2.8
    assert tool["XMP-xmp:Rating"] == 4
    assert tool["XMP-dc:Subject"] == ["boats", "teal", "shed"]
    assert tool["XMP-dc:Description"] == "Mine"
    assert "Meins" in two["Xmp.dc.description"] or b"Meins" in data
    for kept in (
        b'own:secret="42"',
        b"<own:did>crop</own:did>",
        b"<!-- kept -->",
        b'x:xmptk="somebody 1.0"',
        b"xpacket end",
    ):
        assert kept in data, kept
    assert data.count(b"FNumber") in (1, 2)  # one element, opened and closed
    root = etree.fromstring(data)
    assert not root.xpath("//@exif:FNumber", namespaces={"exif": "http://ns.adobe.com/exif/1.0/"})


def test_what_changes_is_told_and_nothing_changes_twice():
    first = merged(FOREIGN, data_of().properties(), "a.xmp")
    told = {change.name: (change.was, change.becomes) for change in first.changes}
    assert told["exif:FNumber"] == ("40/10", "28/10")
    assert told["dc:subject"] == ("boats", "boats, teal, shed")
    assert "dc:description" not in told
    again = merged(first.data, data_of().properties(), "a.xmp")
    assert again.changes == ()
    assert read_properties(first.data, ["exif:FNumber", "xmp:Rating"])["exif:FNumber"] == ("28/10",)


@pytest.mark.parametrize(("data", "words"), [
    (b"", "no XML"), (b"plain text", "no XML"), (b"<a/>", "holds no metadata"), (b"<x" * 1000, "no XML"),
    (b'<!DOCTYPE x [<!ENTITY a "b">]><x:xmpmeta xmlns:x="adobe:ns:meta/">&a;</x:xmpmeta>', "document type"),
    (b'<!DOCTYPE x SYSTEM "file:///etc/passwd"><x/>', "document type"), (b" " * (MAX_BYTES + 1), "more than 4 MB"),
])  # fmt: skip
def test_what_is_no_sidecar_is_refused(data, words):
    with pytest.raises(WelotropeError, match=words):
        merged(data, data_of().properties(), "a.xmp")


def test_a_thousand_laughs_are_not_unfolded():
    lol = (
        '<!DOCTYPE l [<!ENTITY a "lol">'
        + "".join(f'<!ENTITY {b} "{f"&{a};" * 10}">' for a, b in zip("abcdefgh", "bcdefghi", strict=True))
        + "]><l>&i;</l>"
    )
    with pytest.raises(WelotropeError):
        merged(lol.encode(), data_of().properties(), "a.xmp")


@pytest.mark.parametrize(
    ("value", "written"), [(2.8, "28/10"), (50, "50/1"), (0.95, "95/100"), (1.4, "14/10"), (0, "0/1")]
)
def test_numbers_are_written_as_whole_ratios(value, written):
    assert rational(value) == written


@pytest.mark.parametrize(
    ("seconds", "written"), [(1 / 250, "1/250"), (0.5, "5/10"), (15, "15/1"), (1 / 8000, "1/8000")]
)
def test_shutter_times_are_written_as_photographers_say_them(seconds, written):
    assert exposure_time(seconds) == written
