"""The rules of the house."""

from __future__ import annotations

import ast
import json
import re
import subprocess
from pathlib import Path

import pytest

from bisectum.core.course import CourseSettings
from bisectum.core.errors import BisectumError
from bisectum.core.job import JobDocument, MakeSettings

ROOT = Path(__file__).parents[2]
CORE = sorted((ROOT / "src/bisectum/core").rglob("*.py"))
FRONT = ROOT / "web/src"


def test_the_core_touches_nothing() -> None:
    for path in CORE:
        calls = {
            node.func.id
            for node in ast.walk(ast.parse(path.read_text()))
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name)
        }
        # The one place that turns a kernel's signature into types evaluates it, with no names but types.
        allowed = {"eval"} if path.name == "compiled.py" else set()
        assert not calls & {"open", "print", "input", "eval", "exec"} - allowed, path
        # OpenCV computes for the core; its files, cameras and windows are not the core's.
        assert not re.search(r"cv2\.(imread|imwrite|imshow|Video|File|named|wait)", path.read_text()), path


def test_public_functions_of_the_core_say_what_they_do() -> None:
    for path in CORE:
        for node in ast.parse(path.read_text()).body:
            if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_"):
                small = len(ast.unparse(node).splitlines()) <= 4
                assert ast.get_docstring(node) or small or issubclass_of_error(node), f"{path}: {node.name}"


def test_docstrings_of_the_core_tell_shapes_and_errors() -> None:
    """What takes arrays says their shapes, in brackets; what raises says what."""
    for path in CORE:
        tree = ast.parse(path.read_text())
        functions = [node for node in tree.body if isinstance(node, ast.FunctionDef)]
        classes = [own for own in tree.body if isinstance(own, ast.ClassDef)]
        methods = [node for own in classes for node in own.body if isinstance(node, ast.FunctionDef)]
        for node in (*functions, *methods):
            if node.name.startswith("_"):
                continue
            told = ast.get_docstring(node) or ""
            if any(isinstance(inner, ast.Raise) and inner.exc is not None for inner in ast.walk(node)):
                assert "Raises:" in told, f"{path}: {node.name}"
            takes_arrays = "NDArray" in ast.unparse(node.args) or any("kernel" in ast.unparse(own) for own in node.decorator_list)
            if node in functions and takes_arrays and len(ast.unparse(node).splitlines()) > 4:
                assert "(" in told, f"{path}: {node.name}"


def issubclass_of_error(node: ast.AST) -> bool:
    return isinstance(node, ast.ClassDef) and any("Error" in ast.unparse(base) for base in node.bases)


def test_every_setting_has_a_title_bounds_and_words() -> None:
    words = "".join(path.read_text() for path in (FRONT / "i18n").glob("*.ts"))
    documented = (ROOT / "docs/settings.md").read_text()
    for step, field in (CourseSettings.model_fields | MakeSettings.model_fields).items():
        for name, setting in field.annotation.model_fields.items():  # type: ignore[union-attr]
            assert setting.title, f"{step}.{name}"
            assert re.search(rf"\b{name}:", words), f"{step}.{name} has no words in the catalogue"
            assert f"`{name}`" in documented, f"{step}.{name} is not in docs/settings.md"


def test_every_word_the_interface_asks_for_is_there() -> None:
    catalogue = "".join(path.read_text() for path in (FRONT / "i18n").glob("*.ts"))
    for path in FRONT.rglob("*"):
        if path.suffix in (".vue", ".ts"):
            for key in re.findall(r"""\bt\(\s*["']([\w.]+)["']""", path.read_text()):
                assert re.search(rf"\b{key.split('.')[-1]}:", catalogue), f"{path.name}: {key}"


def test_components_come_through_ui_only() -> None:
    for path in FRONT.rglob("*"):
        if path.suffix in (".vue", ".ts") and path.parent.name != "ui" and path.name not in ("main.ts", "theme.ts"):
            assert "primevue" not in path.read_text(), path


def test_the_front_end_is_layered_too() -> None:
    order = ["api", "core", "i18n", "stores", "composables", "ui", "help", "scanner", "stage", "course", "head", "steps",
             "tryouts", "pages"]
    shared = {("composables", "stage"), ("api", "core")}  # types of shapes; nothing at run time
    for path in FRONT.rglob("*"):
        folder = path.relative_to(FRONT).parts[0]
        if path.suffix not in (".vue", ".ts") or folder not in order:
            continue
        for target in re.findall(r'from "@/(\w+)/', path.read_text()):
            assert order.index(target) <= order.index(folder) or (folder, target) in shared, f"{path.name} imports {target}"


def test_components_stay_small() -> None:
    for path in FRONT.rglob("*.vue"):
        assert len(path.read_text().splitlines()) <= 250, path


def test_the_api_types_are_fresh(tmp_path: Path) -> None:
    from bisectum.main import api_description

    described = tmp_path / "openapi.json"
    described.write_text(json.dumps(api_description().openapi()))
    made = tmp_path / "schema.ts"
    subprocess.run(
        ["npx", "--no-install", "openapi-typescript", str(described), "-o", str(made)],
        cwd=ROOT / "web",
        check=True,
        capture_output=True,
    )
    assert made.read_text() == (FRONT / "api/schema.ts").read_text(), "run make api"


def test_the_form_of_the_document_is_told_as_it_is() -> None:
    told = json.loads((ROOT / "docs/job.schema.json").read_text())
    assert told == json.loads(json.dumps(JobDocument.model_json_schema())), "run make api"


def test_packages_with_prime_in_their_name_are_mit() -> None:
    found = [
        path
        for path in (ROOT / "web/node_modules").glob("**/package.json")
        if "prime" in str(path.parent.relative_to(ROOT / "web/node_modules")).split("/node_modules/")[-1].split("/")[0]
    ]
    for path in found:
        about = json.loads(path.read_text())
        if "name" in about and "version" in about:
            assert about.get("license") in ("MIT", "SEE LICENSE IN LICENSE.md") and "MIT" in licence_of(path, about), about[
                "name"
            ]


def licence_of(path: Path, about: dict[str, str]) -> str:
    texts = [p.read_text()[:200] for p in path.parent.glob("LICENSE*")]
    return about.get("license", "") + "".join(texts)


def test_no_address_of_a_registry_is_kept() -> None:
    assert not re.search(r'"resolved":', (ROOT / "web/package-lock.json").read_text())


@pytest.mark.parametrize("kind", [BisectumError, *BisectumError.__subclasses__()])
def test_errors_carry_a_code_and_values(kind: type[BisectumError]) -> None:
    error = kind("A sentence.", code="special", place=3)
    assert (error.code, error.message, error.details) == ("special", "A sentence.", {"place": 3})
    assert kind("x").code == kind.code
