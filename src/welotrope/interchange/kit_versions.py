"""Kit files of earlier versions brought up to this one, item by item.

Version 1 had the distances of both scales of a lens in one list of mm, ``engraved_mm``, and the rangefinder and focus
indicator of a body among its traits.
"""

from __future__ import annotations

from welotrope.core.json_values import JsonObject
from welotrope.core.units.distance import Unit

_RANGEFINDER = ("rangefinder_base_mm", "rangefinder_magnification", "rangefinder_reads_mm")
_INDICATOR = ("confirmation", "confirmation_stop")


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
