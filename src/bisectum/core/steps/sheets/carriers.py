"""The carriers that come with the program. Sizes of mats and rolls and their usable areas: common practice, no source."""

from __future__ import annotations

from bisectum.core.errors import SettingsError
from bisectum.core.steps.sheets.settings import SMALL_MAT, Carrier, inches
from bisectum.core.units import parse_length_mm

CARD_EDGE_MM = 3.0
ROLL_EDGE_MM = 6.35
LONGEST_MM = 3000.0


def _metric(name: str, width: float, height: float, edge: float, kind: str = "mat") -> Carrier:
    return Carrier.model_validate({
        "name": name, "kind": kind, "width_mm": width, "height_mm": height, "usable_width_mm": width - 2 * edge,
        "usable_height_mm": height - 2 * edge})


def roll(width: float, name: str = "") -> Carrier:
    """A roll of a width, mm."""
    return Carrier(name=name or f"Roll {width:.0f} mm", kind="roll", width_mm=width, height_mm=LONGEST_MM,
                   usable_width_mm=max(0.0, width - 2 * ROLL_EDGE_MM), usable_height_mm=LONGEST_MM - 2 * ROLL_EDGE_MM)


CARRIERS: dict[str, Carrier] = {
    "12x12": SMALL_MAT,
    "12x24": inches("12 × 24 in mat", 12, 24, 11.5, 23),
    "A4": _metric("A4 mat", 210, 297, 5),
    "A3": _metric("A3 mat", 297, 420, 5),
    "roll-305": roll(304.8, "12 in roll"),
    "roll-457": roll(457.2, "18 in roll"),
    "card-A5": _metric("A5 card", 148, 210, CARD_EDGE_MM, "card"),
    "card-A6": _metric("A6 card", 105, 148, CARD_EDGE_MM, "card"),
    "card-5x7": _metric("5 × 7 in card", 127, 177.8, CARD_EDGE_MM, "card"),
}
"""By the names that the command line knows."""


def carrier_named(text: str) -> Carrier:
    """One of the table, or "320x450mm" for a mat all of whose area can be used, or "roll-610". Raises: SettingsError."""
    if text in CARRIERS:
        return CARRIERS[text]
    if text.startswith("roll-") and text[5:].isdigit() and 0 < int(text[5:]) <= LONGEST_MM:
        return roll(float(text[5:]))
    sides = text.removesuffix("mm").removesuffix("in").split("x")
    unit = "in" if text.endswith("in") else "mm"
    if len(sides) == 2 and all(side.replace(".", "", 1).isdigit() for side in sides):
        width, height = (parse_length_mm(f"{side}{unit}") for side in sides)
        return _metric(text, width, height, 0.0)
    raise SettingsError(f"“{text}” is no mat; write {', '.join(CARRIERS)}, roll-WIDTH or a size such as 320x450mm.",
    code="no_carrier")
