"""The form of a camera body."""

from __future__ import annotations

from collections.abc import Mapping

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.kit.body import (
    Aid,
    Body,
    Confirmation,
    MagnifiedView,
    MatteScreen,
    Microprism,
    Peaking,
    PeakingLevel,
    RangefinderPatch,
    SplitImage,
)
from welotrope.core.kit.mount import Known, Mount
from welotrope.core.kit.picture_size import parse_picture_size
from welotrope.core.kit.traits import WITHOUT_GLASS, Finder, ScaleStandard
from welotrope.core.optics.sharpness import ImageFormat
from welotrope.core.units.distance import parse_distance
from welotrope.core.units.stops import parse_stop
from welotrope.web.forms import Reader, TextForm, field_of, number, required_name, whole_number
from welotrope.web.rooms.kit.mount_form import named_mount
from welotrope.web.rooms.kit.traits_form import read_traits, traits_texts

USUAL_LEVELS = "low 0.2, mid 0.1, high 0.05"


class BodyForm(TextForm):
    """Fields of a body as typed."""

    name: str = ""
    size: str = "36 × 24"
    medium: str = "digital"
    width_px: str = ""
    finder_magnification: str = ""
    screen_stop: str = ""
    split_deviation: str = ""
    microprism_deviation: str = ""
    display_px: str = ""
    steps: str = ""
    peaking: str = ""
    mount: str = ""
    finder: str = Finder.UNKNOWN.value
    clearance: str = ""
    coupling_lever: str = Known.UNKNOWN.value
    lever_proud: str = ""
    presses_pin: str = Known.UNKNOWN.value
    rangefinder_base: str = ""
    rangefinder_magnification: str = ""
    rangefinder_reads: str = ""
    confirmation_stop: str = ""
    screens: str = ""
    peaking_colours: str = ""
    confirmation: str = ""
    stabiliser: str = ""
    burst: str = ""
    lag: str = ""
    distance_scale: str = ScaleStandard.NONE.value
    aids_need_manual_focus: str = Known.UNKNOWN.value
    magnifier_fires: str = Known.UNKNOWN.value
    by_wire: str = Known.UNKNOWN.value
    slots: str = ""

    @classmethod
    def of(cls, body: Body) -> BodyForm:
        """Fill the form from a body."""
        image = body.image
        values = {
            "name": body.name,
            "size": f"{image.width_mm:g} × {image.height_mm:g}",
            "medium": "film" if body.is_film else "digital",
            "width_px": str(image.width_px or ""),
        }
        for aid in body.aids:
            values |= _aid_texts(aid)
        values |= traits_texts(body.traits) | {"mount": body.mount.name if body.mount else ""}
        return cls(**values)

    def body(self, mounts: Mapping[str, Mount]) -> tuple[Body | None, dict[str, str]]:
        """Return the body, or None with an error sentence per field; ``mounts`` are by name."""
        reader = Reader()
        name = reader.take("name", lambda: required_name(self.name, "body name"), "")
        size = reader.take("size", lambda: parse_picture_size(self.size), (36.0, 24.0))
        width_px = None
        if self.medium != "film":
            width_px = reader.take("width_px", lambda: whole_number(self.width_px, "pixels across", 100, 60_000), 6000)
        aids = self._aids(reader)
        mount = reader.take("mount", lambda: named_mount(self.mount, mounts, "mount"), None) if self.mount else None
        traits = read_traits(self.model_dump(), reader)
        if reader.errors:
            return None, reader.errors
        try:
            return Body(name, ImageFormat(*size, width_px), tuple(aids), mount, traits), {}
        except WelotropeError as error:
            return None, {field_of(error, BodyForm, _FIELD_OF): error.sentence}

    def _aids(self, reader: Reader) -> list[Aid]:
        aids: list[Aid] = []
        magnification = reader.optional(
            "finder_magnification", self.finder_magnification, lambda text: number(text, "finder magnification")
        )
        screen = reader.optional(
            "screen_stop", self.screen_stop, lambda text: parse_stop(text, field="screen brightness stop")
        )
        deviation = reader.optional(
            "split_deviation", self.split_deviation, lambda text: number(text, "prism deviation in degrees")
        )
        microprism = reader.optional(
            "microprism_deviation", self.microprism_deviation, lambda text: number(text, "prism deviation in degrees")
        )
        if magnification is None and (self.screen_stop or self.split_deviation or self.microprism_deviation):
            reader.errors.setdefault(
                "finder_magnification",
                "Finder magnification: a screen is seen through a finder. Write how much it magnifies, such as 0.9.",
            )
        if magnification is not None and self.finder in WITHOUT_GLASS:
            reader.errors.setdefault(
                "finder_magnification",
                f"Finder magnification: read “{self.finder_magnification}”; its finder is “{self.finder}” and"
                " has no screen of glass to judge focus on. Leave it empty, or choose another finder.",
            )
        elif magnification is not None:
            aids.append(MatteScreen(magnification, screen if screen is not None else 2.8))
            if deviation is not None:
                aids.append(SplitImage(magnification, deviation))
            if microprism is not None:
                aids.append(Microprism(magnification, microprism))
        return aids + self._other_aids(reader) + self._live_aids(reader)

    def _other_aids(self, reader: Reader) -> list[Aid]:
        """Read rangefinder and focus indicator."""
        base = reader.optional(
            "rangefinder_base", self.rangefinder_base, lambda text: number(text, "rangefinder base", "mm")
        )
        enlarged = reader.optional(
            "rangefinder_magnification", self.rangefinder_magnification,
            lambda text: number(text, "rangefinder magnification", "×"),
        )  # fmt: skip
        reads = reader.optional(
            "rangefinder_reads", self.rangefinder_reads,
            lambda text: parse_distance(text, field="where the rangefinder coincides at 2 m"),
        )  # fmt: skip
        base_stop = reader.optional(
            "confirmation_stop", self.confirmation_stop,
            lambda text: parse_stop(text, field="base stop of the focus indicator"),
        )  # fmt: skip
        aids: list[Aid] = []
        if base is not None:
            aids.append(
                RangefinderPatch(base, 0.7 if enlarged is None else enlarged, 2000.0 if reads is None else reads)
            )
        if self.confirmation:
            aids.append(Confirmation() if base_stop is None else Confirmation(base_stop))
        return aids

    def _live_aids(self, reader: Reader) -> list[Aid]:
        if self.medium == "film":
            return []
        display = reader.optional(
            "display_px", self.display_px, lambda text: whole_number(text, "display pixels across", 160, 10_000)
        )
        steps: tuple[float, ...] = reader.take("steps", lambda: _steps(self.steps), ())
        levels: tuple[PeakingLevel, ...] = reader.take("peaking", lambda: _levels(self.peaking), ())
        pixels = display if display is not None else 1280
        aids: list[Aid] = []
        if steps:
            aids.append(MagnifiedView(pixels, steps))
        if levels:
            aids.append(Peaking(pixels, levels))
        return aids


