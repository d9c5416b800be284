"""The form of a set-up: body, lens and what counts as sharp."""

from __future__ import annotations

from welotrope.core.errors import UnreadableError
from welotrope.core.inputs import Reader
from welotrope.core.optics.sharpness import SharpnessStandard, Standard
from welotrope.core.units.distance import Unit, parse_distance
from welotrope.core.units.numbers import number
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.forms.text_form import TextForm, key_of


class SetupForm(TextForm):
    """Fields of a set-up as typed."""

    body_id: str = ""
    lens_id: str = ""
    adapter_id: str = ""
    standard: str = "print"
    pixels: str = "2"
    print_width: str = "40 cm"
    viewing: str = "40 cm"
    acuity: str = "2"
    own: str = "0.03"

    @classmethod
    def of(cls, stored: StoredSetup) -> SetupForm:
        """Fill the form from a set-up."""
        standard = stored.setup.standard
        return cls(
            body_id=str(stored.body_id), lens_id=str(stored.lens_id),
            adapter_id="" if stored.adapter_id is None else str(stored.adapter_id), standard=standard.kind.value,
            pixels=f"{standard.pixels:g}", print_width=f"{standard.print_width_mm / 10:g} cm",
            viewing=f"{standard.viewing_mm / 10:g} cm", acuity=f"{standard.acuity_arcmin:g}",
            own=f"{standard.own_mm:g}",
        )  # fmt: skip

    def values(self) -> tuple[int, int, SharpnessStandard, dict[str, str]]:
        """Return body key, lens key, standard, and an error sentence per field."""
        reader = Reader()
        body_id = reader.take("body_id", lambda: _key(self.body_id, "body"), 0)
        lens_id = reader.take("lens_id", lambda: _key(self.lens_id, "lens"), 0)
        kind = Standard(self.standard) if self.standard in set(Standard) else Standard.PRINT
        usual = SharpnessStandard()
        pixels, acuity, own = usual.pixels, usual.acuity_arcmin, usual.own_mm
        width, viewing = usual.print_width_mm, usual.viewing_mm
        if kind is Standard.PIXEL:
            pixels = reader.take("pixels", lambda: number(self.pixels, "pixels of blur"), pixels)
        elif kind is Standard.OWN:
            own = reader.take("own", lambda: number(self.own, "own blur circle", "mm"), own)
        elif kind is Standard.VIEWING:
            width = reader.take("print_width", lambda: _length(self.print_width, "print width"), width)
            viewing = reader.take("viewing", lambda: _length(self.viewing, "viewing distance"), viewing)
            acuity = reader.take("acuity", lambda: number(self.acuity, "acuity"), acuity)
        standard = reader.take(
            "standard",
            lambda: SharpnessStandard(
                kind=kind, pixels=pixels, print_width_mm=width, viewing_mm=viewing, acuity_arcmin=acuity, own_mm=own
            ),
            usual,
        )
        return body_id, lens_id, standard, reader.errors


FIELD_OF = {"viewing_standard": "print_width"}


def _key(text: str, kind: str) -> int:
    key = key_of(text)
    if key is None:
        raise UnreadableError(
            kind, text, "none is chosen", f"Choose {'an' if kind[0] in 'aeiou' else 'a'} {kind}, or add one first"
        )
    return key


def adapter_key(text: str) -> int | None:
    """Return the key of the adapter chosen, None for none."""
    return key_of(text)


def _length(text: str, field: str) -> float:
    return parse_distance(text, field=field, bare=Unit.METRIC)
