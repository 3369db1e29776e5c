"""Stocks as CSV, per RFC 4180: a header line, commas, quotes doubled inside quotes, lines ending in CR LF.

Columns: name, kind, colour, width_mm, height_mm, on_hand, finish, patterned; in any order, the last three may be missing. What a
spreadsheet would run as a formula is written behind an apostrophe, which reading takes off again.
"""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Iterable

from bisectum.core.errors import InputError
from bisectum.core.model.stock import KINDS, LARGEST_MM, LONGEST_NAME, Stock
from bisectum.core.raster.colour import rgb_of
from bisectum.core.text import one_line

COLUMNS = ("name", "kind", "colour", "width_mm", "height_mm", "on_hand", "finish", "patterned")
NEEDED = COLUMNS[:5]
YES, NO = ("yes", "true", "1"), ("no", "false", "0")
MOST = 2000
RUN = ("=", "+", "-", "@")  # what a spreadsheet takes a formula by


class StocksError(InputError):
    code = "stocks"


def write_stocks(stocks: Iterable[Stock]) -> str:
    """The text of a CSV file, header first."""
    text = io.StringIO(newline="")
    writer = csv.writer(text, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    for stock in stocks:
        writer.writerow([_harmless(stock.name), stock.kind, stock.colour, f"{stock.width_mm:g}", f"{stock.height_mm:g}",
                         YES[0] if stock.on_hand else NO[0], _harmless(stock.finish), YES[0] if stock.patterned else NO[0]])
    return text.getvalue()


def _harmless(text: str) -> str:
    return f"'{text}" if text.lstrip("'").startswith(RUN) else text


def _plain(cell: str) -> str:
    """A cell without what has no place in a name: the apostrophe of _harmless, characters that cannot be seen."""
    text = one_line(cell)
    return text[1:] if text.startswith("'") and text.lstrip("'").startswith(RUN) else text


def parse_stocks(data: bytes) -> tuple[Stock, ...]:
    """Raises: StocksError with the number of the line that is wrong."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise StocksError("This file of stocks is not written in UTF-8; save it so and bring it in again.") from error
    reader = csv.reader(io.StringIO(text, newline=""), strict=True)
    result: list[Stock] = []
    try:
        columns = _columns(next(reader, []))
        for row in reader:
            if any(cell.strip() for cell in row):
                result.append(_stock(row, columns, reader.line_num))
            if len(result) > MOST:
                raise too_many()
    except csv.Error as error:
        raise _wrong(reader.line_num, f"the quotes do not match ({error})") from error
    return tuple(result)


def too_many() -> StocksError:
    return StocksError(f"A drawer holds at most {MOST} materials; take some out first.", code="stocks_too_many", most=MOST)


def _columns(header: list[str]) -> dict[str, int]:
    names = [name.strip().lower() for name in header]
    missing = [name for name in NEEDED if name not in names]
    if missing:
        raise _wrong(1, f"the column {missing[0]} is missing; the first line names the columns: {', '.join(COLUMNS)}")
    return {name: names.index(name) for name in COLUMNS if name in names}


def _stock(row: list[str], columns: dict[str, int], line: int) -> Stock:
    if len(row) <= max(columns[name] for name in NEEDED):
        raise _wrong(line, f"there are {len(row)} values where the first line names more columns")
    cells = {name: _plain(row[place]) if place < len(row) else "" for name, place in columns.items()}
    if not cells["name"] or len(cells["name"]) > LONGEST_NAME:
        raise _wrong(line, f"the name has to have 1 to {LONGEST_NAME} characters")
    kind = next((known for known in KINDS if known == cells["kind"].lower()), None)
    if kind is None:
        raise _wrong(line, f"“{cells['kind']}” is no kind; write {', '.join(KINDS[:-1])} or {KINDS[-1]}")
    return Stock(cells["name"], kind, _colour(cells["colour"], line), _size(cells["width_mm"], line),
                 _size(cells["height_mm"], line), _yes(cells.get("on_hand", ""), line), cells.get("finish", "")[:LONGEST_NAME],
                 _yes(cells.get("patterned", "") or NO[0], line))


def _colour(text: str, line: int) -> tuple[int, int, int]:
    try:
        return rgb_of(text)
    except ValueError as error:
        raise _wrong(line, f"“{text}” is no colour; write one such as #2f5d7c") from error


def _size(text: str, line: int) -> float:
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not 0 < value <= LARGEST_MM:
        raise _wrong(line, f"“{text}” is no size; write millimetres, such as 305")
    return value


def _yes(text: str, line: int) -> bool:
    if text.lower() in (*YES, ""):
        return True
    if text.lower() in NO:
        return False
    raise _wrong(line, f"“{text}” is neither yes nor no")


def _wrong(line: int, what: str) -> StocksError:
    return StocksError(f"Line {line} of the stocks: {what}.", line=line)

