"""Kit files out and in: what a file would bring is shown before anything is stored, and it is all or nothing."""

from __future__ import annotations

from dataclasses import dataclass, field

from fastapi import APIRouter
from starlette.datastructures import UploadFile
from starlette.responses import JSONResponse, Response

from welotrope.core.errors import WelotropeError
from welotrope.interchange import kit_json, kit_transfer
from welotrope.interchange.lens_csv import decode, read_lens_lines
from welotrope.store.queries import mounts
from welotrope.web.desk import AtDesk, Desk
from welotrope.web.rooms.kit.kit_forms import LensForm

router = APIRouter()
MAX_TEXT = 1_000_000


@dataclass(frozen=True, kw_only=True)
class ImportPage:
    """What a file would bring: good items as (kind, name), bad ones with their place; ``text`` is what was sent."""

    text: str = ""
    kind: str = ""
    good: list[tuple[str, str]] = field(default_factory=list)
    bad: list[kit_json.BadRow] = field(default_factory=list)
    read: bool = False
    left_out: list[kit_json.BadRow] = field(default_factory=list)


@router.get("/kit/export.json")
def export_kit(desk: AtDesk) -> Response:
    """Download the whole kit."""
    headers = {"content-disposition": 'attachment; filename="welotrope-kit.json"'}
    return Response(kit_json.write_kit(kit_transfer.gather(desk.book)), headers=headers, media_type="application/json")


@router.get("/kit/schema.json")
def kit_schema() -> Response:
    """Show the JSON schema of kit files."""
    return JSONResponse(kit_json.KitDocument.model_json_schema())


@router.get("/kit/import")
def offer_import(desk: AtDesk) -> Response:
    """Offer to read a file."""
    return desk.page("import.html", ImportPage(), room="kit")


@router.post("/kit/import")
def preview_import(desk: AtDesk) -> Response:
    """Show what a file would bring; nothing is stored."""
    data = desk.typed
    upload = data.get("file")
    text = str(data.get("text", ""))
    if isinstance(upload, UploadFile) and upload.size:
        text = decode(upload.file.read())
    document, page = _read(desk, text)
    status = 200 if document is not None and not page.bad else 422
    return desk.page("import.html", page, room="kit", status=status)


@router.post("/kit/import/store")
def store_import(desk: AtDesk) -> Response:
    """Store a file that was shown, all of it or nothing; undoable as one change."""
    text = str(desk.typed.get("text", ""))
    document, page = _read(desk, text)
    if document is None or page.bad:
        return desk.page("import.html", page, room="kit", status=422)
    try:
        with desk.change(f"Imported {len(page.good)} thing{'' if len(page.good) == 1 else 's'}"):
            kit_transfer.store(desk.book, document)
    except WelotropeError as error:
        page = ImportPage(
            text=text, kind=page.kind, good=page.good, bad=[kit_json.BadRow("file", error.sentence)], read=True
        )
        return desk.page("import.html", page, room="kit", status=422)
    return desk.back_to("/kit")


def _read(desk: Desk, text: str) -> tuple[kit_json.KitDocument | None, ImportPage]:
    text = text.strip("\ufeff \r\n")
    if not text or len(text) > MAX_TEXT:
        reason = "Nothing was sent: choose a file." if not text else f"That is more than {MAX_TEXT // 1000} kB of text."
        return None, ImportPage(bad=[kit_json.BadRow("file", reason)], read=True)
    result = kit_json.read_kit(text) if text[:1] in "{[" else _read_csv(desk, text)
    kind = "kit" if text[:1] in "{[" else "lenses"
    document = result.document
    good = [("mount", mount.name) for mount in document.mounts] + [("adapter", item.name) for item in document.adapters]
    good += [("body", item.name) for item in document.bodies] + [("lens", item.name) for item in document.lenses]
    good += [("set-up", f"{item.lens} on {item.body}") for item in document.setups]
    good += [("slot", f"{item.number} of {item.body}: {item.lens}") for item in document.slots]
    good += [("preset", f"{item.name} of {item.lens}") for item in document.presets]
    good += [("ring record", f"{item.kind} of {item.lens}") for item in document.records]
    return document, ImportPage(text=text, kind=kind, good=good, bad=result.bad, read=True, left_out=result.left_out)


def _read_csv(desk: Desk, text: str) -> kit_json.ReadKit:
    known = {mount.name: mount for _, mount, _ in mounts.list_mounts(desk.book)}
    result = kit_json.ReadKit()
    try:
        lines, strange = read_lens_lines(text)
    except WelotropeError as error:
        return kit_json.ReadKit(bad=[kit_json.BadRow("line 1", error.sentence)])
    if strange:
        sentence = f"No column of lenses is called {', '.join(strange)[:120]}: what stands there is not taken."
        result.left_out.append(kit_json.BadRow("header line", sentence))
    for line in lines:
        lens, errors = LensForm.model_validate(line.fields).value(known)
        if lens is not None:
            result.document.lenses.append(lens)
        name = line.fields.get("name", "")[:40]
        place = f"line {line.line}" + (f" ({name})" if name else "")
        result.bad += [kit_json.BadRow(place, sentence) for sentence in errors.values()]
    return result
