"""Vector files that a program chokes on: small ones that swell, numbers out of this world, copies within copies."""

from __future__ import annotations

import io
import random
from collections.abc import Callable

from ezdxf import units  # type: ignore[attr-defined]
from ezdxf.document import Drawing
from ezdxf.filemanagement import new

HEAD = ('<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="{}" height="100mm" '
        'viewBox="0 0 100 100">')


def svg(body: str, width: str = "100mm") -> bytes:
    return f"{HEAD.format(width)}{body}</svg>".encode()


def copies_of_copies(times: int = 10, deep: int = 7) -> bytes:
    """A kilobyte that unfolds to 10⁶ shapes."""
    groups = ['<g id="a0"><rect width="1" height="1"/></g>']
    groups += [f'<g id="a{level}">' + f'<use xlink:href="#a{level - 1}"/>' * times + "</g>" for level in range(1, deep)]
    return svg("".join(groups) + f'<use xlink:href="#a{deep - 1}"/>')


def many_rules() -> bytes:
    rules = "".join(f".c{number}{{fill:#{number % 4096:03x}}}" for number in range(20_000))
    return svg(f"<style>{rules}</style>" + "".join(f'<rect class="c{number}" width="1" height="1"/>' for number in range(3_000)))


def a_circle_of_copies() -> bytes:
    return svg('<g id="a"><use xlink:href="#b"/></g><g id="b"><use xlink:href="#a"/></g><use xlink:href="#a"/>')


def dxf(fill: Callable[[Drawing], object]) -> bytes:
    drawing = new("R2000")
    drawing.units = units.MM
    fill(drawing)
    text = io.StringIO()
    drawing.write(text)
    return text.getvalue().encode()


def _blocks(drawing: Drawing) -> None:
    low = drawing.blocks.new("B0")
    low.add_line((0, 0), (1, 1))
    for level in range(1, 7):
        block = drawing.blocks.new(f"B{level}")
        for place in range(10):
            block.add_blockref(f"B{level - 1}", (place, 0))
    drawing.modelspace().add_blockref("B6", (0, 0))


def _array(drawing: Drawing) -> None:
    drawing.blocks.new("B0").add_line((0, 0), (1, 1))
    rows = {"row_count": 30_000, "column_count": 30_000, "row_spacing": 1, "column_spacing": 1}
    drawing.modelspace().add_blockref("B0", (0, 0), rows)


HOSTILE = {
    "copies of copies": copies_of_copies(), "a circle of copies": a_circle_of_copies(), "many rules": many_rules(),
    "blocks in blocks": dxf(_blocks), "a great array": dxf(_array),
    "no number": svg('<path d="M0 0L1e999 3L4 4Z"/>'), "far away": svg('<path d="M0 0L1e13 3L4 4Z"/>'),
    "a wide page": svg('<rect width="10" height="10"/>', "1e15mm"),
    "a page of no size": svg('<rect width="9" height="9"/>', "nanmm"),
    "deep groups": svg("<g>" * 30_000 + "</g>" * 30_000), "a long path": svg(f'<path d="M0 0{"l1 1-1-1" * 200_000}"/>'),
    "entities": b'<?xml version="1.0"?><!DOCTYPE svg [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><svg>&b;</svg>',
    "dxf of nothing": b"0\nSECTION\n2\nENTITIES\n0\nLINE\n10\nnan\n20\n1e400\n11\n5\n21\n5\n0\nENDSEC\n0\nEOF\n",
}
"""By what is wrong with them."""


def _solids(drawing: Drawing) -> None:
    space = drawing.modelspace()
    space.add_circle((50, 50), 10)
    space.add_polyface().append_faces([[(0, 0, 0), (1, 0, 0), (1, 1, 1)]])
    space.add_polymesh((3, 3))
    drawing.blocks.new("flat").add_line((0, 0), (9, 9))
    space.add_blockref("flat", (0, 0), {"xscale": 0, "yscale": 0, "zscale": 0})


SOLIDS = dxf(_solids)
"""A drawing with bodies in it, as ordinary 3-D files have, one circle, and a line in a block without a scale."""

PLAIN = svg('<g transform="rotate(9)"><path d="M1 1C2 3 4 5 6 7S8 9 9 9A3 4 0 1 1 2 2Z"/><circle r="4"/></g>'
            "<style>g{fill:red}</style>")
"""A sound drawing of curves, a shape, a transform and a rule."""


def damaged(data: bytes, chance: random.Random) -> bytes:
    """Some bytes of other values, a part left out, doubled, or put elsewhere."""
    content = bytearray(data)
    for _ in range(chance.choice((1, 1, 3, 20))):
        start = chance.randrange(len(content))
        stop = min(len(content), start + chance.choice((1, 4, 200, len(content) // 3)))
        how = chance.choice(("other", "out", "double", "number"))
        if how == "other":
            content[start] = chance.randrange(256)
        elif how == "out" and stop - start < len(content):
            del content[start:stop]
        elif how == "double":
            content[start:start] = content[start:stop]
        else:
            content[start : start + 4] = chance.choice((b"\xff\xff\xff\xff", b"1e99", b"-nan", b"\0\0\0\0"))
    return bytes(content)
