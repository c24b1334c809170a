"""Effort: what was made with more of it stands for what would be made, and a forecast says what it will take."""

import shutil
from pathlib import Path

from sarvel.core.model import Effort
from sarvel.pipeline.forecast import forecast
from sarvel.pipeline.listener import Nobody
from sarvel.pipeline.page_sums import DESKTOP, PHONE
from sarvel.pipeline.render import RenderOptions, made_of
from sarvel.pipeline.site import Site, ledger_of, read_site
from sarvel.pipeline.standing_efforts import standing_efforts
from sarvel.plan.read import read_plan


def rendered(folder: Path, effort: Effort) -> tuple[Site, int]:
    """The site once it was rendered at an effort, and how many files that made."""
    plan = read_plan(folder / "sarvel.toml").at_effort(effort)
    with ledger_of(plan, print) as ledger:
        site, done = made_of(read_site(plan, ledger), ledger, RenderOptions(workers=1), Nobody())
        return site, len(done.made)


def names(site: Site) -> set[str]:
    return {one.name for picture in site.edition.pictures.values() for one in picture.renditions()}


def test_less_effort_takes_what_stands_and_makes_nothing(site: Path) -> None:
    quick, made = rendered(site, "quick")
    assert made > 0
    thorough, made = rendered(site, "thorough")
    assert made > 0 and names(thorough) != names(quick)
    for effort in ("quick", "normal", "thorough"):
        again, made = rendered(site, effort)
        assert made == 0 and names(again) == names(thorough), effort
    shutil.rmtree(thorough.plan.output)
    afresh, made = rendered(site, "quick")
    assert made > 0 and names(afresh) == names(quick), "nothing stands any more, and less is asked for"


def test_with_nothing_of_another_effort_no_other_is_tried(site: Path) -> None:
    quick, _ = rendered(site, "quick")
    with ledger_of(quick.plan, print) as ledger:
        assert not list(standing_efforts(quick.plan, ledger, less=True))


def test_where_nothing_is_made_files_of_less_effort_will_do(site: Path) -> None:
    """As `weave` after `watch`, which is quick."""
    quick, _ = rendered(site, "quick")
    plan = read_plan(site / "sarvel.toml")
    with ledger_of(plan, print) as ledger:
        assert names(read_site(plan, ledger, as_it_stands=True)) == names(quick)
        assert names(read_site(plan, ledger)) != names(quick), "a build makes what is asked for"
    normal, _ = rendered(site, "normal")
    with ledger_of(plan, print) as ledger:
        assert names(read_site(plan, ledger, as_it_stands=True)) == names(normal)


def test_a_forecast_comes_true(site: Path) -> None:
    plan = read_plan(site / "sarvel.toml")
    with ledger_of(plan, print) as ledger:
        before = read_site(plan, ledger)
        told = forecast(before, ledger, plan.slots)
        assert told.kept == 0 and told.guessed and not told.by_run and told.seconds > 0
        _, done = made_of(before, ledger, RenderOptions(workers=1), Nobody())
        assert told.to_make == len(done.made)
        after = forecast(read_site(plan, ledger), ledger, plan.slots)
    assert (after.to_make, after.guessed, after.by_run) == (0, False, True)
    assert told.sums.count == after.sums.count == 1 and told.sums.masters == after.sums.masters
    only_badge = forecast(before, ledger, ["badge"]).sums.fetched
    assert all(0 < only_badge[device] < after.sums.fetched[device] for device in (PHONE, DESKTOP))
