"""How files say what is done along a line, so that whoever reads one need not ask: by layer, by colour, or by pen.

SVG: the id of a group begins with the use. DXF: the name of a layer ends with it. Both have folds in a colour of their own,
which no other line of a DXF has. HPGL: each layer has three pens, in this order: its cuts, its folds, its pen lines.
"""

from __future__ import annotations

import re

from bisectum.core.model.stroke import Role

USES: tuple[Role, ...] = ("cut", "score", "draw")
FOLD_COLOUR = "#b3261e"
FOLD_INDEX, FOLD_INDEX_COLOUR = 12, "#a50000"  # the nearest of the 255 colours of DXF
_SAID: dict[str, Role] = {"cut": "cut", "score": "score", "fold": "score", "draw": "draw"}


def pen_of(layer: int, use: Role) -> int:
    """The pen of a layer and a use, from 1."""
    return len(USES) * layer + USES.index(use) + 1


def use_of_pen(pen: int) -> Role:
    return USES[(max(pen, 1) - 1) % len(USES)]


def use_of_line(group: str, colour: str) -> Role:
    """What is done along a line that is not filled. group: its group or layer; colour: "#rrggbb"."""
    said = re.search(r"^(cut|score|draw)-|_(fold|draw)$", group)
    if said:
        return _SAID[said.group(1) or said.group(2)]
    return "score" if colour in (FOLD_COLOUR, FOLD_INDEX_COLOUR) else "cut"
