"""The forms of what is owned, made from what each record asks for."""

from __future__ import annotations

from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.attachment import Attachment
from welotrope.core.kit.body import Body
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.mount import Mount
from welotrope.web.forms.record_form import RecordForm, record_form

BodyForm = record_form(Body)
LensForm = record_form(Lens)
MountForm = record_form(Mount)
AdapterForm = record_form(Adapter)
AttachmentForm = record_form(Attachment)


def adapter_between(lens: Lens, body: Body) -> RecordForm:
    """Return an empty adapter from a lens's mount to a body's."""
    sides = lens.mount.name if lens.mount else "", body.mount.name if body.mount else ""
    return AdapterForm.model_validate({"lens_side": sides[0], "body_side": sides[1] if sides[0] != sides[1] else ""})
