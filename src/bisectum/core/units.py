"""Lengths and areas as people write them, and as they stand in a file. Inside, everything is in millimetres."""

from __future__ import annotations

import re

from bisectum.core.errors import SettingsError

MM_PER_INCH = 25.4
MM_PER: dict[str, float] = {"mm": 1.0, "cm": 10.0, "in": MM_PER_INCH, '"': MM_PER_INCH}
RESOLUTION_MM = 0.001  # numbers in files are rounded to this
DEFAULT_DPI = 96.0  # the CSS reference pixel: W3C, CSS Values and Units Level 3, section 5.2

_QUANTITY = re.compile(r"^\s*(\d+(?:[.,]\d+)?|[.,]\d+)\s*([a-zA-Z\"]+)\s*(2|²)?\s*$")


def parse_length_mm(text: str) -> float:
    """"120mm", "4.7 in" or "12cm" in millimetres. Raises: SettingsError."""
    number, unit, squared = _parse(text)
    if squared:
        raise SettingsError(f"“{text}” is an area; a length such as 120mm or 4.7in is wanted.", text=text)
    return number * MM_PER[unit]


def parse_area_mm2(text: str) -> float:
    """"1mm2" or "0.01in2" in square millimetres. Raises: SettingsError."""
    number, unit, squared = _parse(text)
    if not squared:
        raise SettingsError(f"“{text}” is a length; an area such as 1mm2 is wanted.", text=text)
    return number * MM_PER[unit] ** 2


def _parse(text: str) -> tuple[float, str, bool]:
    match = _QUANTITY.match(text)
    if match is None or match.group(2).lower() not in MM_PER:
        raise SettingsError(f"“{text}” is no size; write a number and its unit, such as 120mm or 4.7in.", text=text)
    return float(match.group(1).replace(",", ".")), match.group(2).lower(), match.group(3) is not None


def short_number(value: float, decimals: int = 3) -> str:
    """The shortest decimal of `value` rounded to `decimals` places: no exponent, no trailing zeros, no minus zero."""
    text = f"{value:.{decimals}f}".rstrip("0").rstrip(".") if decimals else f"{value:.0f}"
    return "0" if text in ("-0", "") else text
