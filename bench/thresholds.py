"""What hangs on each constant of the core: every one is made 30 % smaller and larger, and a short probe is run again.

The probe looks at lines (capitals, smooth shapes, strokes of a few pixels), colours, grounds and a few strangers. Constants that
change nothing are listed apart: they may go. Kernels that use a constant are compiled anew for it, so the whole takes hours.
Run: make thresholds, or bench/thresholds.py geom/straight steps/background --lines --grounds for the files whose paths hold one
of these words, and for these parts of the probe; --count tells how many constants there are.
"""

from __future__ import annotations

import ast
import json
import os
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
CORE = ROOT / "src/bisectum/core"
FACTORS = (0.7, 1.3)
PARTS = ("lines", "colours", "grounds", "battery")
SAME = 0.005  # relative change of a figure below which nothing has changed


def constants(path: Path) -> Iterator[tuple[str, int, int, str]]:
    """Named numbers of a module: name, line, column and the text of each literal."""
    for node in ast.parse(path.read_text()).body:
        if not isinstance(node, ast.Assign) or not all(isinstance(target, ast.Name | ast.Tuple) for target in node.targets):
            continue
        target = node.targets[0]
        parts = target.elts if isinstance(target, ast.Tuple) else [target]
        names = [part.id for part in parts if isinstance(part, ast.Name)]
        if not names or not names[0].isupper() or names[0] == "VERSION":
            continue
        literals = [part for part in ast.walk(node.value) if isinstance(part, ast.Constant) and type(part.value) in (int, float)]
        literals = [part for part in literals if part.value not in (0, 1)]
        text = path.read_text().splitlines()
        for number, literal in enumerate(literals):
            name = names[number] if len(names) == len(literals) else f"{names[0]}[{number}]" if len(literals) > 1 else names[0]
            yield name, literal.lineno, literal.col_offset, text[literal.lineno - 1].encode()[
                literal.col_offset : literal.end_col_offset].decode()


def changed(text: str, factor: float) -> str:
    value = ast.literal_eval(text) * factor
    if isinstance(ast.literal_eval(text), int):
        rounded = round(value)
        return str(rounded if rounded != ast.literal_eval(text) else rounded + (1 if factor > 1 else -1))
    return repr(value)


def probe(parts: list[str]) -> dict[str, float]:
    """A few figures of each kind, smaller is better. parts: which kinds."""
    sys.path[:0] = [str(ROOT), str(ROOT / "bench")]
    kinds = {"lines": of_lines, "colours": of_colours, "grounds": of_grounds, "battery": of_strangers}
    return {name: figure for part in parts for name, figure in kinds[part]().items()}


def of_lines() -> dict[str, float]:
    import numpy as np
    import shapely
    from accuracy import letter, measure

    from tests.core.test_smooth import SHAPES, drawn, grained, strokes, traced
    from tests.support.asserts import layer_polygons
    from tests.support.drawings import INK, painted
    from tests.support.strangers import compressed

    figures: dict[str, float] = {}
    for cap in (40, 80):
        rows = [measure(letter(c, cap), spoil) for c in "AGMRSQ" for spoil in (lambda rgba: rgba, compressed)]
        away = np.concatenate([row[0] for row in rows])
        figures |= {f"capitals {cap} mean": float(away.mean()), f"capitals {cap} 99 %": float(np.quantile(away, 0.99)),
                    f"capitals {cap} nodes": float(sum(row[2] for row in rows))}
    for name in ("egg", "spline", "rounded box", "S A"):
        rgba, _ = drawn(SHAPES[name], 600)
        figures[f"{name} nodes"] = float(traced(rgba, 150.0).node_count + traced(grained(rgba, 3.0), 150.0).node_count)
    for width in (3.0, 5.0):
        made = strokes(width, 0)
        got = shapely.make_valid(layer_polygons(traced(painted([(shapely.union_all(made), INK)], 160, 160))))
        figures[f"strokes {width:g} area"] = float(np.mean([abs(got.intersection(s.buffer(2)).area / s.area - 1) for s in made]))
    return figures


def of_colours() -> dict[str, float]:
    import numpy as np
    from colours import generated

    from tests.support.asserts import trace
    from tests.support.strangers import compressed

    figures = {"colours off, clean": 0.0, "colours off, JPEG": 0.0}
    for sample in generated(6):
        clean = np.dstack([sample.rgb, np.full(sample.rgb.shape[:2], 255, np.uint8)])
        for title, rgba in (("clean", clean), ("JPEG", compressed(clean, 75))):
            figures[f"colours off, {title}"] += abs(len(trace(rgba).label_map.palette.colours) - len(sample.truth))
    return figures


