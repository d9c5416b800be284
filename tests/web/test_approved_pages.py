"""Every page of the demo reads as it was approved: each word, link, form, field and drawing of it.

A change that is meant is approved by ``make approve``, and is seen in the difference of the files it writes.
"""

import difflib
import json
import os
import re
from pathlib import Path

import pytest

from tests.web.pages import fields_of
from tests.web.reading import reading, same_line
from tests.web.rooms.field import entries

APPROVED = Path(__file__).parent / "approved"
DEMO = (
    "/kit", "/kit?setup=3", "/kit/setups/1", "/kit/setups/3", "/kit/setups/8", "/kit/setups/1/sheet", "/kit/setups/3/sheet?school=place",
    "/kit/lenses/1", "/kit/lenses/3", "/kit/bodies/1", "/kit/bodies/2", "/kit/adapters/1", "/kit/attachments/1",
    "/kit/mounts/1", "/kit/bodies/1/slots", "/kit/add/lens", "/kit/add/lens?form=zoom", "/kit/add/camera", "/kit/backups", "/kit/import",
    "/kit/setups/new", "/kit/lenses/new", "/kit/bodies/new", "/kit/adapters/new", "/kit/mounts/new",
    "/scale", "/scale?setup=3&at=2.4m&stop=5.6&subject=Ida@2300&subject=Ove@4000", "/scale?setup=8&at=inf&stop=4",
    "/scale?at=1km&stop=1cm", "/scale/measure", "/scale/measure?setup=3", "/scale/marks", "/scale/marks?setup=3", "/scale/infinity",
    "/scale/infinity?setup=3", "/scale/shift", "/scale/shift?setup=3", "/scale/print", "/scale/print?kind=collar&setup=3",
    "/plan", "/plan?name=Ida&distance=2m&name=Ove&distance=5m", "/plan?setup=3&name=Ida&distance=1m&name=Ove&distance=inf",
    "/plan?name=a&distance=ten&name=b&distance=3m", "/plan?setup=8&name=Ida&distance=0.8m&name=Ove&distance=90cm",
    "/plan/zones", "/plan/zones?setup=3", "/plan/light", "/plan/light?setup=3&near=3m&far=7m", "/plan/light?light=&meter_shutter=1/60&meter_stop=4",
    "/plan/moving", "/plan/moving?setup=3", "/plan/sitter", "/plan/sitter?setup=8", "/plan/close", "/plan/close?subject=12+cm&depth=5",
    "/plan/night", "/plan/night?setup=3", "/plan/compare", "/aids", "/aids?setup=3&at=2.4m&stop=8", "/aids?at=inf&light=dark&place=corner",
    "/aids?setup=8&at=1.2m&stop=2&average=yes", "/aids/constants",
    "/practice", "/practice?setup=3", "/practice/tape", "/practice/guess", "/practice/approach", "/practice/lean", "/practice/daily",
    "/practice/reaction", "/practice/display", "/practice/hand", "/practice/hand?setup=3", "/practice/trials/1",
    "/field", "/field/cards", "/field/pocket", "/devices", "/jobs", "/jump", "/help", "/help/scale", "/help/plan", "/help/aids", "/setups",
    "/log", "/log?outing=all", "/log?q=behind&outing=all", "/log/new", "/log/frames/1", "/log/why", "/log/why?setup=3", "/log/report",
    "/log/report?outing=1", "/log/type", "/log/rolls", "/log/rolls/1", "/log/review", "/log/pictures", "/log/sidecars", "/log/clock",
    "/shots", "/shots?setup=8", "/shots/sheets", "/shots/series?kind=stops", "/shots/series?kind=ring", "/shots/series?kind=level&setup=3",
    "/shots/series?kind=shift", "/nowhere", "/kit/lenses/999", "/scale?setup=1", "/scale/marks?setup=1", "/scale/infinity?setup=2", "/plan/night?setup=1", "/plan/night?setup=2",
    "/aids?setup=1", "/practice?setup=1", "/plan/moving?setup=1", "/plan/light?setup=1", "/plan/sitter?setup=1", "/kit?setup=1",
    "/log/why?setup=1", "/practice/hand?setup=1", "/aids/live?setup=1", "/aids/live?setup=1&guide=stack&frames=6&turn=4&stop=8", "/aids/live?setup=3",
)  # fmt: skip
IN_FEET = (
    "/scale?setup=3&at=2.4m&stop=5.6",
    "/plan?name=Ida&distance=2m&name=Ove&distance=5m",
    "/aids",
    "/plan/zones",
    "/log",
    "/field/cards",
)
PICTURED = (
    "/log/pictures?outing=1",
    "/log/review?picture=1",
    "/log/review?picture=2",
    "/log/sidecars",
    "/log/frames/1",
    "/log/clock",
)
# Pages whose drawings are approved too; what is drawn on the others is made of the same parts.
DRAWN = (
    "/scale", "/scale?setup=3&at=2.4m&stop=5.6&subject=Ida@2300&subject=Ove@4000", "/scale/marks", "/scale/measure", "/scale/print",
    "/plan?name=Ida&distance=2m&name=Ove&distance=5m", "/plan/moving", "/aids", "/practice/hand?setup=3", "/practice/tape", "/log/report",
    "/log/why", "/kit/setups/3/sheet?school=place", "/practice/trials/1",
)  # fmt: skip
# Folders of the test, keys made by chance.
CHANGING = re.compile(r"/\S*/pytest-of-\S*|\b[0-9a-f]{16}\b")
# What comes back when a form is sent with something else in it: page, form, and what is typed.
SENT = {
    "lens that cannot be": (
        "/kit/lenses/1",
        "/kit/lenses/1",
        {"focal": "fifty", "stops": "2 1.4", "closest_focus": ""},
    ),
    "body that cannot be": ("/kit/bodies/1", "/kit/bodies/1", {"size": "large", "width_px": "12", "name": ""}),
    "adapter that cannot be": ("/kit/adapters/1", "/kit/adapters/1", {"nominal": "x", "measured": "900"}),
    "criterion that cannot be": ("/kit/setups/1", "/kit/setups/1", {"standard": "pixel", "pixels": "none"}),
    "frame that cannot be": ("/log/new", "/log/frames", {"at": "here", "stop": "3", "shutter": "1/", "iso": "-1"}),
    "frame stored": ("/log/new", "/log/frames", {"at": "2.4m", "stop": "4", "shutter": "1/125", "note": "Cleat"}),
    "notes with a line that cannot be read": (
        "/log/type",
        "/log/type",
        {"text": "1 8 2.4m 1/125\n2 nonsense\n3 5.6 inf 1/60"},
    ),
    "readings too few": ("/scale/measure", "/scale/measure", {"distance": "1 m", "position": "30"}),
    "constants that cannot be": ("/aids/constants", "/aids/constants", {"vernier_split": "fast"}),
    "no file": ("/kit/backups", "/kit/backups/look", {"file": "nowhere.zip"}),
    "no kit": ("/kit/import", "/kit/import", {"text": "[1, 2"}),
    "kit with one bad lens": (
        "/kit/import",
        "/kit/import",
        {
            "text": json.dumps(
                {
                    "format": "welotrope-kit",
                    "version": 2,
                    "mounts": [{"name": "Tarn", "register_mm": 44.0}, {"name": "Tarn 2"}],
                    "lenses": [
                        {"name": "Tarn 40", "focal_mm": 40, "stops": [2, 2.8, 4], "closest_mm": 500, "mount": None}
                    ],
                }
            )
        },
    ),
    "pocket file with a bad entry": (
        "/field/pocket",
        "/field/pocket",
        {
            "text": json.dumps(
                {
                    "format": "welotrope-field-log",
                    "version": 1,
                    "made": "2026-03-15T10:20:00",
                    "entries": [
                        entries.frame(key="key-00000001"),
                        entries.frame(key="key-00000002", stop=-8),
                    ],
                }
            )
        },
    ),
    "no pocket file": ("/field/pocket", "/field/pocket", {"text": "not at all"}),
    "roll that cannot be": ("/log/rolls/1", "/log/rolls/1", {"iso": "quick", "push": "9"}),
    "change noted": ("/practice/hand", "/practice/changes", {"note": "a new screen", "made_at": "2026-03-01"}),
    "change on no day": ("/practice/hand", "/practice/changes", {"note": "a new screen", "made_at": "soon"}),
    "guess without a distance": ("/practice/guess", "/practice/guess", {"guess": "3 m", "taped": ""}),
    "slot that is none": ("/kit/bodies/1/slots", "/kit/bodies/1/slots", {"number": "99"}),
    "infinity read": ("/scale/infinity", "/scale/infinity", {"farthest": "2 km"}),
    "depth marks that disagree": ("/scale/marks", "/scale/marks", {"stop": "8", "far": "10 m", "near": "1 m"}),
}
START = ("/start", "/scale", "/kit", "/log", "/practice", "/log/why")


