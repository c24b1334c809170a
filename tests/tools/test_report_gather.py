"""The facts of a report, gathered without a console."""

from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from sarvel.core.css.device import Device
from sarvel.pipeline.listener import Nobody
from sarvel.pipeline.site import ledger_of, read_site
from sarvel.plan.read import read_plan
from sarvel.tools.report.comparisons import begin, key_of
from sarvel.tools.report.facts import Report
from sarvel.tools.report.gather import STAIR_ENDS, ReportOptions, report_of


def facts(folder: Path, comparisons: int = 0) -> Report:
    plan = read_plan(folder / "sarvel.toml")
    with ledger_of(plan, print, creates=False) as ledger:
        return report_of(read_site(plan, ledger), ledger, ReportOptions(folder, comparisons, 2), Nobody())


def test_a_staircase_is_what_the_slot_says_and_what_a_browser_fetches(rendered: Path) -> None:
    plan = read_plan(rendered / "sarvel.toml")
    with ledger_of(plan, print, creates=False) as ledger:
        pictures = read_site(plan, ledger).edition.pictures.values()
    by_key = {key_of(one): one for one in pictures}
    for one in facts(rendered).pictures:
        picture = by_key[one.key]
        for stair in one.stairs:
            assert (stair.viewports[0], stair.viewports[-1]) == STAIR_ENDS
            for width, got in list(zip(stair.viewports, stair.got, strict=True))[::40]:
                assert got == picture.fetched(Device(width, 9 * width, stair.density)).width
        for start, end in zip(one.shown, one.shown[1:], strict=False):
            at = (start[0] + end[0]) // 2  # between two bends a shown width is straight; it jumps within a px
            line = start[1] + (end[1] - start[1]) * (at - start[0]) / (end[0] - start[0])
            assert picture.slot.shown.on(Device(at, 9 * at)) == pytest.approx(line, abs=0.001)


def test_pictures_that_are_least_alike_are_compared_first(rendered: Path) -> None:
    assert [bool(one.windows) for one in facts(rendered).pictures] == [False, False]
    assert all(one.windows for one in facts(rendered, 24).pictures)
    plan = read_plan(rendered / "sarvel.toml")
    with ledger_of(plan, print, creates=False) as ledger, ThreadPoolExecutor(1) as pool:
        site = read_site(plan, ledger)
        pictures = list(site.edition.pictures.values())
        one = begin(pool, pictures, {}, site, 1)
        assert list(one.windows(Nobody())) == [min(map(key_of, pictures))]


def test_what_is_not_made_yet_is_told(site: Path) -> None:
    report = facts(site)
    assert report.pictures == () and report.tasks[0].text == "2 pictures have files that are not made yet"
    assert report.tasks[0].cure == "run sarvel build" and report.masters_weight == 0