def of_grounds() -> dict[str, float]:
    import numpy as np

    from bisectum.core.model.picture import Picture
    from bisectum.core.steps.background.settings import BackgroundSettings
    from bisectum.core.steps.background.step import cleared_picture, find_background
    from tests.support.composites import composite, overlap
    from tests.support.scenes import before_photo, wall

    figures: dict[str, float] = {}
    scenes = [composite("photo", 3, 420), composite("photo", 6, 420), composite("noisy", 1, 420), wall(1, 420), wall(7, 420),
              wall(16, 420), before_photo(4, 3.0, 420), before_photo(0, 6.0, 420), before_photo(12, 0.0, 420)]
    for scene in scenes:
        picture = Picture(np.dstack([scene.rgb, np.full(scene.rgb.shape[:2], 255, np.uint8)]), 0.1)
        kept = cleared_picture(picture, find_background(picture, BackgroundSettings(enclosed="all")))[..., 3] > 127
        figures[f"{scene.name} off"] = 1.0 - overlap(kept, scene.mask)
    return figures


def of_strangers() -> dict[str, float]:
    from tests.support.battery import tried
    from tests.support.strangers import resized, strangers

    wanted = [stranger for stranger in strangers(2) if stranger.name in ("coffee", "horse", "page", "waves")]
    trials = [tried(stranger.name, resized(stranger.load(), 50_000), "lapped", 4, {}) for stranger in wanted]
    return {"faults": float(sum(len(trial.faults) for trial in trials)), "nodes": float(sum(trial.nodes for trial in trials))}


def probed(tree: Path, parts: list[str]) -> dict[str, float] | str:
    """The probe with the core of another tree."""
    environment = os.environ | {"PYTHONPATH": str(tree)}
    command = [sys.executable, __file__, "--probe", *parts]
    run = subprocess.run(command, capture_output=True, text=True, env=environment, timeout=900)
    lines = run.stdout.strip().splitlines()
    return json.loads(lines[-1]) if run.returncode == 0 and lines else (run.stderr.strip().splitlines() or ["nothing"])[-1]


def differences(before: dict[str, float], after: dict[str, float]) -> list[str]:
    told = []
    for name, old in before.items():
        new = after[name]
        if abs(new - old) > SAME * max(abs(old), 0.02):
            told.append(f"{name} {old:.3g} → {new:.3g}")
    return told


def main(words: list[str], parts: list[str]) -> None:
    with tempfile.TemporaryDirectory() as folder:
        tree = Path(folder) / "src"
        shutil.copytree(ROOT / "src", tree)
        before = probed(tree, parts)
        if isinstance(before, str):
            sys.exit(f"The probe fails as it is: {before}")
        idle, counted = [], 0
        for path in sorted(CORE.rglob("*.py")):
            place = str(path.relative_to(CORE))
            if words and not any(word in place for word in words):
                continue
            copy = tree / "bisectum/core" / place
            original = copy.read_text()
            for name, line, column, text in constants(path):
                counted += 1
                told: list[str] = []
                for factor in FACTORS:
                    rows = original.splitlines(keepends=True)
                    row = rows[line - 1].encode()
                    new = changed(text, factor)
                    rows[line - 1] = (row[:column] + new.encode() + row[column + len(text.encode()) :]).decode()
                    copy.write_text("".join(rows))
                    after = probed(tree, parts)
                    found = [after] if isinstance(after, str) else differences(before, after)
                    more = f"; and {len(found) - 6} more" if found[6:] else ""
                    told += [f"  × {factor}: {'; '.join(found[:6])}{more}"] if found else []
                copy.write_text(original)
                print(f"{place}: {name} = {text}" + (" changes nothing here" if not told else ""), *told, sep="\n", flush=True)
                idle += [] if told else [f"{place}: {name}"]
        print(f"\n{len(idle)} of {counted} constants change nothing here:", *idle, sep="\n")


def count() -> None:
    """How many constants there are, folder by folder."""
    folders: dict[str, int] = {}
    for path in CORE.rglob("*.py"):
        place = re.sub(r"/[^/]*$", "", str(path.relative_to(CORE)))
        folders[place] = folders.get(place, 0) + sum(1 for _ in constants(path))
    print(*(f"{place} {number}" for place, number in sorted(folders.items()) if number), sep="\n")


if __name__ == "__main__":
    if "--probe" in sys.argv:
        print(json.dumps(probe(sys.argv[2:])))
    elif "--count" in sys.argv:
        count()
    else:
        chosen = [word[2:] for word in sys.argv[1:] if word[2:] in PARTS and word.startswith("--")]
        main([word for word in sys.argv[1:] if not word.startswith("--")], chosen or list(PARTS))
