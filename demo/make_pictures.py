"""Make the demo pictures: the open day of the small harbour at Quillhaven, an invented place.

Run from the project's root: .venv/bin/python demo/make_pictures.py
"""

from __future__ import annotations

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))

from berth_sign import berth_sign
from dog import dog
from kettle import kettle
from lighthouse import lighthouse
from lunch_crate import lunch_crate
from printed_mark import printed_mark
from tide_note import tide_note


def main() -> None:
    folder = Path(__file__).parent / "pictures"
    folder.mkdir(exist_ok=True)
    lighthouse().save(folder / "lighthouse.png", dpi=(96, 96))
    berth_sign().save(folder / "berth-sign.png")
    dog().save(folder / "dog.jpg", quality=92)
    kettle().save(folder / "kettle.jpg", quality=92)
    tide_note("tides").save(folder / "tide-note.jpg", quality=90, dpi=(254, 254))
    tide_note("buns").save(folder / "bun-note.jpg", quality=90, dpi=(254, 254))
    lunch_crate().save(folder / "lunch-crate.png", dpi=(127, 127))
    printed_mark().save(folder / "printed-mark.png", dpi=(1200, 1200))


if __name__ == "__main__":
    main()
