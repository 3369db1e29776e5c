"""Kernels: made anew when what they were made from changed, and shared out at installation."""

from __future__ import annotations

import importlib.util
import os
import signal
import subprocess
import sys
from pathlib import Path
from types import ModuleType

import numpy as np
import pytest

from bisectum.worker import kernels as installation

HEAD = "import numpy as np\nfrom bisectum.core.raster.compiled import kernel, part\n"
SMALL = '@part("f8(f8[:], i8)")\ndef callee(values, place):\n    return values[place] * FACTOR\n'
CALLER = '@kernel("f8(f8[:])")\ndef caller(values):\n    return callee(values, 0) + callee(values, 1)\n'


def loaded(folder: Path, name: str, source: str) -> ModuleType:
    path = folder / f"{name}.py"
    path.write_text(source)
    described = importlib.util.spec_from_file_location(name, path)
    assert described and described.loader
    module = importlib.util.module_from_spec(described)
    sys.modules[name] = module
    described.loader.exec_module(module)
    return module


def test_a_part_has_no_way_in_from_python(tmp_path: Path) -> None:
    module = loaded(tmp_path, "part_kernels", f"{HEAD}FACTOR = 3.0\n{SMALL}{CALLER}")
    values = np.ones(4)
    with pytest.raises(TypeError, match="callee is part of kernels"):
        module.callee(values, 0)
    assert module.caller(values) == 6.0
    with pytest.raises(TypeError):  # it is compiled now, and there is nothing that Python could jump to
        module.callee(values, 0)


def test_a_kernel_called_through_its_module_is_refused(tmp_path: Path) -> None:
    """Its changes would go unnoticed."""
    loaded(tmp_path, "low_kernels", f"{HEAD}FACTOR = 3.0\n{SMALL}")
    module = loaded(tmp_path, "high_kernels", f"{HEAD}import low_kernels\n{CALLER.replace('callee', 'low_kernels.callee')}")
    with pytest.raises(Exception, match="callee must be called by a name of its own"):
        module.caller(np.ones(64))


def test_a_kernel_is_made_anew_when_what_it_was_made_from_changed(tmp_path: Path) -> None:
    (tmp_path / "above.py").write_text(f"{HEAD}from below import callee\n{CALLER}")
    use = "import numpy as np; from above import caller; print(caller(np.ones(64)), sum(caller.stats.cache_hits.values()))"

    def ran() -> str:
        command = [sys.executable, "-B", "-c", use]
        return subprocess.run(command, cwd=tmp_path, capture_output=True, text=True, check=True).stdout.strip()

    (tmp_path / "constants.py").write_text("FACTOR = 3.0\n")
    (tmp_path / "below.py").write_text(f"{HEAD}from constants import FACTOR\n{SMALL}")
    assert [ran(), ran()] == ["6.0 0", "6.0 1"]  # the second time from the disk
    (tmp_path / "below.py").write_text(f"{HEAD}from constants import FACTOR\n{SMALL.replace('FACTOR', '2 * FACTOR')}")
    assert ran() == "12.0 0"
    (tmp_path / "constants.py").write_text("FACTOR = 0.5\n")
    assert [ran(), ran()] == ["2.0 0", "2.0 1"]


class Pretended:
    """A kernel that writes down when it was compiled, and that those it calls were there."""

    def __init__(self, folder: Path, name: str, *called: Pretended, fails: bool = False) -> None:
        self.path, self.called, self.fails = folder / name, called, fails

    def callees(self) -> list[Pretended]:
        return list(self.called)

    def compile(self) -> None:
        if self.fails:
            os.kill(os.getpid(), signal.SIGKILL)  # as when memory runs out, nothing can be tidied up
        with self.path.open("x") as file:  # fails if it was compiled before
            file.write(str([callee.path.exists() for callee in self.called]))


def test_installation_compiles_each_kernel_once_and_after_those_it_calls(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    lower = [Pretended(tmp_path, f"lower{number}") for number in range(8)]
    middle = [Pretended(tmp_path, f"middle{number}", *lower[number:]) for number in range(8)]
    every = (Pretended(tmp_path, "top", *middle, *lower), *middle, *lower)
    monkeypatch.setattr(installation, "prepared", lambda: every)
    installation.main()
    assert "17 kernels compiled" in capsys.readouterr().out
    assert all("False" not in kernel.path.read_text() for kernel in every)

    fails = Pretended(tmp_path, "fails", fails=True)
    monkeypatch.setattr(installation, "prepared", lambda: (fails, Pretended(tmp_path, "over it", fails)))
    with pytest.raises(SystemExit, match="Not all kernels could be compiled"):
        installation.main()
    assert not (tmp_path / "over it").exists()


class Dying:
    """A process that fails between two looks at it: its end is seen from the look of number `dies` on."""

    def __init__(self, dies: int | None) -> None:
        self._dies, self._looks, self.ended = dies, 0, False
        self._read, write = os.pipe()
        if dies is None:
            self._write = write  # stays open: its end never comes by itself
        else:
            os.close(write)

    @property
    def exitcode(self) -> int | None:
        self._looks += 1
        return -9 if self.ended or (self._dies is not None and self._looks > self._dies) else None

    @property
    def sentinel(self) -> int:
        return self._read

    def terminate(self) -> None:
        self.ended = True


@pytest.mark.timeout(20)
@pytest.mark.parametrize("looks", range(5))
def test_a_compiling_process_that_dies_at_any_moment_ends_the_others(looks: int) -> None:
    """The others wait for what it had taken, so they would wait for ever."""
    dying, waiting = Dying(looks), Dying(None)
    assert not installation.all_succeed([dying, waiting])
    assert waiting.ended
