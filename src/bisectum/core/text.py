"""Words that people write, as they are kept: names, tags, finishes. Every door that takes words in goes through here."""

from __future__ import annotations

import re
import unicodedata

NOT_KEPT = ("Cc", "Cs")  # control characters, and halves of characters; joiners and no-break spaces are words' own
_BREAKS = re.compile(r"[\t\n\v\f\r\u2028\u2029]+")


def one_line(text: str) -> str:
    """A text on one line, composed (Unicode NFC), without what cannot be kept or seen; without space at its ends."""
    plain = _BREAKS.sub(" ", text)
    kept = "".join(character for character in plain if unicodedata.category(character) not in NOT_KEPT)
    return unicodedata.normalize("NFC", kept).strip()
