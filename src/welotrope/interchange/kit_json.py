"""The kit as one JSON document (``welotrope-kit``, version 2), and back; things refer to each other by name."""

from __future__ import annotations

import datetime as dt
import json
import math
from dataclasses import dataclass, field, fields
from typing import Annotated, Any, Literal

from pydantic import (
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    SerializerFunctionWrapHandler,
    TypeAdapter,
    ValidationError,
    ValidationInfo,
    WrapSerializer,
    field_serializer,
    field_validator,
    model_validator,
)

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.json_values import JsonObject
from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.aids.registry import BODY_KINDS, kind_called, kind_of
from welotrope.core.kit.attachment import Attachment
from welotrope.core.kit.body import Body
from welotrope.core.kit.known_ring import RECORD_TYPES
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.mount import Mount
from welotrope.core.optics.sharpness import SharpnessStandard
from welotrope.core.plan.setting import parse_subject_token
from welotrope.core.units.distance import Unit
from welotrope.interchange.problems import sentence_of

_RANGEFINDER = ("rangefinder_base_mm", "rangefinder_magnification", "rangefinder_reads_mm")
_INDICATOR = ("confirmation", "confirmation_stop")
FORMAT, VERSION = "welotrope-kit", 2
_READ = (1, 2)
MAX_ITEMS = 2000
_MOST_UNKNOWN = 20
_SECTIONS = ("mounts", "adapters", "attachments", "bodies", "lenses", "setups", "slots", "presets", "records")


def brought_up(item: object) -> object:
    """Return an item of a kit file as this version has it; what is not understood stays for the reader to name."""
    if not isinstance(item, dict):
        return item
    if isinstance(item.get("engraved_mm"), list):
        item = _scales_apart(item)
    traits = item.get("traits")
    if isinstance(traits, dict) and isinstance(item.get("aids", []), list) and "rangefinder_base_mm" in traits:
        item = _aids_together(item, traits)
    return item


def _scales_apart(item: JsonObject) -> JsonObject:
    """Put the one list of a lens on the scale it was read from."""
    unit = Unit.FEET if item.get("engraved_units") == [Unit.FEET.value] else Unit.METRIC
    listed = [round(mm / unit.mm, 6) if isinstance(mm, float | int) else mm for mm in item["engraved_mm"]]
    rest = {key: value for key, value in item.items() if key != "engraved_mm"}
    return {**rest, "engraved_ft" if unit is Unit.FEET else "engraved_m": listed}


def _aids_together(item: JsonObject, traits: JsonObject) -> JsonObject:
    """Put rangefinder and indicator among the aids of a body."""
    aids = list(item.get("aids", []))
    if traits.get("rangefinder_base_mm") is not None:
        aids.append(
            {
                "base_mm": traits["rangefinder_base_mm"],
                "finder_magnification": traits.get("rangefinder_magnification", 0.7),
                "reads_mm": traits.get("rangefinder_reads_mm", 2000.0),
            }
        )
    if traits.get("confirmation"):
        aids.append({"base_stop": traits.get("confirmation_stop", 5.6)})
    kept = {key: value for key, value in traits.items() if key not in (*_RANGEFINDER, *_INDICATOR)}
    return {**item, "aids": aids, "traits": kept}


_AID, _AID_TAGS = "focusing aid", tuple(kind.tag for kind in BODY_KINDS)


def _aids_by_kind(body: object) -> object:
    """Return a body whose aids are records, each of the kind it names; files of before name none."""
    if not isinstance(body, dict) or not isinstance(body.get("aids"), list):
        return body
    return {**body, "aids": [_aid(aid) for aid in body["aids"]]}


def _aid(aid: object) -> object:
    if not isinstance(aid, dict) or "kind" not in aid:
        return aid
    kind = kind_called(str(aid["kind"]))
    if kind is None:
        raise UnreadableError(_AID, str(aid["kind"]), "there is no such kind", f"Write {', '.join(_AID_TAGS)}")
    try:
        return TypeAdapter(kind.record).validate_python({name: value for name, value in aid.items() if name != "kind"})
    except ValidationError as error:
        cause = error.errors()[0].get("ctx", {}).get("error")
        if isinstance(cause, WelotropeError):
            raise cause from error
        name = ".".join(map(str, error.errors()[0]["loc"]))
        raise UnreadableError(_AID, str(aid["kind"]), f"{name} is missing or of another type", "Correct it") from error


