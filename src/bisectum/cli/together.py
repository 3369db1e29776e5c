"""Options of trace that rule each other out: what would do nothing is refused, not passed over."""

from __future__ import annotations

import typer

from bisectum.core.errors import SettingsError

RULED_OUT = (
    ("--reach", "--background keep", "then nothing is taken away"),
    ("--enclosed", "--background keep", "then nothing is taken away"),
    ("--lap", "--build flush", "then layers meet edge to edge"),
    ("--hairline", "--outline", "that is a line already"),
    ("--perforate", "--score none", "then nothing is folded"),
    ("--score none", "--lines filled", "then there are no lines to fold along"),
    ("--perforate", "--lines filled", "then there are no lines to fold along"),
    ("--treatment", "--kind clip-art", "only a photo is treated"),
    ("--treatment", "--kind line-drawing", "only a photo is treated"),
    ("--treatment", "--kind handwriting", "only a photo is treated"),
    ("--treatment", "--kind screenshot", "only a photo is treated"),
)
"""An option, with what it does nothing beside, and why."""


def refuse_ruled_out(context: typer.Context) -> None:
    """Raises: SettingsError naming two options of which one would do nothing."""
    sources = [(own, context.get_parameter_source(own.name or "")) for own in context.command.params]
    written = [own for own, source in sources if source is not None and source.name == "COMMANDLINE"]
    given = {own.opts[-1] for own in written} | {f"{own.opts[-1]} {context.params[own.name or '']}" for own in written}
    for option, other, why in RULED_OUT:
        if option in given and other in given:
            raise SettingsError(f"{option} does nothing beside {other}: {why}. Leave one of them out.", code="options_exclude",
                                option=option, other=other)
