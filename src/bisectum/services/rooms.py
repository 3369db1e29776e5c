"""All services of one data folder."""

from __future__ import annotations

from typing import NamedTuple

from bisectum.services.bench import Bench
from bisectum.services.fonts import FontCase
from bisectum.services.scanner import Scanner
from bisectum.services.shelf import Shelf
from bisectum.services.stocks import StockRoom


class Rooms(NamedTuple):
    """folder: the data folder's own name."""

    bench: Bench
    stock_room: StockRoom
    font_case: FontCase
    shelf: Shelf
    scanner: Scanner
    folder: str
