"""How the stand-in cutter moves in a material. From memory, for a small machine with a drag blade; nobody has measured them."""

from __future__ import annotations

from dataclasses import dataclass

from bisectum.core.model.stock import StockKind


@dataclass(frozen=True, slots=True)
class Machine:
    """speed, travel: mm/s with the blade down and up; acceleration: mm/s²; lift_s: to lift or lower the blade; offset: how
    far the blade's tip trails behind the middle it turns about, mm; overcut: how far a closed line is followed beyond its
    start, mm."""

    speed: float
    travel: float = 200.0
    acceleration: float = 1000.0
    lift_s: float = 0.12
    offset: float = 0.25
    overcut: float = 0.3


MACHINES: dict[StockKind, Machine] = {
    "adhesive vinyl": Machine(80.0),
    "heat-transfer vinyl": Machine(60.0),
    "flock": Machine(40.0),
    "card": Machine(25.0, acceleration=600.0, lift_s=0.2),
    "other": Machine(50.0),
}
