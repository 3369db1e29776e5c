"""Documents in parts, each kept once under the digest of its text.

A part is JSON. Where another part belongs, it holds {"$part": digest}. Where a long list belongs, it holds {"$list": digest,
"$of": name}: the digest of a node, and the class of the members. A node is a list of digests of nodes or of members. Nodes
hold few digests each, so one more member of a list of thousands costs itself and a node on each level, not the whole list.
"""

from __future__ import annotations

import hashlib
import json
from collections import OrderedDict
from collections.abc import Callable, Iterable, MutableMapping
from functools import cache
from typing import Any

from pydantic_core import from_json
from sqlalchemy import select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session

from bisectum.core.errors import DocumentError, NotFoundError
from bisectum.core.job import JobDocument
from bisectum.core.steps.settings import StepSettings
from bisectum.store.tables import PartRow

PART, LIST, OF = "$part", "$list", "$of"
LONG = 8  # members from which a list is kept apart
NODE = 24  # digests in a node
AT_ONCE = 500  # parts asked for in one statement
MOST_KNOWN = 200_000
MOST_MEMBERS = 30_000


class Parts:
    """Writes documents into parts and reads them back. Remembers which parts are kept already."""

    def __init__(self) -> None:
        self._known: OrderedDict[bytes, None] = OrderedDict()
        self._members: OrderedDict[str, StepSettings] = OrderedDict()

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
            return {LIST: self._tree([self._member(one, new) for one in value], new), OF: type(value[0]).__name__}
        if isinstance(value, tuple):
            return [self._packed(one, new) for one in value]
        return value

    def _member(self, one: StepSettings, new: dict[bytes, str]) -> str:
        """A member of a long list; its text is only made where it is not known by its own digest."""
        name = one.digest
        self._members[name] = one
        digest = bytes.fromhex(name)
        if digest not in self._known and digest not in new:
            new[digest] = one.model_dump_json()
        return name

    def read(self, session: Session, root: dict[str, Any]) -> dict[str, Any]:
        """The whole document behind a root. Members of long lists come validated: as they were, if they were seen before."""
        return unpacked(session, root, members=self._members)

    def remember(self, document: JobDocument) -> None:
        """Keep the members of a document's long lists for the next one that has them, too."""
        for item in document.pictures:
            for members in (item.course.background.touches, item.course.lines.corrections, item.course.colours.palette_changes,
                            item.course.pieces.changes):
                if len(members) >= LONG:
                    self._members.update((one.digest, one) for one in members)
        while len(self._members) > MOST_MEMBERS:
            self._members.popitem(last=False)

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


def unpacked(
    session: Session, root: dict[str, Any], lists: bool = True, members: MutableMapping[str, Any] | None = None
) -> dict[str, Any]:
    """The whole document behind a root.

    lists: without them, long lists come back empty. members: known ones of long lists, by digest, which need not be read; new
    ones are added. Without it they come as plain values. Raises: NotFoundError; DocumentError where it is damaged.
    """
    try:
        whole = _Reader(session, lists, members).whole(root)
    except (ValueError, LookupError, TypeError, AttributeError, RecursionError) as error:
        raise _damaged() from error
    if not isinstance(whole, dict):
        raise _damaged()
    return whole


def _damaged() -> DocumentError:
    return DocumentError("What is kept of this job is damaged, so it cannot be read any more. Its pictures are kept.",
                         code="document_damaged")


class _Reader:
    """Reads a document level by level, so that each level takes few statements."""

    def __init__(self, session: Session, lists: bool, members: MutableMapping[str, Any] | None) -> None:
        self._session, self._lists, self._members = session, lists, members
        self._values: dict[str, Any] = {}

    def whole(self, root: Any) -> Any:
        """The root with every part in its place."""
        wanted = self._named(root)
        while wanted:
            fetched = {digest: from_json(text) for digest, text in _texts(self._session, wanted).items()}
            self._values |= fetched
            wanted = {name for value in fetched.values() for name in self._named(value)} - self._values.keys()
        return self._filled(root)

    def _named(self, value: Any) -> set[str]:
        """The parts and nodes that a value names; members of lists are fetched list by list."""
        if isinstance(value, list) and value and isinstance(value[0], int):
            return set(value[1:]) if value[0] else set()
        found: set[str] = set()
        _visit(value, lambda kind, digest: found.add(digest) if self._lists or kind == PART else None)
        return found

    def _filled(self, value: Any) -> Any:
        if isinstance(value, dict):
            if PART in value:
                return self._filled(self._values[value[PART]])
            if LIST in value:
                return self._list(self._leaves(value[LIST]), value[OF]) if self._lists else []
            return {name: self._filled(own) for name, own in value.items()}
        if isinstance(value, list) and value and isinstance(value[0], dict | list):
            return [self._filled(own) for own in value]
        return value

    def _leaves(self, digest: str) -> list[str]:
        level, *digests = self._values[digest]
        return digests if level == 0 else [leaf for own in digests for leaf in self._leaves(own)]

    def _list(self, digests: list[str], kind: str) -> list[Any]:
        """The members of a list."""
        if self._members is None:
            texts = _texts(self._session, set(digests))
            return [from_json(texts[digest]) for digest in digests]
        new = _texts(self._session, {digest for digest in digests if digest not in self._members})
        model = _models()[kind]
        for digest, text in new.items():
            self._members[digest] = model.model_validate_json(text).with_digest(digest)
        return [self._members[digest] for digest in digests]


@cache
def _models() -> dict[str, type[StepSettings]]:
    """The kinds of settings, by the names of their classes."""
    found: dict[str, type[StepSettings]] = {}
    waiting = [StepSettings]
    while waiting:
        kind = waiting.pop()
        found[kind.__name__] = kind
        waiting += kind.__subclasses__()
    return found


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
            if kind in value:
                see(kind, value[kind])
                return
        for own in value.values():
            _visit(own, see)
    elif isinstance(value, list) and value and isinstance(value[0], dict | list):
        for own in value:
            _visit(own, see)


def _texts(session: Session, digests: set[str]) -> dict[str, str]:
    """The texts of parts, by digest. Raises: NotFoundError where one is not there."""
    result: dict[str, str] = {}
    names = sorted(digests)
    for start in range(0, len(names), AT_ONCE):
        asked = [bytes.fromhex(name) for name in names[start : start + AT_ONCE]]
        for digest, text in session.execute(select(PartRow.digest, PartRow.text).where(PartRow.digest.in_(asked))):
            result[digest.hex()] = text
    if len(result) < len(digests):
        raise NotFoundError("A part of this job is missing from the data folder.", code="part_missing")
    return result
