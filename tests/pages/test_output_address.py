"""Addresses of renditions: each page in the way that leads to the file from where it is served."""

from pathlib import Path
from urllib.parse import unquote, urljoin

import pytest

from sarvel.core.address.address import InFolder
from sarvel.pages.weave.output_address import Addresses

WHOLE = "<!doctype html><p>x</p>"


@pytest.mark.parametrize(
    ("target", "text", "srcs", "address"),
    [
        ("www/index.html", WHOLE, ["img/a.jpg"], "my%20pictures"),
        ("www/a/b/index.html", WHOLE, [], "../../my%20pictures"),
        ("www/a/index.html", WHOLE, ["img/a.jpg", "/img/b.jpg"], "/my%20pictures"),
        ("www/a/part.html", "<p>x</p>", [], "/my%20pictures"),
        ("www/a/index.vue", WHOLE, [], "/my%20pictures"),
        ("www/a/index.html", "---\nlayout: x\n---\n" + WHOLE, [], "/my%20pictures"),
        ("www/a/index.html", WHOLE + "{{ title }}", [], "/my%20pictures"),
        ("www/a/index.html", WHOLE + "<script>`{{ x }}`</script>", [], "../my%20pictures"),
        ("www/a/index.html", WHOLE + '<base href="/">', [], "my%20pictures"),
        ("www/a/index.html", WHOLE + '<base href="../b/c/">', [], "../../my%20pictures"),
    ],
)
def test_each_page_in_its_own_way(tmp_path: Path, target: str, text: str, srcs: list[str], address: str) -> None:
    ways = Addresses(tmp_path / "www" / "my pictures", tmp_path / "www")
    assert ways.rooted == InFolder("/my%20pictures")
    assert ways.of_page(tmp_path / target, text, srcs) == InFolder(address)
    # A second way: a URL joined as browsers do leads to the folder.
    base = text.partition('<base href="')[2].partition('"')[0]
    here = urljoin("http://h/" + str(Path(target).relative_to("www")), base)
    assert unquote(urljoin(here, address + "/x.jpg")) == "http://h/my pictures/x.jpg"


def test_one_way_if_the_plan_says_so(tmp_path: Path) -> None:
    ways = Addresses(tmp_path / "out", tmp_path, "https://h/p")
    assert ways.rooted == ways.of_page(tmp_path / "a" / "b.html", WHOLE, []) == InFolder("https://h/p")


def test_the_output_folder_may_be_the_root(tmp_path: Path) -> None:
    ways = Addresses(tmp_path, tmp_path)
    assert (ways.rooted, ways.of_page(tmp_path / "a.html", WHOLE, [])) == (InFolder(""), InFolder(""))
