"""/field: the page one takes along."""

from __future__ import annotations

import datetime as dt
import functools
import hashlib
import json
import math
import re
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from fastapi import APIRouter
from starlette.responses import FileResponse, Response

from welotrope.core.cautions import CAUTIONS
from welotrope.core.errors import WelotropeError
from welotrope.core.exposure.light import BRIGHTEST_FIRST, USUAL_ISOS, light_table
from welotrope.core.exposure.shutter_dial import ShutterDial
from welotrope.core.json_values import JsonObject
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.body import shutter_of, shutter_words
from welotrope.core.kit.fit import check_fit, verdict
from welotrope.core.kit.setup import Setup
from welotrope.core.kit.sheet import School, SheetCase, find_slot, sheet_lines
from welotrope.core.plan.field_settings import FieldSetting, Preset, field_settings, two_zones
from welotrope.core.plan.night_plan import night_steps, plan_night
from welotrope.core.plan.own_measures import OwnMeasures
from welotrope.core.plan.setting import marks_on_limits, setting_words
from welotrope.core.ring.engraving import engraved_marks
from welotrope.core.rules import Severity
from welotrope.core.units.distance import Unit
from welotrope.store.queries import field, log, practice
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.components.ring import table_data
from welotrope.web.request.context import CurrentContext
from welotrope.web.request.preferences import Appearance
from welotrope.web.request.templating import WEB

_IMPORT = re.compile(r'^import \{ ([^}]+) \} from "(\.[^"]+)";\n', re.MULTILINE)
_EXPORT = re.compile(r"^export ((?:async )?function|class|const) (\w+)", re.MULTILINE)
_OTHER = re.compile(r"^(?:import|export)\b.*", re.MULTILINE)
MOST_HANDS = 60
_GRID_STEPS = 128  # over the throw; the script reads between them
_NUMERAL_DEG, _DIGIT_DEG = 0.1, 0.022  # shares of what the strip shows at once
_SHOWN_DEG = 60.0
CACHE = "public, max-age=31536000, immutable"


def bundled(entry: Path) -> str:
    """Return a script and its imports as one script; raises ValueError for an import of another kind."""
    parts: dict[Path, str] = {}
    _gather(entry.resolve(), parts, ())
    return "\n".join(["const $ = {};", *parts.values()])


def _gather(path: Path, parts: dict[Path, str], within: tuple[Path, ...]) -> None:
    if path in parts:
        return
    if path in within:
        raise ValueError(f"{path.name} imports itself")
    text = path.read_text()
    for _, where in _IMPORT.findall(text):
        _gather((path.parent / where).resolve(), parts, (*within, path))
    parts[path] = _as_function(path, text)


def _as_function(path: Path, text: str) -> str:
    def taken(found: re.Match[str]) -> str:
        return f"const {{ {found[1]} }} = $[{_key((path.parent / found[2]).resolve())}];\n"

    given = [name for _, name in _EXPORT.findall(text)]
    body = _EXPORT.sub(r"\1 \2", _IMPORT.sub(taken, text))
    strange = _OTHER.search(body)
    if strange:
        raise ValueError(f"{path.name} imports or exports in a way that is not understood: {strange[0]}")
    return f"$[{_key(path)}] = (() => {{\n{body}\nreturn {{ {', '.join(given)} }};\n}})();"


def _key(path: Path) -> str:
    return f'"{path.parent.name}/{path.name}"'


@functools.cache
def script_text() -> str:
    """Return the script of the field page."""
    return bundled(WEB / "rooms/field/script/main.js")


@functools.cache
def script_version() -> str:
    """Return a hash of it, by which browsers may keep it for ever."""
    return hashlib.sha256(script_text().encode()).hexdigest()[:10]


def field_book(uow: UnitOfWork, now: dt.datetime, in_hand: StoredSetup | None, unit: Unit) -> JsonObject:
    """Return the whole book, ``in_hand`` opened first."""
    outing = next(iter(log.list_outings(uow)), None)
    outing_id = outing.id if outing and outing.day == now.date() else 0
    kit, own = field.field_kit(uow, outing_id), OwnMeasures.of(Eye.of(practice.own_constants(uow)))
    # The one in hand is never among those that find no room.
    setups = sorted(kit.setups, key=lambda one: in_hand is None or one.id != in_hand.id)
    every = [(stored, setup) for stored in setups for setup in stored.setup.at_every_mark]
    hands = [
        {**_hand(stored.id, setup, tuple(kit.presets.get(stored.lens_id, ())), own), **_sheet(kit, stored, setup)}
        for stored, setup in every[:MOST_HANDS]
    ]
    return {
        "made": made_at(now), "unit": unit.value, "looks": [*Appearance], "hands": hands,
        "left_out": len(every) - len(hands),
        "in_hand": _setup_key(in_hand.id, in_hand.setup) if in_hand else "",
        "outing": {"id": outing.id, "name": outing.name} if outing and outing_id else None,
        "lights": {"isos": USUAL_ISOS, "names": [one.name for one in BRIGHTEST_FIRST]},
        "cautions": CAUTIONS,
    }  # fmt: skip


def made_at(now: dt.datetime) -> str:
    """Write when a book was made."""
    return now.isoformat(timespec="minutes")


def book_json(book: JsonObject) -> str:
    """Write a book for a script element."""
    return json.dumps(book, ensure_ascii=False, separators=(",", ":"), allow_nan=False).replace("<", "\\u003c")


def _setup_key(id: int, setup: Setup) -> str:
    return f"{id}@{setup.marked_mm:g}" if setup.zoom_marks else str(id)