def _without_unknown(body: object) -> tuple[object, list[str]]:
    """Return a body without the names in its aids that their kinds do not know, and those names."""
    if not isinstance(body, dict) or not isinstance(body.get("aids"), list):
        return body, []
    aids, unknown = [], []
    for index, aid in enumerate(body["aids"]):
        kind = kind_called(str(aid.get("kind"))) if isinstance(aid, dict) else None
        if kind is None:
            aids.append(aid)
            continue
        known = {"kind", *(one.name for one in fields(kind.record))}
        unknown += [f"aids.{index}.{name}" for name in aid if name not in known]
        aids.append({name: value for name, value in aid.items() if name in known})
    return {**body, "aids": aids}, unknown


def _with_kinds(body: Body, handler: SerializerFunctionWrapHandler) -> JsonObject:
    written: JsonObject = handler(body)
    aids = [{"kind": kind_of(aid).tag, **fields} for aid, fields in zip(body.aids, written["aids"], strict=True)]
    return {**written, "aids": aids}


BodyEntry = Annotated[Body, BeforeValidator(_aids_by_kind), WrapSerializer(_with_kinds)]


class SetupEntry(BaseModel):
    """A set-up: names of its body, lens, adapter and converter (null for none), and its standard."""

    model_config = ConfigDict(extra="forbid")

    body: str
    lens: str
    adapter: str | None = None
    converter: str | None = None
    made_for_body: bool = False
    standard: SharpnessStandard = Field(default_factory=SharpnessStandard)


class PresetEntry(BaseModel):
    """A preset of a lens; distance in mm from the film plane, null for infinity; subjects as ``name@mm``."""

    model_config = ConfigDict(extra="forbid")

    lens: str
    name: str = Field(min_length=1, max_length=40)
    distance_mm: float | None
    stop: float = Field(ge=0.5, le=128)
    subjects: list[str] = []


class SlotEntryJson(BaseModel):
    """A slot of a body and the lens whose data it holds."""

    model_config = ConfigDict(extra="forbid")

    body: str
    lens: str
    number: int = Field(ge=1, le=50)


class RecordEntry(BaseModel):
    """A record of a ring: of its lens, or of one set-up by its body and adapter; ``record`` is as its kind has it."""

    model_config = ConfigDict(extra="forbid")

    lens: str
    body: str | None = None
    adapter: str | None = None
    kind: Literal["scale", "measured", "infinity", "shift", "marks"]
    taken: dt.date
    record: object

    @field_validator("record")
    @classmethod
    def _of_its_kind(cls, value: object, info: ValidationInfo) -> object:
        kind = RECORD_TYPES.get(str(info.data.get("kind")))
        return value if kind is None else TypeAdapter(kind).validate_python(value)

    @field_serializer("record")
    def _as_json(self, value: object) -> object:
        return _with_infinity(TypeAdapter(type(value)).dump_python(value, mode="json"))

    @model_validator(mode="after")
    def _where_it_belongs(self) -> RecordEntry:
        if (self.kind in ("measured", "infinity")) != (self.body is not None):
            raise ValueError("measured and infinity are of a set-up and name its body, the others of a lens and do not")
        return self


class KitDocument(BaseModel):
    """The whole kit."""

    model_config = ConfigDict(extra="forbid")

    format: Literal["welotrope-kit"] = "welotrope-kit"
    version: Literal[1, 2] = 2
    mounts: list[Mount] = []
    adapters: list[Adapter] = []
    attachments: list[Attachment] = []
    bodies: list[BodyEntry] = []
    lenses: list[Lens] = []
    setups: list[SetupEntry] = []
    slots: list[SlotEntryJson] = []
    presets: list[PresetEntry] = []
    records: list[RecordEntry] = []


@dataclass(frozen=True)
class BadRow:
    """An item that cannot be taken: where it stands and why, in one sentence."""

    place: str
    reason: str


@dataclass
class ReadKit:
    """What a file holds: the items that can be taken, those that cannot, and what is not known and left out."""

    document: KitDocument = field(default_factory=KitDocument)
    bad: list[BadRow] = field(default_factory=list)
    left_out: list[BadRow] = field(default_factory=list)


def write_kit(document: KitDocument) -> str:
    """Return the document as indented JSON."""
    return json.dumps(document.model_dump(mode="json"), indent=2, ensure_ascii=False, allow_nan=False) + "\n"


