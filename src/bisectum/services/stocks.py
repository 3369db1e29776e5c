"""The use cases of the drawer: look into it, change it, bring it in and out, find what fits the layers of a job."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from bisectum.core.errors import SettingsError
from bisectum.core.formats.stocks_csv import MOST, parse_stocks, too_many, write_stocks
from bisectum.core.model.stock import Match, Stock, StockKind, match
from bisectum.core.steps.sheets.carriers import CARRIERS
from bisectum.core.steps.sheets.settings import Carrier
from bisectum.store.carriers import Carriers
from bisectum.store.flags import Flags
from bisectum.store.stocks import Drawer, Stocks
from bisectum.store.usage import Usage, Usages

DEMO_DRAWER = "demo_drawer"
# The demo's own; everything in it is invented.
DEMO: tuple[Stock, ...] = (
    Stock("Harbour blue", "adhesive vinyl", (46, 92, 122), 305, 305, True, "matt"),
    Stock("Night quay", "adhesive vinyl", (38, 50, 60), 305, 1200, True, "matt"),
    Stock("Sailcloth cream", "adhesive vinyl", (243, 233, 212), 305, 305, True, "matt"),
    Stock("Buoy red", "adhesive vinyl", (196, 66, 46), 305, 305, False, "glossy"),
    Stock("Lamp yellow", "adhesive vinyl", (240, 196, 84), 305, 305, True, "glossy"),
    Stock("Foam white", "heat-transfer vinyl", (250, 250, 248), 305, 500, True, "matt"),
    Stock("Deep tide", "heat-transfer vinyl", (28, 42, 68), 305, 500, True, "matt"),
    Stock("Rope kraft", "card", (194, 154, 107), 297, 420, True, ""),
    Stock("Chalk", "card", (245, 243, 236), 210, 297, False, ""),
)


@dataclass(frozen=True, slots=True)
class Matches:
    """matches: the nearest stock for each colour asked for; doubles: numbers of colours that would be cut from one stock;
    missing: names of stocks that are not on hand."""

    matches: tuple[Match | None, ...]
    doubles: tuple[tuple[int, ...], ...]
    missing: tuple[str, ...]


class StockRoom:
    """What somebody has: materials, and what these lie on."""

    def __init__(self, stocks: Stocks, carriers: Carriers, flags: Flags, usages: Usages) -> None:
        self._stocks, self._carriers, self._flags, self._usages = stocks, carriers, flags, usages

    def carriers(self) -> tuple[tuple[Carrier, ...], tuple[Carrier, ...]]:
        """Those that come with the program, and the person's own."""
        return tuple(CARRIERS.values()), self._carriers.all()

    def keep_carriers(self, carriers: Sequence[Carrier]) -> None:
        """Raises: SettingsError where one can be cut on nowhere, or on more than there is of it."""
        for carrier in carriers:
            if not (0 < carrier.usable_width_mm <= carrier.width_mm and 0 < carrier.usable_height_mm <= carrier.height_mm):
                raise SettingsError(f"The usable area of “{carrier.name}” has to lie within it, and to have a size.",
                                    code="carrier_sizes", carrier=carrier.name)
        self._carriers.replace(carriers)

    def used(self) -> dict[str, Usage]:
        """What files that were taken along took of each stock, by its id."""
        return self._usages.all()

    def drawer(self) -> Drawer:
        return self._stocks.drawer()

    def replace(self, expected: str, stocks: Sequence[Stock]) -> Drawer:
        """Raises: StocksError, ConflictError."""
        if len(stocks) > MOST:
            raise too_many()
        return self._stocks.replace(expected, stocks)

    def bring_in(self, expected: str, data: bytes, add: bool) -> Drawer:
        """Stocks from CSV, after those that are there or in their place. Raises: StocksError, ConflictError."""
        new = parse_stocks(data)
        there = self._stocks.drawer().stocks
        known = {replace(stock, id=""): stock for stock in there}
        kept = there if add else ()
        return self.replace(expected, (*kept, *(known.get(stock, stock) for stock in new if not add or stock not in known)))

    def as_csv(self) -> str:
        return write_stocks(self._stocks.drawer().stocks)

    def match(self, colours: Sequence[tuple[int, int, int]], kind: StockKind | None) -> Matches:
        stocks = self._stocks.drawer().stocks
        found = tuple(match(rgb, stocks, kind) for rgb in colours)
        by_stock: dict[int, list[int]] = {}
        for number, one in enumerate(found):
            if one is not None:
                by_stock.setdefault(one.number, []).append(number)
        missing = tuple(stocks[number].name for number in by_stock if not stocks[number].on_hand)
        return Matches(found, tuple(tuple(own) for own in by_stock.values() if len(own) > 1), missing)

    def lay_out_demo(self) -> None:
        """Fill an empty drawer with the demo's, once: one that was emptied by hand stays empty."""
        drawer = self._stocks.drawer()
        if not drawer.stocks and not self._flags.is_set(DEMO_DRAWER):
            self._stocks.replace(drawer.version, DEMO)
        self._flags.set(DEMO_DRAWER)