def name_of(kind, path):
    return re.sub(r"[^a-z0-9.]+", "-", f"{kind} {path}".lower()).strip("-")


def check(kind, path, answer):
    lines = [f"{answer.status_code} {answer.url.path}", *reading(answer, drawings=path in DRAWN)]
    lines = [CHANGING.sub("…", line) for line in lines]
    held = APPROVED / f"{name_of(kind, path)}.txt"
    before = held.read_text(encoding="utf-8").splitlines() if held.exists() else []
    if len(before) == len(lines) and all(map(same_line, before, lines)):
        return
    if os.environ.get("APPROVE"):
        APPROVED.mkdir(exist_ok=True)
        held.write_text("\n".join(lines) + "\n", encoding="utf-8")
        return
    if len(before) == len(lines):  # figures that are near enough are no difference
        lines = [was if same_line(was, line) else line for was, line in zip(before, lines, strict=True)]
    raise AssertionError("\n".join([*difflib.unified_diff(before, lines, "approved", "now", lineterm="", n=1)][:60]))


@pytest.mark.parametrize("path", DEMO)
def test_page_reads_as_approved(practised_client, path):
    check("demo", path, practised_client.get(path))


@pytest.mark.parametrize("path", IN_FEET)
def test_page_in_feet_reads_as_approved(practised_client, path):
    practised_client.cookies.set("unit", "ft")
    check("feet", path, practised_client.get(path))


@pytest.mark.parametrize("path", PICTURED)
def test_page_with_pictures_reads_as_approved(pictured_client, path):
    check("pictured", path, pictured_client.get(path))


@pytest.mark.parametrize("path", START)
def test_page_of_an_empty_kit_reads_as_approved(empty_client, path):
    check("empty", path, empty_client.get(path))


@pytest.mark.parametrize("name", SENT)
def test_answer_to_a_form_reads_as_approved(practised_client, name):
    page, action, typed = SENT[name]
    check("sent", name, practised_client.post(action, data=fields_of(practised_client.get(page), action) | typed))


def test_no_approved_page_is_left_over():
    kinds = {"demo": DEMO, "feet": IN_FEET, "pictured": PICTURED, "empty": START, "sent": SENT}
    wanted = {f"{name_of(kind, path)}.txt" for kind, paths in kinds.items() for path in paths}
    assert {held.name for held in APPROVED.iterdir()} == wanted
