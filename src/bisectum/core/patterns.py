"""How the names in a document are written, as regular expressions."""

from __future__ import annotations

HEX = r"^#[0-9a-fA-F]{6}$"
"""A colour as a person may write it."""
COLOUR = r"^#[0-9a-f]{6}$"
"""A colour as it is kept."""
COLOUR_KEY = r"^#[0-9a-f]{6}(-[2-9])?$"
"""A colour in a palette; a number behind it tells a second one of the same colour."""
ITEM_ID = r"^[a-z]+-[0-9]{1,9}$"
STOCK_ID = r"^stock-[0-9]{1,9}$"
CLOTH_ID = r"^cloth-[0-9]{1,9}$"
LAYER_ID = r"^layer-[0-9]{1,9}$"
SHA256 = r"^[0-9a-f]{64}$"