_FIELD_OF = {"picture_width": "size", "picture_height": "size", "prism": "split_deviation"}


def _aid_texts(aid: Aid) -> dict[str, str]:
    if isinstance(aid, MatteScreen):
        return {"finder_magnification": f"{aid.finder_magnification:g}", "screen_stop": f"{aid.screen_stop:g}"}
    if isinstance(aid, SplitImage):
        return {"split_deviation": f"{aid.deviation_deg:g}"}
    if isinstance(aid, MagnifiedView):
        return {"display_px": str(aid.display_px), "steps": " ".join(f"{step:g}" for step in aid.steps)}
    if isinstance(aid, Microprism):
        return {"microprism_deviation": f"{aid.deviation_deg:g}"}
    if isinstance(aid, RangefinderPatch):
        return {
            "rangefinder_base": f"{aid.base_mm:g}", "rangefinder_magnification": f"{aid.finder_magnification:g}",
            "rangefinder_reads": "" if aid.reads_mm == 2000 else f"{aid.reads_mm / 1000:g} m",
        }  # fmt: skip
    if isinstance(aid, Confirmation):
        return {"confirmation": "yes", "confirmation_stop": f"{aid.base_stop:g}"}
    levels = ", ".join(f"{level.name} {level.threshold_per_px:g}" for level in aid.levels)
    return {"display_px": str(aid.display_px), "peaking": levels}


def _steps(text: str) -> tuple[float, ...]:
    parts = text.replace("×", " ").replace(",", " ").replace(";", " ").split()[:12]
    return tuple(sorted({number(part, "magnification step") for part in parts}))


def _levels(text: str) -> tuple[PeakingLevel, ...]:
    levels = []
    for part in [part.strip() for part in text.split(",") if part.strip()][:8]:
        name, _, threshold = part.rpartition(" ")
        value = number(threshold, "peaking level")
        if not name or not 0.001 <= value <= 2:
            raise UnreadableError(
                "peaking levels",
                part,
                "a level is a name and a threshold of 0.001 to 2",
                f"Write them like {USUAL_LEVELS}",
            )
        levels.append(PeakingLevel(name.strip()[:20], value))
    return tuple(levels)
