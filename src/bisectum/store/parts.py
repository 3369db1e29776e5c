"""Documents in parts, each kept once under the digest of its text.

A part is JSON. Where another part belongs, it holds {"$part": digest}; where a long list belongs, {"$list": digest} of a
node, a list of digests of nodes or of members. Nodes hold few digests each, so one more member of a list of thousands costs
itself and a node on each level, not the whole list again.
"""

from __future__ import annotations

import hashlib
import json
from collections import OrderedDict
from collections.abc import Callable, Iterable
from typing import Any

from sqlalchemy import select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session

from bisectum.core.errors import NotFoundError
from bisectum.core.job import JobDocument
from bisectum.core.steps.settings import StepSettings
from bisectum.store.tables import PartRow

PART, LIST = "$part", "$list"
LONG = 8  # members from which a list is kept apart
NODE = 24  # digests in a node
AT_ONCE = 500  # parts asked for in one statement
MOST_KNOWN = 200_000


class Parts:
    """Writes documents into parts and reads them back. Remembers which parts are kept already."""

    def __init__(self) -> None:
        self._known: OrderedDict[bytes, None] = OrderedDict()

    def put(self, session: Session, document: JobDocument) -> tuple[dict[str, Any], list[bytes]]:
        """Keep a document. Returns its root, which is not a part itself, and the parts to be told to `kept` once the
        transaction is on the disk."""
        new: dict[bytes, str] = {}
        root = {name: self._packed(getattr(document, name), new) for name in type(document).model_fields}
        if new:
            rows = [{"digest": digest, "text": text} for digest, text in new.items()]
            session.execute(insert(PartRow).on_conflict_do_nothing(), rows)
        return root, list(new)

    def kept(self, digests: Iterable[bytes]) -> None:
        """Remember parts that are on the disk for good, after the transaction that wrote them."""
        for digest in digests:
            self._known[digest] = None
        while len(self._known) > MOST_KNOWN:
            self._known.popitem(last=False)

    def forget(self) -> None:
        """Know nothing any more, after parts were taken out."""
        self._known.clear()

    def _packed(self, value: Any, new: dict[bytes, str]) -> Any:
        if isinstance(value, StepSettings):
            fields = {name: self._packed(getattr(value, name), new) for name in type(value).model_fields}
            return {PART: self._kept_as(json.dumps(fields, separators=(",", ":")), new)}
        if isinstance(value, tuple) and value and isinstance(value[0], StepSettings):
            if _holds_parts(value[0]):
                return [self._packed(one, new) for one in value]
            if len(value) < LONG:
                return [one.model_dump(mode="json") for one in value]
            return {LIST: self._tree([self._member(one, new) for one in value], new)}
        if isinstance(value, tuple):
            return [self._packed(one, new) for one in value]
        return value

    def _member(self, one: StepSettings, new: dict[bytes, str]) -> str:
        """A member of a long list; its text is only made where it is not known by its own digest."""
        digest = bytes.fromhex(one.digest[:32])
        if digest not in self._known and digest not in new:
            new[digest] = one.model_dump_json()
        return digest.hex()

    def _tree(self, digests: list[str], new: dict[bytes, str]) -> str:
        level = 0
        while True:
            nodes = [digests[start : start + NODE] for start in range(0, len(digests), NODE)]
            digests = [self._kept_as(json.dumps([level, *node]), new) for node in nodes]
            if len(digests) == 1:
                return digests[0]
            level += 1

    def _kept_as(self, text: str, new: dict[bytes, str]) -> str:
        digest = hashlib.sha256(text.encode()).digest()[:16]
        if digest not in self._known:
            new[digest] = text
        return digest.hex()


def _holds_parts(value: StepSettings) -> bool:
    return any(isinstance(getattr(value, name), StepSettings) for name in type(value).model_fields)


def unpacked(session: Session, root: dict[str, Any], lists: bool = True) -> dict[str, Any]:
    """The whole document behind a root. lists: without them, long lists come back empty. Raises: NotFoundError."""
    texts: dict[str, Any] = {}

    def missing(value: Any) -> set[str]:
        found: set[str] = set()
        _visit(value, lambda kind, digest: found.add(digest) if digest not in texts and (lists or kind == PART) else None)
        return found

    wanted = missing(root)
    while wanted:
        fetched = _fetch(session, wanted)
        texts |= fetched
        wanted = set()
        for value in fetched.values():
            if isinstance(value, list) and value and isinstance(value[0], int):  # a node
                wanted |= {digest for digest in value[1:] if digest not in texts}
            else:
                wanted |= missing(value)
    result: dict[str, Any] = _whole(root, texts, lists)
    return result


def digests_in(value: Any) -> set[str]:
    """The digests that a part or a root names directly."""
    found: set[str] = set()
    if isinstance(value, list) and value and isinstance(value[0], int):
        return set(value[1:])
    _visit(value, lambda _, digest: found.add(digest))
    return found


def named_by(session: Session, digests: set[str]) -> set[str]:
    """The digests that these parts name directly."""
    found: set[str] = set()
    names = [bytes.fromhex(digest) for digest in digests]
    for start in range(0, len(names), AT_ONCE):
        for text in session.scalars(select(PartRow.text).where(PartRow.digest.in_(names[start : start + AT_ONCE]))):
            if "$" in text or text.startswith("["):
                found |= digests_in(json.loads(text))
    return found


def _visit(value: Any, see: Callable[[str, str], object]) -> None:
    if isinstance(value, dict):
        for kind in (PART, LIST):
            if kind in value and len(value) == 1:
                see(kind, value[kind])
                return
        for own in value.values():
            _visit(own, see)
    elif isinstance(value, list) and value and isinstance(value[0], dict | list):
        for own in value:
            _visit(own, see)


def _fetch(session: Session, digests: set[str]) -> dict[str, Any]:
    """Parts as JSON values, by digest. Raises: NotFoundError where one is not there."""
    result: dict[str, Any] = {}
    names = sorted(digests)
    for start in range(0, len(names), AT_ONCE):
        asked = [bytes.fromhex(name) for name in names[start : start + AT_ONCE]]
        for digest, text in session.execute(select(PartRow.digest, PartRow.text).where(PartRow.digest.in_(asked))):
            result[digest.hex()] = json.loads(text)
    if len(result) < len(digests):
        raise NotFoundError("A part of this job is missing from the data folder.", code="part_missing")
    return result


def _whole(value: Any, texts: dict[str, Any], lists: bool) -> Any:
    if isinstance(value, dict):
        if PART in value and len(value) == 1:
            return _whole(texts[value[PART]], texts, lists)
        if LIST in value and len(value) == 1:
            return _members(value[LIST], texts, lists) if lists else []
        return {name: _whole(own, texts, lists) for name, own in value.items()}
    if isinstance(value, list) and value and isinstance(value[0], dict | list):
        return [_whole(own, texts, lists) for own in value]
    return value


def _members(digest: str, texts: dict[str, Any], lists: bool) -> list[Any]:
    level, *digests = texts[digest]
    if level == 0:
        return [texts[own] for own in digests]
    return [member for own in digests for member in _members(own, texts, lists)]