def read_kit(text: str) -> ReadKit:
    """Read a kit document item by item, so that each bad one is named and the good ones are known."""
    try:
        data = json.loads(text, parse_constant=_no_constant)
    except (ValueError, RecursionError) as error:
        return ReadKit(bad=[BadRow("file", f"This is not JSON: {error}.")])
    problem = _envelope_problem(data)
    if problem:
        return ReadKit(bad=[BadRow("file", problem)])
    good: dict[str, list[object]] = {section: [] for section in _SECTIONS}
    bad: list[BadRow] = []
    left_out: list[BadRow] = []
    for section in _SECTIONS:
        for index, item in enumerate(data.get(section, []), start=1):
            name = item.get("name", "") if isinstance(item, dict) else ""
            place = f"{section} {index}" + (f" ({str(name)[:40]})" if name else "")
            try:
                read, unknown = _read_item(section, brought_up(item))
            except ValidationError as error:
                bad.append(BadRow(place, _sentence(error)))
                continue
            good[section].append(read)
            if unknown:
                left_out.append(BadRow(place, f"{', '.join(unknown)[:120]}: nothing here is called so."))
    document = KitDocument.model_construct(**good)  # type: ignore[arg-type]
    return ReadKit(document, bad + _reference_problems(document, data), left_out)


def _read_item(section: str, item: object) -> tuple[object, list[str]]:
    """Return an item and the names in it that are not known, which are left out; raises ValidationError."""
    item, unknown = _without_unknown(item) if section == "bodies" else (item, [])
    while True:
        try:
            return getattr(KitDocument.model_validate({section: [item]}), section)[0], unknown
        except ValidationError as error:
            strange = [e["loc"][2:] for e in error.errors() if e["type"] == "unexpected_keyword_argument"]
            if not strange or len(unknown) >= _MOST_UNKNOWN:
                raise
            place = [part for part in strange[0] if not str(part).startswith(("function", "dataclass"))]
            unknown.append(".".join(map(str, place)))
            item = _without(item, place)


def _without(item: Any, place: list[Any]) -> object:
    """Return the item without what stands at a place in it."""
    if len(place) == 1:
        return {key: value for key, value in item.items() if key != place[0]}
    if isinstance(item, list):
        return [_without(part, place[1:]) if index == place[0] else part for index, part in enumerate(item)]
    return {key: _without(value, place[1:]) if key == place[0] else value for key, value in item.items()}


def _envelope_problem(data: object) -> str:
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        return f'This is not a kit: it must be an object with "format": "{FORMAT}".'
    if data.get("version") not in _READ:
        return f"This kit is of version {str(data.get('version'))[:20]}; this program reads up to version {VERSION}."
    unknown = set(data) - {"format", "version", *_SECTIONS}
    if unknown:
        return f"There is a part this program does not know: {', '.join(sorted(map(str, unknown)))[:80]}."
    for section in _SECTIONS:
        if not isinstance(data.get(section, []), list):
            return f"The part “{section}” must be a list."
        if len(data.get(section, [])) > MAX_ITEMS:
            return f"The part “{section}” holds more than {MAX_ITEMS} items."
    return ""


def _sentence(error: ValidationError) -> str:
    first = error.errors()[0]
    place = ".".join(str(part) for part in first["loc"][2:] if not str(part).startswith(("function", "dataclass")))
    return sentence_of(first, place or "item")


def _reference_problems(document: KitDocument, data: JsonObject) -> list[BadRow]:
    """Name entries that refer to nothing; an item that is there but bad was named already."""
    names = {
        kind: {item.get("name") for item in data.get(section, []) if isinstance(item, dict)}
        for kind, section in (
            ("body", "bodies"), ("lens", "lenses"), ("adapter", "adapters"), ("converter", "adapters"),
        )
    }  # fmt: skip
    bad = []
    for section in ("setups", "slots", "presets", "records"):
        for index, entry in enumerate(getattr(document, section), start=1):
            for kind, known in names.items():
                name = getattr(entry, kind, None)
                if name is not None and name not in known:
                    bad.append(
                        BadRow(f"{section} {index}", f"It names the {kind} “{name[:40]}”, which is not in the file.")
                    )
    for index, preset in enumerate(document.presets, start=1):
        bad += _subject_problems(preset, index)
    return bad


def _subject_problems(preset: PresetEntry, index: int) -> list[BadRow]:
    try:
        for token in preset.subjects:
            parse_subject_token(token)
    except WelotropeError as error:
        return [BadRow(f"presets {index} ({preset.name})", error.sentence)]
    return []


def _with_infinity(value: object) -> object:
    """Write infinite distances as ``"inf"``, which JSON can hold."""
    if isinstance(value, dict):
        return {key: _with_infinity(item) for key, item in value.items()}
    if isinstance(value, list):
        return [_with_infinity(item) for item in value]
    return "inf" if isinstance(value, float) and math.isinf(value) else value


def _no_constant(name: str) -> float:
    raise ValueError(f"{name} is no JSON number")


def distance_or_none(mm: float) -> float | None:
    """Return a distance for JSON: null for infinity."""
    return None if math.isinf(mm) else mm
