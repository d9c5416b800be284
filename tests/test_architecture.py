"""Boundaries are tested, not hoped for."""

import ast
import itertools
import re
import subprocess
import sys
import tomllib
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src/welotrope"
SCRIPTS = [path for path in (SOURCE / "web").rglob("*.js") if "vendor" not in path.parts]
IMPURE_NAMES = {"open", "print", "input", "exec", "eval"}
IMPURE_ATTRIBUTES = {("datetime", "now"), ("date", "today"), ("time", "time"), ("random", "random")}


def test_import_contracts_hold():
    run = subprocess.run(
        [Path(sys.executable).with_name("lint-imports"), "--no-cache"], cwd=ROOT, capture_output=True, text=True
    )
    assert run.returncode == 0, run.stdout


@pytest.mark.parametrize("path", sorted((SOURCE / "core").rglob("*.py")), ids=lambda path: path.name)
def test_core_touches_nothing_outside(path):
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Name):
            assert node.id not in IMPURE_NAMES
        if isinstance(node, ast.Attribute) and isinstance(node.value, ast.Name):
            assert (node.value.id, node.attr) not in IMPURE_ATTRIBUTES


def test_what_is_the_stores_own_stays_there():
    """Outside the store nothing touches the SQLAlchemy session, and only transactions, pairing and jobs commit."""
    commits = {
        "web/request/transactions.py",
        "web/request/device_pairing.py",
        "web/request/jobs.py",
        "demo/build.py",
    }
    for path in SOURCE.rglob("*.py"):
        name = path.relative_to(SOURCE).as_posix()
        if name.startswith(("store/", "core/")):
            continue
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Attribute):
                assert node.attr != "sql", name
                assert node.attr not in ("commit", "rollback") or name in commits, name


def test_what_is_left_out_as_long_is_there():
    long = (ROOT / "tests/long.txt").read_text().split()
    for name in long:
        path, _, test = name.partition("::")
        assert f"def {test}(" in (ROOT / path).read_text(), name


def test_files_stay_readable():
    limits = {".py": 430, ".js": 150, ".html": 120}
    files = [path for path in SOURCE.rglob("*.*") if "vendor" not in path.parts and path.suffix in limits]
    long = [path.name for path in files if _lines_of(path) > limits[path.suffix]]
    assert long == []


def _lines_of(path):
    """Lines of a file; what docstrings say of parameters makes no file harder to read."""
    text = path.read_text()
    if path.suffix != ".py":
        return len(text.splitlines())
    kinds = (ast.Module, ast.ClassDef, ast.FunctionDef, ast.AsyncFunctionDef)
    told = [ast.get_docstring(node, clean=False) or "" for node in ast.walk(ast.parse(text)) if isinstance(node, kinds)]
    return len(text.splitlines()) - sum(said.count("\n") for said in told)


def test_templates_hold_no_inline_script_or_style():
    for path in (SOURCE / "web").rglob("*.html"):
        text = path.read_text()
        if path.parts[-2:] == ("pocket", "file.html"):  # a file of its own, which asks for nothing
            continue
        assert " style=" not in text, path
        assert "onclick=" not in text, path
        assert "<style" not in text, path


def test_committed_style_sheet_is_current(tmp_path):
    compiled = tmp_path / "app.css"
    binary = Path(sys.executable).with_name("tailwindcss")
    command = [binary, "-i", SOURCE / "web/css/app.css", "-o", compiled, "--minify"]
    subprocess.run(command, cwd=ROOT, check=True, capture_output=True)
    assert compiled.read_text() == (SOURCE / "web/static/css/app.css").read_text(), "run make css"


def test_nothing_loads_from_a_network():
    for path in [*(SOURCE / "web").rglob("*.html"), *SCRIPTS]:
        text = path.read_text().replace("http://www.w3.org/2000/svg", "")
        assert "http://" not in text and "https://" not in text, path


def test_docs_made_from_code_are_current():
    run = subprocess.run([sys.executable, "scripts/docs.py", "--check"], cwd=ROOT, capture_output=True, text=True)
    assert run.returncode == 0, run.stdout + run.stderr


def test_every_screenshot_is_linked_from_the_readme():
    readme = (ROOT / "README.md").read_text()
    shots = sorted((ROOT / "docs/screenshots").glob("*.png"))
    assert 5 < len(shots) < 20
    assert [path.name for path in shots if f"docs/screenshots/{path.name}" not in readme] == []


def test_the_readme_is_read_in_ten_minutes():
    assert len((ROOT / "README.md").read_text().split()) <= 1200


def test_every_bug_to_be_planted_has_its_line_and_its_tests():
    with (ROOT / "tests/mutants.toml").open("rb") as file:
        planted = tomllib.load(file)["mutant"]
    assert len(planted) >= 120
    for one in planted:
        lines = [line.strip() for line in (SOURCE / one["file"]).read_text(encoding="utf-8").split("\n")]
        assert lines.count(one["line"]) == 1, one
        for test in one["tests"]:
            path, _, name = test.partition("::")
            if path.startswith("tests/"):
                assert (ROOT / path).exists(), test
                assert name in (ROOT / path).read_text(encoding="utf-8") if name else True, test


