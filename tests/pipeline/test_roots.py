"""The folders of a site that addresses are seen from."""

from pathlib import Path

import pytest

from sarvel.core.address.address import InFolder
from sarvel.pipeline.roots import addresses_of, project_of, roots_of
from sarvel.plan.read import plan_from

SLOTS = {"card": {"sizes": "100px"}}


@pytest.mark.parametrize(
    ("site", "root", "rooted"),
    [
        ({}, "public", "/pictures"),
        ({"output": "img/made"}, "", "/img/made"),
        ({"output": "src/static/img"}, "src/static", "/img"),
        ({"output": "out/img", "woven": "out"}, "out", "/img"),
        ({"output": "www/img", "root": "www"}, "www", "/img"),
        ({"output": "www/img", "root": "www", "address": "https://h/p/"}, "www", "https://h/p"),
        ({"base": "/blog/"}, "public", "/blog/pictures"),
    ],
)
def test_the_folder_that_is_served(tmp_path: Path, site: dict[str, str], root: str, rooted: str) -> None:
    plan = plan_from({"site": site, "slots": SLOTS}, tmp_path / "sarvel.toml", {})
    assert plan.root == tmp_path / root and addresses_of(plan).rooted == InFolder(rooted)
    assert project_of(plan).tops == tuple(dict.fromkeys([tmp_path / root, tmp_path]))


def test_the_base_of_a_page_counts(tmp_path: Path) -> None:
    plan = plan_from({"slots": SLOTS}, tmp_path / "sarvel.toml", {})
    roots = roots_of(tmp_path / "a" / "b.html", '<base href="/c/">', plan)
    assert (roots.page, roots.base, roots.output) == (tmp_path / "a", "/c/", plan.output)
