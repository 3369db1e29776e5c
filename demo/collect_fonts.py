"""Takes the shipped fonts from their npm packages: `python demo/collect_fonts.py FOLDER`, FOLDER being node_modules/@fontsource.

Every package has a file for each range of characters; they are kept apart, as plain TrueType, with the font's licence.
"""

from __future__ import annotations

import sys
from pathlib import Path

from fontTools.ttLib import TTFont

TARGET = Path(__file__).resolve().parents[1] / "src/bisectum/fonts"
RANGES = ("latin", "latin-ext", "cyrillic", "greek", "hebrew", "arabic")
WEIGHTS = {
    "rubik": 600, "noto-sans": 600, "bebas-neue": 400, "zilla-slab": 700, "alfa-slab-one": 400, "nunito": 800,
    "varela-round": 400, "pacifico": 400, "lobster": 400, "dancing-script": 700, "stardos-stencil": 700,
    "righteous": 400, "abril-fatface": 400,
    "caveat": 700, "patrick-hand": 400, "amiri": 700,
}


def main() -> None:
    packages = Path(sys.argv[1])
    for name, weight in WEIGHTS.items():
        folder = TARGET / name
        folder.mkdir(parents=True, exist_ok=True)
        for characters in RANGES:
            file = packages / name / "files" / f"{name}-{characters}-{weight}-normal.woff"
            if file.exists():
                font = TTFont(file)
                font.flavor = None
                font.save(folder / f"{characters}.ttf")
        (folder / "LICENSE").write_text((packages / name / "LICENSE").read_text())
        print(name, sum(file.stat().st_size for file in folder.iterdir()) // 1024, "KB")


if __name__ == "__main__":
    main()
