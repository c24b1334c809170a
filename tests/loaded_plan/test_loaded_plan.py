"""From Python: every example of its docstrings and of its document, on the demo site; and what goes wrong in clear words."""

import doctest
import inspect
import shutil
import threading
from pathlib import Path

import jinja2
import pytest

import sarvel
from sarvel import loaded_plan
from sarvel.loaded_plan import LoadedPlan
from tests.conftest import run_sarvel

DOCUMENT = Path(__file__).parents[2] / "docs" / "python.md"


def test_every_example_works_on_the_demo(demo: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    site = Path(shutil.copytree(demo, tmp_path / "site"))
    monkeypatch.chdir(site)
    failed, tried = doctest.testmod(loaded_plan, extraglobs={"sarvel": sarvel})
    assert not failed and tried > 10
    failed, tried = doctest.testfile(str(DOCUMENT), module_relative=False, globs={"sarvel": sarvel})
    assert not failed and tried > 5


def test_every_public_call_has_an_example_and_is_pinned() -> None:
    """Who uses it relies on these names and parameters: a change of them is a change for everyone."""
    calls = {name: one for name, one in inspect.getmembers(LoadedPlan, inspect.isfunction) if not name.startswith("_")}
    assert {name: list(inspect.signature(one).parameters)[1:] for name, one in calls.items()} == {
        "check": ["pages"],
        "compose": [],
        "pick": ["page", "devices"],
        "picture": ["slot", "master", "alt", "attributes"],
        "render": ["only", "workers"],
    }
    assert list(inspect.signature(sarvel.load).parameters) == ["plan"]
    assert all(">>>" in (inspect.getdoc(one) or "") for one in (*calls.values(), sarvel.load))
    assert set(sarvel.__all__) == {"Device", "LoadedPlan", "SarvelError", "__version__", "load", "pick_source"}
    assert all(getattr(sarvel, name) for name in sarvel.__all__)


def wrong(site: Path, slot: str, master: str, alt: str | None = "words") -> str:
    with pytest.raises(sarvel.SarvelError) as error:
        sarvel.load(site / "sarvel.toml").picture(slot, master, alt)
    return str(error.value)


def test_what_goes_wrong_is_a_line(site: Path) -> None:
    assert "no slot 'baner'; did you mean 'banner'?" in wrong(site, "baner", "gull.jpg")
    assert "none.jpg: there is no such file in the masters folder" in wrong(site, "badge", "none.jpg")
    assert "seal.png has no words; say alt here, or in the plan under [masters.\"seal.png\"]" in wrong(site, "badge", "seal.png", None)  # fmt: skip
    assert "the files of seal.png for badge are not made; run sarvel render" in wrong(site, "badge", "seal.png")
    with pytest.raises(sarvel.SarvelError, match="there is no such file; name the plan"):
        sarvel.load(site / "none.toml")


def test_a_picture_is_what_weaving_writes_and_safe_in_templates(rendered: Path) -> None:
    plan = sarvel.load(rendered / "sarvel.toml")
    environment = jinja2.Environment(autoescape=True)
    environment.globals["picture"] = plan.picture
    template = environment.from_string('{{ picture("banner", "gull.jpg", alt=words, class_="wide") }}')
    text = template.render(words='A "gull" & more')
    assert text.startswith("<picture") and 'alt="A &quot;gull&quot; &amp; more"' in text and 'class="wide"' in text
    run_sarvel("weave", cwd=rendered)
    woven = (rendered / "pages" / "index.html").read_text()
    sources = [line.strip(" <>") for line in text.splitlines() if "<source" in line or "srcset" in line]
    assert len(sources) > 2 and all(line in woven for line in sources)


def test_threads_get_the_same_and_a_changed_master_is_seen(rendered: Path) -> None:
    plan = sarvel.load(rendered / "sarvel.toml")
    found: list[str] = []
    threads = [threading.Thread(target=lambda: found.append(plan.picture("banner", "gull.jpg"))) for _ in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert len(found) == 8 and len(set(found)) == 1
    shutil.copy(rendered / "masters" / "seal.png", rendered / "masters" / "gull.jpg")
    with pytest.raises(sarvel.SarvelError, match=r"gull\.jpg for banner are not made"):
        plan.picture("banner", "gull.jpg")
