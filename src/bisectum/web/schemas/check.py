"""What the API says about the cut check."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from bisectum.core.check import Checked, CutCheck
from bisectum.core.course import StepName
from bisectum.core.job import MakeStep
from bisectum.core.model.stock import KINDS
from bisectum.core.model.work import Work
from bisectum.core.patterns import ITEM_ID
from bisectum.core.repairs import Repair
from bisectum.core.steps.check.settings import CheckSettings, Ignored, MaterialLimits
from bisectum.services.bench import Edits, Repairing
from bisectum.web.schemas.jobs import At, FieldNames
from bisectum.web.schemas.results import FindingOut


class RepairEdit(BaseModel):
    """A change of one step. item: of which picture, empty for a step of the make; step: "item" for an item's own fields. add:
    members for the end of lists."""

    item: str = Field("", pattern=rf"^$|{ITEM_ID}")
    step: StepName | MakeStep | Literal["item"]
    settings: dict[FieldNames, Any] = Field(default_factory=dict, max_length=40)
    add: dict[FieldNames, list[Any]] = Field(default_factory=dict, max_length=10)

    def repairing(self) -> Repairing:
        return Repairing(self.item, self.step, Edits(self.settings, self.add))


class RepairPreview(BaseModel):
    edits: list[RepairEdit] = Field(min_length=1, max_length=2000)

    def repairing(self) -> list[Repairing]:
        return [edit.repairing() for edit in self.edits]


class RepairChange(RepairPreview, At):
    """code: a word for what is done."""

    code: Annotated[str, Field(pattern=r"^[a-z_]{1,40}$")]


class RepairOut(BaseModel):
    """What mends a finding. opens: the step where it is done by hand, if it has no edits."""

    code: str
    edits: list[RepairEdit]
    opens: str

    @classmethod
    def of(cls, repair: Repair) -> RepairOut:
        return cls(code=repair.code, opens=repair.opens,
                   edits=[RepairEdit.model_validate(asdict(edit)) for edit in repair.edits])


class CheckedOut(BaseModel):
    """A finding of the cut check. known: what is added to the ignored ones."""

    finding: FindingOut
    known: Ignored
    ignored: bool
    repairs: list[RepairOut]

    @classmethod
    def of(cls, checked: Checked) -> CheckedOut:
        return cls(finding=FindingOut.of(checked.finding), known=checked.known, ignored=checked.ignored,
                   repairs=[RepairOut.of(repair) for repair in checked.repairs])


class WorkOut(BaseModel):
    """How much work it is: lengths in mm, times in seconds."""

    pieces: int
    windows: int
    nodes: int
    cut_mm: float
    cut_s: float
    weed_s: float

    @classmethod
    def of(cls, work: Work) -> WorkOut:
        return cls(pieces=work.pieces, windows=work.windows, nodes=work.nodes, cut_mm=work.cut_mm, cut_s=work.cut_s,
                   weed_s=work.weed_s)


class LimitsOut(BaseModel):
    """own: the person has changed them; else they are from memory."""

    limits: MaterialLimits
    own: bool


class CheckOut(BaseModel):
    """findings: the gravest first; to_look_at: how many are more than a note and not ignored; of_layers: as the layers are."""

    findings: list[CheckedOut]
    to_look_at: int
    work: WorkOut
    of_layers: list[WorkOut]
    limits: list[LimitsOut]

    @classmethod
    def of(cls, check: CutCheck, settings: CheckSettings) -> CheckOut:
        own = {limits.kind for limits in settings.limits}
        return cls(findings=[CheckedOut.of(one) for one in check.findings], to_look_at=check.to_look_at,
                   work=WorkOut.of(check.work), of_layers=[WorkOut.of(work) for work in check.of_layers],
                   limits=[LimitsOut(limits=settings.of(kind), own=kind in own) for kind in KINDS])