def test_dates_are_written_in_one_place():
    """What ``strftime`` makes of a day without a zero or of a month depends on the platform and its language."""
    found = [
        str(path)
        for path in (*SOURCE.rglob("*.py"), *SOURCE.rglob("*.html"))
        if path.name != "dates.py"
        and re.search(r"strftime\([^)]*%[-bB]|:%-[a-z]|:%[bB]", path.read_text(encoding="utf-8"))
    ]
    assert found == []


def test_every_column_has_a_heading_for_a_screen_reader():
    """A table that the demo leaves empty is not among the pages that axe looks at."""
    found = [
        str(path) for path in (SOURCE / "web").rglob("*.html") if re.search(r"<th[^>]*>\s*</th>", path.read_text())
    ]
    assert found == []


def test_no_template_line_runs_off_the_screen():
    long = [
        f"{path.name}:{number}"
        for path in sorted((SOURCE / "web").rglob("*.html"))
        for number, line in enumerate(path.read_text().splitlines(), 1)
        if len(line) > 160
    ]
    assert not long, long


def test_long_records_are_built_by_name():
    """Over five fields, two of a kind would be swapped without anybody noticing."""
    short = []
    for path in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.ClassDef):
                made = [ast.unparse(decorator) for decorator in node.decorator_list]
                fields = [item for item in node.body if isinstance(item, ast.AnnAssign)]
                if len(fields) > 5 and any(d.startswith("dataclass") and "kw_only=True" not in d for d in made):
                    short.append(f"{path.name}: {node.name}")
    assert short == []


def test_no_class_name_stands_for_two_things():
    places = {}
    for path in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.ClassDef):
                places.setdefault(node.name, []).append(path.relative_to(SOURCE).as_posix())
    assert {name: where for name, where in places.items() if len(where) > 1} == {}


def test_few_values_are_of_a_type_that_nobody_knows():
    code = [line for path in SOURCE.rglob("*.py") for line in path.read_text().splitlines()]
    assert sum(bool(re.search(r"\bAny\b", line)) and "import" not in line for line in code) <= 60
    assert sum("type: ignore" in line for line in code) <= 5


def test_what_may_be_left_out_is_given_by_name():
    free, named = 0, 0
    for path in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.arguments):
                free += len(node.defaults)
                named += sum(default is not None for default in node.kw_defaults)
    assert named >= 0.8 * (free + named)


UNITS = re.compile(
    r"\b(mm|metres?|feet|degrees?|radians|seconds?|days|stops?|f-number|[Pp]ixels?|px|picture units|per mm|fractions?|ratio"
    r"|times|s|EV|ISO|dioptres|shares?|exponent|pure number|Unit|[Uu]nits? of|(one|same) unit)\b|µm|°|1/mm"
)


def test_public_core_functions_state_their_units():
    silent = []
    for path in sorted((SOURCE / "core").rglob("*.py")):
        module = ast.parse(path.read_text())
        bodies = [module.body] + [node.body for node in module.body if isinstance(node, ast.ClassDef)]
        for node in itertools.chain.from_iterable(bodies):
            if not isinstance(node, ast.FunctionDef) or node.name.startswith("_"):
                continue
            said = [arg.annotation for arg in (*node.args.args, *node.args.kwonlyargs)] + [node.returns]
            numbers = " ".join(ast.unparse(annotation) for annotation in said if annotation)
            if re.search(r"\b(float|Values|FloatArray)\b", numbers) and not UNITS.search(ast.get_docstring(node) or ""):
                silent.append(f"{path.relative_to(SOURCE)}: {node.name}")
    assert silent == []


def _parts(path):
    """Public functions of a module, and their docstrings."""
    for node in ast.parse(path.read_text()).body:
        if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
            yield node, ast.get_docstring(node) or ""


def test_public_core_functions_describe_every_parameter():
    silent = []
    for path in sorted((SOURCE / "core").rglob("*.py")):
        for node, text in _parts(path):
            taken = [*node.args.posonlyargs, *node.args.args, node.args.vararg, *node.args.kwonlyargs, node.args.kwarg]
            names = {argument.arg for argument in taken if argument}
            block = re.search(r"^Parameters\n-+\n(.*?)(?=\n\n|\Z)", text, re.S | re.M)
            heads = re.findall(r"^(\S.*)$", block[1], re.M) if block else []
            told = {name.strip().lstrip("*") for head in heads for name in head.split(",")}
            if told != names:
                silent.append(f"{path.relative_to(SOURCE)}: {node.name}: {sorted(told ^ names)}")
    assert silent == []


def test_tests_stand_where_what_they_test_stands():
    kept = {"approved", "released", "reference", "vendor", "__pycache__"}
    for part in ("core", "store", "interchange", "web"):
        folders = [path for path in (ROOT / "tests" / part).rglob("*") if path.is_dir() and path.name not in kept]
        missing = [path for path in folders if not (SOURCE / path.relative_to(ROOT / "tests")).is_dir()]
        assert missing == []
