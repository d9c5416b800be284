"""Kit files out and in: what a file would bring is shown before anything is stored, and it is all or nothing."""

from __future__ import annotations

from dataclasses import dataclass, field

from fastapi import APIRouter
from starlette.datastructures import UploadFile
from starlette.responses import JSONResponse, Response

from welotrope.core.errors import WelotropeError
from welotrope.interchange import kit_json, kit_transfer
from welotrope.interchange.kit_csv import decode, read_lens_lines
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.kit.things import LensForm, known_mounts

MAX_TEXT = 1_000_000


@dataclass(frozen=True, kw_only=True)
class ImportPage:
    """What a file would bring: good items as (kind, name), bad ones with their place; ``text`` is what was sent."""

    text: str = ""
    good: list[tuple[str, str]] = field(default_factory=list)
    bad: list[kit_json.BadRow] = field(default_factory=list)
    read: bool = False
    left_out: list[kit_json.BadRow] = field(default_factory=list)


def read_file(context: RequestContext, text: str) -> tuple[kit_json.KitDocument | None, ImportPage]:
    """Return what a text holds, a kit or lenses, and the page that shows it; no document where nothing can be read."""
    text = text.strip("\ufeff \r\n")
    if not text or len(text) > MAX_TEXT:
        reason = "Nothing was sent: choose a file." if not text else f"That is more than {MAX_TEXT // 1000} kB of text."
        return None, ImportPage(bad=[kit_json.BadRow("file", reason)], read=True)
    result = kit_json.read_kit(text) if text[:1] in "{[" else _read_csv(context, text)
    document = result.document
    good = [("mount", mount.name) for mount in document.mounts] + [("adapter", item.name) for item in document.adapters]
    good += [("attachment", item.name) for item in document.attachments]
    good += [("body", item.name) for item in document.bodies] + [("lens", item.name) for item in document.lenses]
    good += [("set-up", f"{item.lens} on {item.body}") for item in document.setups]
    good += [("slot", f"{item.number} of {item.body}: {item.lens}") for item in document.slots]
    good += [("preset", f"{item.name} of {item.lens}") for item in document.presets]
    good += [("ring record", f"{item.kind} of {item.lens}") for item in document.records]
    return document, ImportPage(text=text, good=good, bad=result.bad, read=True, left_out=result.left_out)


def _read_csv(context: RequestContext, text: str) -> kit_json.ReadKit:
    known = known_mounts(context)
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


router = APIRouter()


@router.get("/kit/export.json")
def export_kit(context: CurrentContext) -> Response:
    """Download the whole kit."""
    headers = {"content-disposition": 'attachment; filename="welotrope-kit.json"'}
    return Response(
        kit_json.write_kit(kit_transfer.gather(context.uow)), headers=headers, media_type="application/json"
    )


@router.get("/kit/schema.json")
def kit_schema() -> Response:
    """Show the JSON schema of kit files."""
    return JSONResponse(kit_json.KitDocument.model_json_schema())


@router.get("/kit/import")
def offer_import(context: CurrentContext) -> Response:
    """Offer to read a file."""
    return context.page("kit/files/page.html", ImportPage())


@router.post("/kit/import")
def preview_import(context: CurrentContext) -> Response:
    """Show what a file would bring; nothing is stored."""
    data = context.typed
    upload = data.get("file")
    text = str(data.get("text", ""))
    if isinstance(upload, UploadFile) and upload.size:
        text = decode(upload.file.read())
    document, page = read_file(context, text)
    status = 200 if document is not None and not page.bad else 422
    return context.page("kit/files/page.html", page, status=status)


@router.post("/kit/import/store")
def store_import(context: CurrentContext) -> Response:
    """Store a file that was shown, all of it or nothing; undoable as one change."""
    text = str(context.typed.get("text", ""))
    document, page = read_file(context, text)
    if document is None or page.bad:
        return context.page("kit/files/page.html", page, status=422)
    try:
        with context.undoable_transaction(f"Imported {len(page.good)} thing{'' if len(page.good) == 1 else 's'}"):
            kit_transfer.store(context.uow, document)
    except WelotropeError as error:
        page = ImportPage(text=text, good=page.good, bad=[kit_json.BadRow("file", error.sentence)], read=True)
        return context.page("kit/files/page.html", page, status=422)
    return context.back_to("/kit")
