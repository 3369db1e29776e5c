"""The Check step: what is to be looked at before an artwork is cut."""

from __future__ import annotations

from bisectum.core.model.artwork import Artwork
from bisectum.core.model.work import work_of
from bisectum.core.progress import SILENT, Progress
from bisectum.core.steps.check.flaw import Flaw
from bisectum.core.steps.check.of_layer import flaws_of_layer
from bisectum.core.steps.check.of_make import KindOf, flaw_of_work, flaws_of_layers
from bisectum.core.steps.check.settings import CheckSettings

RANKS = ("fault", "warning", "note")


def check_artwork(artwork: Artwork, kind_of: KindOf, settings: CheckSettings, progress: Progress = SILENT) -> list[Flaw]:
    """All findings, the gravest first, of one kind those farthest beyond their limit. kind_of: what a layer is cut from.

    Raises: Cancelled.
    """
    found: list[Flaw] = []
    for number, layer in enumerate(artwork.layers):
        progress.raise_if_cancelled()
        progress.report(number / len(artwork.layers))
        found += flaws_of_layer(layer, number, settings.of(kind_of(layer)))
    found += flaws_of_layers(artwork, kind_of)
    found += flaw_of_work(work_of(artwork), settings.evening_min)
    return sorted(_once(found), key=by_gravity)


def _once(flaws: list[Flaw]) -> list[Flaw]:
    """What several layers have at the same place, where they run on under each other, is told of the highest: it is seen."""
    seen: dict[tuple[str, float, float], Flaw] = {}
    rest = []
    for flaw in flaws:
        if flaw.finding.at is None:
            rest.append(flaw)
        else:
            seen[flaw.finding.code, round(flaw.finding.at[0], 2), round(flaw.finding.at[1], 2)] = flaw
    return [*seen.values(), *rest]


def by_gravity(flaw: Flaw) -> tuple[int, str, float]:
    """The key by which flaws are put in order, the gravest last of a kind and first of all kinds."""
    finding = flaw.finding
    share = finding.value / finding.limit if finding.value is not None and finding.limit else 0.0
    return RANKS.index(finding.severity), finding.code, share
