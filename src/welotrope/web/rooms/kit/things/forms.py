"""The forms of what is owned, made from what each record asks for."""

from __future__ import annotations

from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.aids.registry import kind_of
from welotrope.core.kit.attachment import Attachment
from welotrope.core.kit.body import Body, aid_texts, kind_typed
from welotrope.core.kit.camera_kind import UNKNOWN_KIND, usual_aids
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.mount import Mount
from welotrope.web.forms.record_form import RecordForm, record_form

BodyForm = record_form(Body)
LensForm = record_form(Lens)
MountForm = record_form(Mount)
AdapterForm = record_form(Adapter)
AttachmentForm = record_form(Attachment)


def with_usual_aids(form: RecordForm) -> RecordForm:
    """Return a body's form with the aids that its kind usually has, marked typical, unless some were typed."""
    texts = form.model_dump()
    camera = kind_typed(texts)
    usual = aid_texts(usual_aids(camera))
    if camera is UNKNOWN_KIND or any(texts[name] for name in usual):
        return form
    return form.model_copy(update={**usual, "typical": [kind_of(aid).tag for aid in camera.usual]})


def adapter_between(lens: Lens, body: Body) -> RecordForm:
    """Return an empty adapter from a lens's mount to a body's."""
    sides = lens.mount.name if lens.mount else "", body.mount.name if body.mount else ""
    return AdapterForm.model_validate({"lens_side": sides[0], "body_side": sides[1] if sides[0] != sides[1] else ""})
