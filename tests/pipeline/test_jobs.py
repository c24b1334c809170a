"""Jobs called from Python: what commands, a watcher or a server call, without a console."""

import os
import shutil
from collections.abc import Callable, Iterable
from dataclasses import replace
from pathlib import Path

import pytest

from sarvel.core.layout.audience import BUILT_IN
from sarvel.encode import crop_encoder as bench
from sarvel.errors import PlanError
from sarvel.files.ledger import Ledger
from sarvel.notices import Kind, Notice
from sarvel.pipeline.build import build
from sarvel.pipeline.check import check_files, pages_of_plan
from sarvel.pipeline.listener import Nobody
from sarvel.pipeline.master_facts import facts_of_master, facts_of_masters, subjects_of
from sarvel.pipeline.page_sums import DESKTOP, PHONE
from sarvel.pipeline.plan_folders import masters_of_plan
from sarvel.pipeline.portions import Parts
from sarvel.pipeline.render import RenderOptions, chosen, made_of, names_in_use, prune_plan, render_plan, to_do
from sarvel.pipeline.settling import settled_edition
from sarvel.pipeline.side_files import side_files
from sarvel.pipeline.site import ledger_of, read_again, read_asked, read_site
from sarvel.pipeline.targets import check_output, pages_of
from sarvel.pipeline.unchanged import InputState, kept_entry, kept_result
from sarvel.pipeline.weave import only_pages, unweave_plan, weave_plan
from sarvel.plan.read import Plan, read_plan
from sarvel.tools.pick import images_of, outcomes
from sarvel.tools.survey import survey
from tests.conftest import PAGE, PLAN


class Heard(Nobody):
    """A listener that keeps what it hears."""

    def __init__(self) -> None:
        self.said: list[str] = []

    def notes(self, messages: Iterable[Notice]) -> None:
        self.said += map(str, messages)

    trouble = notes


