"""Kit files out and in: what a file would bring is shown before anything is stored, and it is all or nothing."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.datastructures import UploadFile
from starlette.responses import JSONResponse, Response

from welotrope.core.errors import WelotropeError
from welotrope.interchange import kit_json, kit_transfer
from welotrope.interchange.lens_csv import decode
from welotrope.web.request.context import CurrentContext
from welotrope.web.rooms.kit.files.context import ImportPage, read_file

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