@functools.lru_cache(128)
def _hand(id: int, setup: Setup, presets: tuple[Preset, ...], own: OwnMeasures) -> JsonObject:
    """Return what belongs to a set-up's optics; kept, since it is the same until something is changed."""
    lens, throw = setup.lens, setup.known.true.throw_deg
    settings = field_settings(setup, presets)
    stops = tuple(sorted({*lens.stops, *(one.setting.stop for one in settings)}))
    step = max(math.ceil(throw / _GRID_STEPS / 0.25) * 0.25, 0.25)
    return {
        "id": _setup_key(id, setup), "setup": id, "zoom": setup.marked_mm if setup.zoom_marks else None,
        "body": setup.body.name, "lens": lens.name, "focal_mm": lens.focal_mm, "blur_mm": setup.blur_mm,
        "film": setup.body.is_film, "direction": lens.direction,
        "table": table_data(setup, stops, step_deg=step), "marks": _marks(setup),
        "settings": [_setting(setup, one, own) for one in settings],
        "zones": [[_setting(setup, one, own) for one in two_zones(setup, stop)] for stop in stops],
        "night": _night(setup), "fit": _fit(setup), "lights": _lights(stops, shutter_of(setup.body)),
        "shutter": shutter_words(setup.body),
    }  # fmt: skip


def _setting(setup: Setup, one: FieldSetting, own: OwnMeasures) -> JsonObject:
    at = one.setting
    marks = marks_on_limits(setup, at)
    return {
        "name": one.name, "preset": one.preset, "angle": round(at.angle_deg, 3), "stop": at.stop,
        "focus": _finite(at.focus_mm), "near": _finite(at.near_mm), "far": _finite(at.far_mm),
        "engraved": _finite(at.named_mm),
        "reads_true": at.reads_true or at.engraved_mm is None,
        "mark": None if marks is None else [marks.stop, marks.far_side.value],
        "indicator": setting_words(setup, at.angle_deg, at.stop),
        "words": [own.words(at.near_mm), own.words(at.far_mm)],
    }  # fmt: skip


def _marks(setup: Setup) -> dict[str, list[list[object]]]:
    """Return the numerals of the strip by unit: where they sit, degrees, and what they say."""
    known, lens = setup.known, setup.lens
    ring = known.scale if lens.engraved_units and known.step_deg is None else known.true
    shown = min(_SHOWN_DEG, ring.throw_deg)
    found = {}
    for unit in Unit:
        own = lens.engraved_in(unit) if unit in lens.engraved_units else ()
        marks = engraved_marks(ring, unit, _NUMERAL_DEG * shown, _DIGIT_DEG * shown, engraved=own)
        found[unit.value] = [[round(mark.angle_deg, 2), mark.text if mark.numeral else ""] for mark in marks]
    return found


def _night(setup: Setup) -> JsonObject | None:
    try:
        plan = plan_night(setup, setup.lens.widest)
    except WelotropeError:
        return None
    steps = night_steps(plan, setup.blur_mm, film=setup.body.is_film)
    return {"stop": setup.lens.widest, "reached": plan.reached, "steps": [[step.do, step.why] for step in steps]}


def _fit(setup: Setup) -> str:
    """Say what stands against mounting it; empty when nothing is known to."""
    found = check_fit(setup)
    return found[0].text if verdict(found) is Severity.BLOCKER else ""


def _sheet(kit: field.FieldKit, stored: StoredSetup, setup: Setup) -> JsonObject:
    slot, changes = find_slot(kit.slots.get(stored.body_id, []), stored.lens_id), kit.changes.get(stored.body_id, ())
    sheets = {school: sheet_lines(SheetCase(setup, school, slot), changes=changes) for school in School}
    return {
        "sheets": [
            [school.value, [[line.id, line.text, line.reason] for line in lines]] for school, lines in sheets.items()
        ],
        "ticked": sorted(kit.ticked.get(stored.id, ())),
    }


def _finite(mm: float) -> float | None:
    return round(mm, 1) if math.isfinite(mm) else None


@functools.lru_cache(32)
def _lights(stops: Sequence[float], dial: ShutterDial) -> JsonObject:
    """Return the exposure table of a shutter: texts by light, ISO and stop, as places in a list of them."""
    tables = [light_table(stops, iso, dial) for iso in USUAL_ISOS]
    texts = list(dict.fromkeys(cell.text for table in tables for row in table for cell in row.cells))
    place = {text: index for index, text in enumerate(texts)}
    rows = range(len(tables[0]))
    return {
        "texts": texts,
        "rows": [[[place[cell.text] for cell in table[row].cells] for table in tables] for row in rows],
    }


router = APIRouter()


@dataclass(frozen=True, kw_only=True)
class FieldPage:
    """The page: its book as JSON, safe inside a script element, and where its script is."""

    book: str
    script: str


@router.get("/field")
def show_field(context: CurrentContext) -> Response:
    """Show the field page of all set-ups, the one in hand opened."""
    now, held, unit = context.now(), context.selected_setup(), context.preferences.unit
    book: JsonObject = context.cached(
        ("field", context.selection.key, now.date(), unit), lambda: field_book(context.uow, now, held, unit)
    )
    page = FieldPage(book=book_json({**book, "made": made_at(now)}), script=f"/field/script.js?v={script_version()}")
    return context.page("field/page/page.html", page)


@router.get("/field/script.js")
async def script() -> Response:
    """Return the page's script in one piece: a phone is slow to ask for it file by file."""
    return Response(script_text(), media_type="text/javascript", headers={"cache-control": CACHE})


@router.get("/field/away.js")
async def worker() -> Response:
    """Return the worker that shows the page again when the server is out of reach."""
    path = WEB / "rooms/field/script/away.js"
    return FileResponse(
        path, media_type="text/javascript", headers={"service-worker-allowed": "/field", "cache-control": "no-cache"}
    )
