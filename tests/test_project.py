"""Rules that the project keeps about itself."""

import ast
import re
from collections import Counter
from pathlib import Path

import grimp
import pytest

import sarvel
from sarvel.cli import options
from sarvel.plan import schema
from sarvel.rules import RULES

ROOT = Path(__file__).parent.parent
DOCS = [ROOT / "README.md", *sorted((ROOT / "docs").rglob("*.md")), *sorted((ROOT / "examples").rglob("README.md"))]
GENERATED = {"commands.md"}  # within the site alone: scripts/docs_pages.py


@pytest.mark.parametrize("command", options.COMMANDS)
def test_every_command_has_a_module(command: str) -> None:
    assert (Path(options.__file__).parent / "commands" / f"{command}.py").is_file()


@pytest.mark.parametrize(
    "model",
    [
        schema.SiteTable,
        schema.PartialsTable,
        schema.DefaultsTable,
        schema.SlotTable,
        schema.LookKeys,
        schema.CheckTable,
        schema.MasterTable,
        schema.MasterCropTable,
    ],
    ids=lambda model: model.__name__,
)
def test_every_key_of_the_plan_is_documented_and_says_what_it_wants(model: type[schema.PlanTable]) -> None:
    text = (ROOT / "docs" / "plan.md").read_text()
    for name, field in model.model_fields.items():
        key = field.alias or name
        assert field.description, key
        assert re.search(rf"`{key}\b|\b{key}\s*=|\b{key},", text), key


@pytest.mark.parametrize("file", DOCS, ids=lambda file: file.name)
def test_links_of_the_docs_lead_somewhere(file: Path) -> None:
    text = re.sub(r"`[^`\n]*`|^    .*$", "", file.read_text(), flags=re.MULTILINE)  # code shows links of others
    for target in re.findall(r"\]\(([^)#]+)[^)]*\)", text):
        assert (file.parent / target).exists() or target in GENERATED, target


def test_every_rule_is_documented_with_its_severity() -> None:
    told = re.findall(r"^\| `([\w-]+)` \| (\w+) \|", (ROOT / "docs" / "check.md").read_text(), flags=re.MULTILINE)
    assert told == [(rule.name, rule.severity) for rule in RULES.values()]


SOURCES = ROOT / "src" / "sarvel"
# Formats are tried one and all through the table that names them: tests/encode/test_codecs.py.
TRIED_TOGETHER = {"sarvel.version"} | {
    f"sarvel.encode.codecs.{name}" for name in ("avif", "codec", "jpeg", "jxl", "webp")
}


def modules() -> set[str]:
    """Every module that holds code and is none of a command."""
    files = (file for file in SOURCES.rglob("*.py") if not file.name.startswith("__") and "cli" not in file.parts)
    return {".".join(file.relative_to(SOURCES.parent).with_suffix("").parts) for file in files}


def test_every_module_has_a_test_of_its_own() -> None:
    text = "\n".join(
        file.read_text() for file in (ROOT / "tests").glob("*/**/test_*.py") if "node_modules" not in file.parts
    )
    tried = {
        module
        for module in modules()
        if re.search(rf"from {module} import|import {module}\b", text)
        or re.search(rf"from {module.rpartition('.')[0]} import .*\b{module.rpartition('.')[2]}\b", text)
    }
    assert modules() - tried == TRIED_TOGETHER


def test_modules_import_in_no_circle() -> None:
    graph = grimp.build_graph("sarvel", exclude_type_checking_imports=False)
    left = {module: graph.find_modules_directly_imported_by(module) for module in graph.modules}
    while ends := [module for module, others in left.items() if not others & left.keys()]:
        for module in ends:
            del left[module]
    assert not left


def test_no_two_classes_share_a_name() -> None:
    found = Counter(
        node.name
        for file in SOURCES.rglob("*.py")
        for node in ast.parse(file.read_text(encoding="utf-8")).body
        if isinstance(node, ast.ClassDef)
    )
    assert not [name for name, count in found.items() if count > 1]


def test_docstrings_point_at_what_is_there() -> None:
    told = (ROOT / "docs" / "inside.md").read_text()
    for file in SOURCES.rglob("*.py"):
        for name, rule in re.findall(r'docs/(\w+\.md)(?:, "(\w+)")?', file.read_text()):
            assert (ROOT / "docs" / name).is_file() and (not rule or f"**{rule}.**" in told), (file.name, name, rule)
    for path in re.findall(r"`((?:\w+/)+\w+\.py)`", told):
        assert (SOURCES / path).is_file() or (ROOT / path).is_file(), path


def test_the_public_names() -> None:
    assert sarvel.__all__ == ["Device", "LoadedPlan", "SarvelError", "__version__", "load", "pick_source"]
    with pytest.raises(AttributeError, match="module 'sarvel' has no attribute 'nothing'"):
        sarvel.nothing  # noqa: B018 - asking is the test


LACKING = {
    "os": {"fork", "forkpty", "getuid", "geteuid", "getgid", "chown", "lchown", "killpg", "getpgid", "setsid", "mkfifo",
           "wait", "sched_getaffinity", "statvfs", "sysconf", "uname"},
    "signal": {"SIGKILL", "SIGHUP", "SIGUSR1", "SIGUSR2", "SIGALRM", "SIGCHLD", "SIGPIPE", "SIGSTOP", "pthread_sigmask",
               "setitimer", "alarm"},
}  # fmt: skip
"""What Windows lacks: Python's documentation of `os` and `signal`, "Availability: Unix"."""
LACKING_MODULES = {"fcntl", "grp", "pwd", "resource", "termios", "tty", "pty", "syslog"}
GUARDS = ("hasattr(", "getattr(", "sys.platform", "except ImportError", "except AttributeError")


def _lacking(node: ast.AST) -> set[str]:
    """What a piece of a program uses that is not there on every system."""
    match node:
        case ast.Attribute(value=ast.Name(id=module), attr=name) if name in LACKING.get(module, ()):
            return {f"{module}.{name}"}
        case ast.Import(names=names):
            return {one.name for one in names} & LACKING_MODULES
        case ast.ImportFrom(module=module):
            return {module or ""} & LACKING_MODULES
        case ast.Constant(value=str(text)) if re.match(r"/(tmp|dev|proc)\b", text):
            return {text}
    return set()


def _of_unix_alone(file: Path) -> list[str]:
    """The same of a module, but for functions that ask whether it is there."""
    tree = ast.parse(file.read_text(encoding="utf-8"))
    functions = [node for node in ast.walk(tree) if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef)]
    asking = [one for one in functions if any(guard in ast.unparse(one) for guard in GUARDS)]
    guarded = {inner for one in asking for inner in ast.walk(one)}
    return [f"{file.name}: {what}" for node in ast.walk(tree) if node not in guarded for what in _lacking(node)]


def test_what_not_every_system_has_is_asked_for_first() -> None:
    found = [one for file in sorted(SOURCES.rglob("*.py")) for one in _of_unix_alone(file)]
    assert not found, found
