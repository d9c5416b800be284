"""The form of a set-up: body, lens and what counts as sharp."""

from __future__ import annotations

from welotrope.core.errors import UnreadableError
from welotrope.core.inputs import FormInput, Input, Reader, inputs_of, texts_of
from welotrope.core.optics.sharpness import SharpnessStandard, Standard
from welotrope.store.queries.kit import JointKeys, StoredSetup
from welotrope.web.forms.record_form import RecordForm, asks_for
from welotrope.web.forms.text_form import TextForm, key_of


class _Choices(TextForm):
    """What goes together, by the keys of the rows."""

    body_id: str = ""
    lens_id: str = ""
    adapter_id: str = ""
    converter_id: str = ""
    made_for_body: str = ""
    chosen_for: str = ""  # lens and body that the adapter was chosen for

    @property
    def pair(self) -> str:
        """Lens and body as chosen now."""
        return f"{self.lens_id} on {self.body_id}"


@asks_for(SharpnessStandard)
class SetupForm(RecordForm, _Choices):
    """Fields of a set-up as typed: what goes together, and the standard."""

    @classmethod
    def of_stored(cls, stored: StoredSetup) -> SetupForm:
        """Fill the form from a set-up."""
        return cls(
            **texts_of(stored.setup.standard), body_id=str(stored.body_id), lens_id=str(stored.lens_id),
            adapter_id=_text(stored.adapter_id), converter_id=_text(stored.converter_id),
            made_for_body="yes" if stored.setup.made_for_body else "",
            chosen_for=f"{stored.lens_id} on {stored.body_id}",
        )  # fmt: skip

    def values(self) -> tuple[int, int, SharpnessStandard, dict[str, str]]:
        """Return body key, lens key, standard, and an error sentence per field."""
        reader = Reader()
        body_id = reader.take("body_id", lambda: chosen_key(self.body_id, "body"), 0)
        lens_id = reader.take("lens_id", lambda: chosen_key(self.lens_id, "lens"), 0)
        standard = SharpnessStandard.take(reader, FormInput(texts=self.model_dump()))
        return body_id, lens_id, standard, reader.errors

    @property
    def joint(self) -> JointKeys:
        """What stands between lens and body, and whether the lens was made for it."""
        return JointKeys(key_of(self.adapter_id), key_of(self.converter_id), bool(self.made_for_body))

    @property
    def standards(self) -> tuple[Standard, ...]:
        """The schools to choose from."""
        return tuple(Standard)

    @property
    def figures(self) -> list[Input]:
        """What the schools ask for."""
        return [one for one in inputs_of(SharpnessStandard) if one.group in set(Standard)]


FIELD_OF = {"viewing_standard": "print_width"}


def chosen_key(text: str, kind: str) -> int:
    """Return the key of what was chosen of a kind; raises UnreadableError when nothing was."""
    key = key_of(text)
    if key is None:
        raise UnreadableError(
            kind, text, "none is chosen", f"Choose {'an' if kind[0] in 'aeiou' else 'a'} {kind}, or add one first"
        )
    return key


def _text(key: int | None) -> str:
    return "" if key is None else str(key)
