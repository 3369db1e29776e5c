"""Treatments worth trying side by side: for photographs, for drawings, and around one that was chosen."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any, Literal

from bisectum.core.course import CourseSettings
from bisectum.core.steps.colours.settings import OF_PHOTOGRAPHS, ColoursSettings

Fields = dict[str, Any]
Why = Literal["faces", "subject", "scene"]
# Code and count. Dark lines keep eyes and mouths; tones hold a scene together in which nothing stands out.
FIRST_CHOICE: dict[Why, tuple[str, int]] = {"faces": ("colours_drawn", 5), "subject": ("colours_drawn", 5), "scene": ("tones", 4)}
KEPT = ("spots", "light_marks", "smallest_width_mm", "bridge_mm")  # what a person has marked, and limits of the material


@dataclass(frozen=True, slots=True)
class Treatment:
    """The fields of the Colours, the Lines and the Pieces step that a treatment sets."""

    colours: Fields
    lines: Fields = field(default_factory=dict)
    pieces: Fields = field(default_factory=dict)

    def on(self, course: CourseSettings) -> CourseSettings:
        """A course with this treatment. Raises: pydantic.ValidationError."""
        return course.changed("colours", self.colours).changed("lines", self.lines).changed("pieces", self.pieces)


@dataclass(frozen=True, slots=True)
class Recipe:
    """A treatment with a name. code: stable, the interface translates it; values: of its sentence; why: what makes it the
    first choice, else empty."""

    code: str
    treatment: Treatment
    values: Fields = field(default_factory=dict)
    why: Why | Literal[""] = ""


def for_photograph(why: Why) -> tuple[Recipe, ...]:
    """What fits such a photograph first, then those that differ most: nobody waits for the last ones."""
    first = FIRST_CHOICE[why]
    found = (
        _photo("tones", treatment="lightness", count=4, drawn_top=False),
        _photo("dark", treatment="dark"),
        _photo("colours_drawn", count=5),
        _photo("colours", count=4, drawn_top=False),
        _photo("line_shade", treatment="line_shade", count=2),
        _photo("dark_even", treatment="dark", balance_mm=20),
        _photo("tones_drawn", treatment="lightness", count=4),
        _photo("silhouette", treatment="silhouette"),
        _photo("stencil", treatment="stencil", fine_mm=0.6, dark_share=18),
        _photo("colours_drawn", count=8),
        _photo("dark_bold", treatment="dark", fine_mm=0.8, dark_share=18),
        _photo("tones", treatment="lightness", count=6, drawn_top=False),
        _photo("colours_bold", count=4, drawn_top=False, fine_mm=1.0),
        _photo("dark_fine", treatment="dark", fine_mm=0.28, dark_share=25),
        _photo("tones_even", treatment="lightness", count=4, drawn_top=False, balance_mm=20),
        _photo("two_tones", treatment="lightness", count=2, drawn_top=False),
    )
    fitting = next(recipe for recipe in found if (recipe.code, recipe.values["count"]) == first)
    return replace(fitting, why=why), *(recipe for recipe in found if recipe is not fitting)


def for_drawing(count: int, speckled: bool = False) -> tuple[Recipe, ...]:
    """count: how many colours are distinct; speckled: it has more bits than anybody cuts, so its outline comes first."""
    found: Fields = {"kind": "auto", "count": None}
    fewer = sorted({max(1, count - 1), max(1, count // 2), min(2, count)} - {1, count}, reverse=True)
    outline = _photo("outline_only", treatment="silhouette", smallest_width_mm=2.0)
    return (
        *((outline,) if speckled else ()),
        Recipe("as_found", Treatment(found), {"count": count}),
        *(Recipe("fewer_colours", Treatment(found | {"count": own}), {"count": own}) for own in fewer),
        Recipe("one_colour", Treatment(found | {"kind": "line-drawing"})),
        Recipe("closer", Treatment(found, {"closeness_mm": 0.04})),
        Recipe("smoother", Treatment(found, {"closeness_mm": 0.25, "smoothing_mm": 0.4})),
        Recipe("larger_pieces", Treatment(found, pieces=_no_smaller(6.0))),
        *(() if speckled else (outline,)),
    )


def around(course: CourseSettings) -> tuple[Recipe, ...]:
    """More like a course's own treatment: each differs from it in one thing."""
    now = course.colours
    shared = {name: getattr(now, name) for name in ("kind", "count", *OF_PHOTOGRAPHS) if name not in KEPT}

    def like(code: str, **fields: Any) -> Recipe:
        return Recipe(code, Treatment(shared | fields))

    found = [
        like("finer", fine_mm=max(0.1, round(0.7 * now.fine_mm, 2))),
        like("bolder", fine_mm=min(3.0, round(1.5 * now.fine_mm, 2))),
        Recipe("fewer_pieces", Treatment(shared | {"fine_mm": min(3.0, round(1.2 * now.fine_mm, 2))},
                                         pieces=_no_smaller(min(400.0, max(3.0, 3 * course.pieces.areas()[0]))))),
        like("even_light", balance_mm=20.0 if now.balance_mm < 10 else 0.0),
    ]
    if now.treatment in ("dark", "line_shade", "stencil") or now.drawn_top:
        found += [like("lighter", dark_share=max(3.0, now.dark_share - 8)),
                  like("darker", dark_share=min(70.0, now.dark_share + 8))]
    if now.treatment in ("colours", "lightness"):
        count = now.count or 5
        found += [like("one_more", count=min(12, count + 1), thresholds=()),
                  like("one_less", count=max(2, count - 1), thresholds=()),
                  like("drawn" if not now.drawn_top else "not_drawn", drawn_top=not now.drawn_top)]
    if now.treatment == "lightness":
        found.append(like("evenly", spacing="evenly" if now.spacing == "best" else "best", thresholds=()))
    return tuple(recipe for recipe in found if recipe.treatment.on(course) != course)


def _no_smaller(mm2: float) -> Fields:
    """Neither pieces nor windows."""
    return {"smallest_mm2": mm2, "smallest_window_mm2": mm2}


def _photo(code: str, **fields: Any) -> Recipe:
    """With all other fields of photographs as they are by nature, but for what a person has marked."""
    plain = ColoursSettings().model_dump()
    shared = {name: plain[name] for name in OF_PHOTOGRAPHS if name not in KEPT}
    return Recipe(code, Treatment(shared | {"kind": "photo", "count": None} | fields), {"count": fields.get("count", 0)})
