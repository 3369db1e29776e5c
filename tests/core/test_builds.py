"""How layers meet: what each build puts where, held against flat pieces and shapely's booleans."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import shapely

from bisectum.core.course import CourseSettings, Source
from bisectum.core.job import new_document
from bisectum.core.make import MakeResult, run_make
from bisectum.core.older import read_document
from bisectum.core.steps.layers.thickness import thickest
from tests.support.asserts import layer_polygons
from tests.support.drawings import circle, painted, star, turned_square
from tests.support.strangers import icon_bodies, icon_picture

DOCUMENTS = Path(__file__).parents[1] / "documents"
LIGHTHOUSE = Path(__file__).parents[2] / "demo/pictures/lighthouse.png"
BLUE, RED, GREEN = (40, 80, 180), (210, 40, 40), (60, 160, 60)
ONE = "1" * 64
LAP = 0.5


def free_shapes() -> np.ndarray:
    """A square, a disc and a star that stand free beside each other."""
    return painted([(turned_square(60, 60, 80, 0), BLUE), (circle(170, 60, 42), RED), (star(120, 170, 60, 24), GREEN)], 240, 240)


def pictures() -> dict[str, np.ndarray]:
    from PIL import Image

    icons = {name: icon_picture(body, 240) for name, body in icon_bodies(5)}
    return {"free shapes": free_shapes(), "lighthouse": np.asarray(Image.open(LIGHTHOUSE).convert("RGBA")), **icons}


PICTURES = pictures()
CACHE: dict[str, Any] = {}


def made(name: str, **layers: Any) -> MakeResult:
    digest = f"{abs(hash(name)):064x}"[-64:]
    document = new_document(digest, "a.png", "Free", CourseSettings()).with_make_step("layers", {"lap_mm": LAP, **layers})
    result = run_make({digest: Source(PICTURES[name], 0.5, digest)}, document, CACHE)
    result.artwork.check()
    return result


def shapes(result: MakeResult) -> list[shapely.Geometry]:
    return [shapely.make_valid(layer_polygons(layer, 0.001)) for layer in result.artwork.layers]


@pytest.mark.parametrize("name", PICTURES)
def test_a_film_of_whole_layers_lies_only_where_something_lies_on_it(name: str) -> None:
    """Hidden parts are covered by what lies above, hang together with what is seen, and lie within its outline or the lap."""
    flush, whole = shapes(made(name, build="flush")), shapes(made(name, build="whole"))
    for number, (seen, film) in enumerate(zip(flush, whole, strict=True)):
        slack = 0.005 * max(1.0, seen.length)
        assert shapely.difference(seen, film).area < slack
        hidden = shapely.difference(film, seen)
        above = shapely.union_all(flush[number + 1 :]) if number + 1 < len(flush) else shapely.Point()
        assert shapely.difference(hidden, above).area < slack
        filled = shapely.union_all([shapely.Polygon(part.exterior) for part in shapely.get_parts(seen)])
        assert shapely.difference(film, filled.buffer(LAP + 0.02)).area < slack
        assert all(shapely.intersection(part, seen).area > 1e-4 for part in shapely.get_parts(film))
        # No hole is left in a piece that is covered all over.
        for part in shapely.get_parts(film):
            for ring in part.interiors:
                hole = shapely.Polygon(ring)
                assert hole.area < 0.05 or shapely.difference(hole, above.buffer(0.01)).area > 1e-3


def test_shapes_that_stand_free_have_no_twin_below() -> None:
    flush, whole, stacked = (shapes(made("free shapes", build=build)) for build in ("flush", "whole", "stacked"))
    assert [one.area for one in whole] == pytest.approx([one.area for one in flush], rel=1e-9)
    assert stacked[0].area == pytest.approx(sum(one.area for one in flush), rel=1e-6)


def test_the_demo_is_three_films_thick_at_most() -> None:
    assert thickest(made("lighthouse").artwork).films <= 3 < thickest(made("lighthouse", build="stacked").artwork).films


def test_film_that_is_pressed_on_is_flush_by_itself() -> None:
    pressed = made("lighthouse", material="heat-transfer vinyl")
    assert pressed.artwork.build == "flush" and thickest(pressed.artwork).films == 1
    assert made("lighthouse", material="card").artwork.build == "whole"
    flock = {"id": "stock-1", "name": "Flock", "kind": "flock", "colour": "#102030", "width_mm": 300, "height_mm": 500}
    lowest = made("lighthouse", build="flush").artwork.layers[0]
    anchors = [{"item": hold.item, "colour": hold.colour, "x": hold.x, "y": hold.y} for hold in lowest.holds]
    mixed = made("lighthouse", records=[{"id": "", "anchors": anchors, "stock": flock}])
    flush, whole, both = (shapes(one) for one in (made("lighthouse", build="flush"), made("lighthouse"), mixed))
    assert both[0].area == pytest.approx(flush[0].area) and both[1].area == pytest.approx(whole[1].area)


def test_older_jobs_keep_their_look() -> None:
    """What was called whole, and was so where nothing was said, is called stacked."""
    data = json.loads((DOCUMENTS / "version-3.json").read_text())
    for before, now in (("whole", "stacked"), ("lapped", "lapped"), ("flush", "flush"), (None, "stacked")):
        layers = {key: value for key, value in data["make"]["layers"].items() if key != "build"}
        layers |= {"build": before} if before else {}
        layers["meetings"] = [{"lower": "layer-1", "upper": "layer-2", "build": "whole"}]
        document = read_document({**data, "make": {**data["make"], "layers": layers}})
        assert document.make.layers.build == now and document.make.layers.meetings[0].build == "stacked"