def test_a_format_that_surely_does_not_pay_is_not_made(site: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Which one that is, is said here; what follows is tried: none of its files is written, now or by a later run."""
    plan_file = site / "sarvel.toml"
    text = (
        plan_file.read_text()
        .replace("quality = {", "# quality = {")
        .replace('"100vw"', '"90px"')
        .replace('"50vw"', '"80px"')
    )
    plan_file.write_text(text)
    monkeypatch.setattr(bench, "surely_not_paying", lambda tried, _: dict([tuple(tried)]) if len(tried) == 2 else {})
    plan = plan_of(site)
    with Ledger(site / "sarvel.ledger") as ledger:
        after, rendered = made_of(read_site(plan, ledger), ledger, RenderOptions(workers=1), Nobody())
        gull = after.edition.pictures["banner", "gull.jpg"]
        assert [list(crop.renditions) for crop in gull.crops] == [["jpeg"], ["jpeg"]] and after.made(
            there_in(plan.output)
        )
        assert not [name for name in rendered.made if "gull" in name and name.endswith("webp")]
        assert sum("its first files weigh" in one.notice.text for one in after.left_out) == 2
        again = read_site(plan, ledger)
        assert settled_edition(again.composed, again.output, ledger)[0] == again.edition
        assert again.edition == after.edition and to_do(again, ledger, RenderOptions()).count == 0


def there_in(folder: Path) -> dict[str, int]:
    return {file.name: file.stat().st_size for file in folder.iterdir()}


def plan_of(site: Path) -> Plan:
    return read_plan(site / "sarvel.toml")


def test_a_site_is_read_rendered_woven_and_given_back(site: Path) -> None:
    plan, nobody = plan_of(site), Nobody()
    with Ledger() as ledger:
        before = read_site(plan, ledger)
        assert not before.made({}) and before.unmade({}) == set(before.edition.pictures) and not before.faults
        assert (
            chosen(before, RenderOptions(only=("badge",))) == [("badge", "seal.png")] < chosen(before, RenderOptions())
        )
        with pytest.raises(PlanError, match="--only nothing: no slot and no master"):
            chosen(before, RenderOptions(only=("nothing",)))
        after, rendered = made_of(before, ledger, RenderOptions(workers=1), nobody)
        there = there_in(plan.output)
        assert not rendered.faults and set(rendered.made) >= there.keys() and len(after.made(there)) == 2
        pages = weave_plan(Parts(after, ledger, whole=after), nobody)
        assert pages.images == 2 and [file.name for file in pages.written] == ["index.html"]
        assert names_in_use(after) >= {after.edition.pictures["badge", "seal.png"].crops[0].renditions["png"][0].name}
        woven = read_again(plan, after.pages[0].file)
        unweave_plan(replace(after, pages=(woven,)), ledger, nobody, whole=False)
    assert (site / "pages" / "index.html").read_text() == PAGE


def test_pages_are_chosen_by_name(site: Path) -> None:
    with Ledger() as ledger:
        whole = read_site(plan_of(site), ledger)
    assert (
        only_pages(whole, []) is whole and only_pages(whole, [str(site / "pages" / "index.html")]).pages == whole.pages
    )
    with pytest.raises(PlanError, match=r"none\.html: is no page of the plan"):
        only_pages(whole, ["none.html"])


def test_a_build_looks_into_the_folder_a_few_times_whatever_the_number_of_pictures(
    site: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    for i in range(30):
        (site / "masters" / f"s{i}.png").write_bytes((site / "masters" / "seal.png").read_bytes())
    tags = "".join(f'<img data-sarvel="badge" src="../masters/s{i}.png" alt="">' for i in range(30))
    (site / "pages" / "index.html").write_text(PAGE + tags)
    scans: list[object] = []
    scandir = os.scandir

    def counted(folder: str | os.PathLike[str]) -> object:
        scans.append(folder)
        return scandir(folder)

    monkeypatch.setattr(os, "scandir", counted)
    with Ledger() as ledger:
        built = build(plan_of(site), ledger, RenderOptions(workers=1), Nobody())
    output = [one for one in scans if "pictures" in str(one)]
    assert len(built.pictures) == 32 and len(output) < 10, len(output)
    assert all(one.fetched.keys() == {PHONE, DESKTOP} and one.total > 0 for one in built.pictures)


def test_pages_are_summed_by_what_each_fetches(site: Path) -> None:
    """A file counts once a page, however often the page shows it; what is on no page counts nothing."""
    tag = '<img data-sarvel="badge" src="../masters/seal.png" alt="">'
    (site / "pages" / "index.html").write_text(tag + tag)
    (site / "pages" / "two.html").write_text(tag + '<img data-sarvel="banner" src="../masters/gull.jpg" alt="">')
    (site / "pages" / "none.html").write_text("<p>No image.</p>")
    with Ledger() as ledger:
        built = build(plan_of(site), ledger, RenderOptions(workers=1), Nobody())
    weights = {one.slot: {device: size for device, (_, size) in one.fetched.items()} for one in built.pictures}
    sizes = [(site / "masters" / name).stat().st_size for name in ("seal.png", "gull.jpg")]
    assert (built.sums.count, built.sums.masters) == (2, 2 * sizes[0] + sizes[1])
    assert built.sums.fetched == {one: 2 * weights["badge"][one] + weights["banner"][one] for one in (PHONE, DESKTOP)}


def test_facts_are_read_once_and_subjects_found_once(site: Path) -> None:
    plan = plan_of(site)
    masters = masters_of_plan(plan)
    os.utime(site / "masters" / "gull.jpg", (1e9, 1e9))
    with ledger_of(plan, pytest.fail) as ledger:
        facts = facts_of_master(masters, "gull.jpg", ledger)
        assert (facts.width, facts.height, facts.alpha) == (900, 600, False)
        found = dict(subjects_of(masters, [facts], ledger))
    (site / "masters" / "gull.jpg").write_bytes(b"no image, of another time")
    with ledger_of(plan, pytest.fail) as ledger:
        assert dict(subjects_of(masters, [facts], ledger)) == found
        read, unreadable = facts_of_masters(plan, masters, ["gull.jpg", "seal.png", "none.png"], ledger)
    assert read.keys() == {"seal.png"} and unreadable.keys() == {"gull.jpg", "none.png"}


def test_pruning_waits_until_all_can_be_read(rendered: Path) -> None:
    (rendered / "sarvel.toml").write_text(PLAN.replace("widths = 2", "widths = 1"))
    heard = Heard()
    with ledger_of(plan_of(rendered), pytest.fail) as ledger:
        done = render_plan(plan_of(rendered), ledger, RenderOptions(), heard)
        for options, faulty in (
            (RenderOptions(only=("x",)), ()),
            (RenderOptions(), (Notice(Kind.PAGE, "", "a fault"),)),
        ):
            assert prune_plan(done.asked, ledger, faulty, options, heard) == []
        gone = prune_plan(done.asked, ledger, list(done.faults), RenderOptions(), heard)
    assert len(heard.said) == 2 and all("nothing pruned, since" in one for one in heard.said)
    assert gone and not set(gone) & there_in(rendered / "public" / "pictures").keys()


def test_side_files_are_texts_by_file(rendered: Path) -> None:
    extra = '[partials]\nfolder = "parts"\nmacro = "m.njk"\n'
    (rendered / "sarvel.toml").write_text(
        PLAN.replace("[site]", '[site]\nmanifest = "all.json"\nplaceholders = "stylesheet"') + extra
    )
    plan = plan_of(rendered)
    with ledger_of(plan, pytest.fail) as ledger:
        texts = side_files(Parts(read_asked(plan), ledger))
    names = sorted(file.relative_to(rendered).as_posix() for file in texts)
    assert names == [
        "all.json",
        "m.njk",
        "parts/badge/seal.png.html",
        "parts/banner/gull.jpg.html",
        "public/pictures/pictures.css",
    ]


def test_nothing_is_written_where_it_may_not(site: Path) -> None:
    plan = plan_of(site)
    files, others, faults = pages_of(plan)
    assert [file.source.name for file in files] == ["index.html"] and not others and not faults
    check_output(plan, site / "proof.png", [plan.file])
    for file in (site / "sarvel.toml", site / "masters" / "new.png"):
        with pytest.raises(PlanError, match="is read by the plan, and nothing is written onto it"):
            check_output(plan, file, [plan.file])


def test_processes_check_as_one_does(rendered: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    folder, plan = rendered / "pages", plan_of(rendered)
    for number in range(12):
        link = f'<link rel="stylesheet" href="{number % 2}.css">'
        (folder / f"{number}.html").write_text(f"<!doctype html>{link}<img src='{number}.jpg' srcset='a.jpg 1q'>" * 9)
    for number in range(2):
        (folder / f"{number}.css").write_text("p { background: url(none.png) }")
    (folder / "11.html").write_bytes(b"\xff\xfe\x00")
    alone = check_files(sorted(folder.glob("*.html")), plan)
    monkeypatch.setattr("sarvel.pipeline.check._PORTION", 1000)
    together = check_files(sorted(folder.glob("*.html")), plan, workers=2)
    assert (together.pages, together.faults) == (alone.pages, alone.faults)
    assert set(together.looked) == set(alone.looked) and len(alone.pages) == 14 and len(alone.faults) == 1


def test_checks_surveys_and_picks_without_a_command(rendered: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(rendered)
    plan = plan_of(rendered)
    checked = check_files(pages_of_plan(plan), plan)
    assert {one.rule for page in checked.pages for one in page.findings} == {"not-woven"} and not checked.has_grave()
    assert checked.has_grave("hint")
    found = survey([rendered], plan, Nobody())
    assert {row.file.name for row in found.rows} == {"gull.jpg", "seal.png"} and not found.missing and not found.faults
    page = rendered / "pages" / "index.html"
    images = images_of(page.read_text(), page, plan)
    results = outcomes(images, BUILT_IN, page.read_text(), page, plan)
    assert [len(results[image.number]) for image in images] == [len(BUILT_IN)] * 2
    assert {one.fit.width for one in results[1]} == {900} and {one.verdict == "sharp" for one in results[2]} == {
        True,
        False,
    }


CHANGES: dict[str, Callable[[Path], object]] = {
    "nothing": lambda _: None,
    "a page": lambda site: (site / "p" / "a.html").write_text("A.html"),
    "a new page": lambda site: (site / "p" / "b.html").write_text(""),
    "what it wrote": lambda site: (site / "w.html").write_text("W.html"),
    "an image it looked at": lambda site: (site / "i.png").write_text("I.png"),
    "a file that was missing": lambda site: (site / "m.png").write_text(""),
    "a rendition": lambda site: (site / "out" / "r.webp").write_text(""),
    "a master": lambda site: os.utime(site / "masters" / "m.jpg", (1e9, 1e9 + 1)),
    "a new master": lambda site: shutil.copy2(site / "masters" / "m.jpg", site / "masters" / "n.jpg"),
    "a master that is gone": lambda site: (site / "masters" / "m.jpg").unlink(),
    "how it was called": lambda _: None,
}


@pytest.mark.parametrize("change", CHANGES)
def test_a_run_is_answered_while_nothing_changed(tmp_path: Path, change: str) -> None:
    page, written, image, missing, master, output = (
        tmp_path / name for name in ("p/a.html", "w.html", "i.png", "m.png", "masters/m.jpg", "out")
    )
    for file in (page, written, image, master, output / "r.webp"):
        file.parent.mkdir(exist_ok=True)
        file.write_text(file.name)
    for file in (page, image, page.parent, master):
        os.utime(file, (1e9, 1e9))
    masters = {master.parent: {".jpg"}}
    state = InputState([page, page.parent], [image, missing], [written], [str(output)], masters, started=int(2e18))
    with Ledger(tmp_path / "ledger") as ledger:
        ledger.remember([], kept_entry(["build"], state, {"a": 1}))
    CHANGES[change](tmp_path)
    said = kept_result(tmp_path / "ledger", ["build", "json"] if change == "how it was called" else ["build"])
    assert said == ({"a": 1} if change == "nothing" else None)


def test_what_changed_a_moment_ago_is_not_relied_on(tmp_path: Path) -> None:
    (tmp_path / "a.html").write_text("")
    started = (tmp_path / "a.html").stat().st_mtime_ns + 1
    assert (
        kept_entry(["build"], InputState([tmp_path / "a.html"], [], [], [str(tmp_path / "out")], {}, started), {}) == {}
    )
