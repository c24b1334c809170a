"""Pages before and after weaving, as `sarvel confirm` sees them: silent where all is well, exact where it is not."""

import json
import shutil
from pathlib import Path

import pytest
from selenium import webdriver

from sarvel.browser.page_state import state_on, watch
from sarvel.browser.session import Session
from sarvel.browser.site_server import Folders, SiteServer
from sarvel.core.css.device import Device
from sarvel.errors import PlanError
from sarvel.pipeline.listener import Nobody
from sarvel.plan.read import read_plan
from sarvel.tools.confirm.woven import confirm
from tests.browser.conftest import served
from tests.conftest import run_sarvel

pytestmark = pytest.mark.browser
PHONE, DESKTOP = "360x740@3", "1440x900@1"


def test_the_demo_is_as_its_plan_asks(demo: Path) -> None:
    done = run_sarvel("confirm", "--json", "--device", PHONE, "--device", DESKTOP, cwd=demo)
    document = json.loads(done.stdout)
    assert done.returncode == 0, done.stderr
    assert [(one["well"], one["changes"], one["strayed"], one["broken"]) for one in document["pages"]] == [
        (True, [], [], [])
    ] * 6
    for one in document["pages"]:
        assert 0 < one["bytes"]["after"] < one["bytes"]["before"] / 4
        assert all((demo / "public" / "pictures" / name).is_file() for name in one["fetched"])
    slow = [one["largest_ms"] for one in document["pages"] if one["device"] == PHONE]
    assert all(one["after"] > 0 for one in slow), slow  # each may be late on a busy machine; all together are not
    assert sum(one["after"] for one in slow) < sum(one["before"] for one in slow), slow


PAGE = """<!doctype html><html><head><meta charset="utf-8"><style>body { margin: 0 } img { max-width: 100% } .half { width: 50% }</style></head>
<body><img class="half" src="../masters/gull.jpg" data-sarvel="banner"><p class="last">Words</p></body></html>"""


@pytest.mark.parametrize(
    "site_says",
    [
        'delivery = "request"',
        'address = "https://pictures.example/{master}?box={left},{top},{across},{down}&w={width}.{ext}"',
    ],
    ids=["request", "elsewhere"],
)
def test_what_is_made_when_asked_for_is_confirmed_alike(woven: Path, site_says: str) -> None:
    plan = woven / "sarvel.toml"
    plan.write_text(plan.read_text().replace("[site]", f"[site]\n{site_says}"))
    assert run_sarvel("deliver", "--new-key", cwd=woven).returncode == 0
    shutil.rmtree(woven / "public")
    assert "nothing to render" in run_sarvel("build", cwd=woven).stdout
    done = run_sarvel("confirm", "--json", "--device", PHONE, "--device", DESKTOP, cwd=woven)
    document = json.loads(done.stdout)
    assert [(one["well"], one["strayed"], one["broken"], len(one["fetched"])) for one in document["pages"]] == [
        (True, [], [], 1)
    ] * 2
    # A page that is still open when the next viewport comes may ask for one more.
    made = len(list((woven / "sarvel.cache").rglob("*.webp")))
    assert made >= len({one["fetched"][0] for one in document["pages"]}) and not (woven / "public").exists()


BROKEN = {
    "squeezed": ("img.half", "became"),
    "broken": ("../masters/gull.jpg does not load any more; run sarvel check",),
    "strayed": ("was fetched, not", "run sarvel pick --why"),
    "pushed": ("p.last moved from", "look at sizes and reserve"),
    "narrow": ("is shown 360 px wide, and its markup says 180 px", "run sarvel measure --save"),
    "gallery": ("a script sets the src of ../masters/gull.jpg", "have it set srcset, too"),
    "script": ("its console says", "nothing is not defined"),
}


@pytest.fixture
def woven(site: Path) -> Path:
    """A site woven in place, with one picture."""
    (site / "pages" / "index.html").write_text(PAGE)
    plan = (site / "sarvel.toml").read_text()
    (site / "sarvel.toml").write_text(
        plan.replace('sizes = { phone = "100vw", desktop = "50vw" }', 'sizes = "50vw"')
        .replace('crops = { phone = "1:1", desktop = "2:1" }\n', "")
        .replace('address = "/pictures"\n', "")
    )
    assert run_sarvel("build", "--quiet", cwd=site).returncode in (0, 1)
    return site


def test_a_site_that_is_well(woven: Path) -> None:
    done = run_sarvel("confirm", "--device", PHONE, "--device", DESKTOP, cwd=woven)
    assert done.returncode == 0 and "1 page on 2 devices, before and after: all as the plan asks" in done.stdout, (
        done.stdout + done.stderr
    )


def test_a_page_that_scripts_lay_out_by_its_first_viewport_is_well(woven: Path) -> None:
    page = woven / "pages" / "index.html"
    page.write_text(
        page.read_text().replace(
            "</body>", "<script>document.body.style.paddingTop = `${innerWidth / 9}px`</script></body>"
        )
    )
    done = run_sarvel("confirm", "--device", PHONE, "--device", DESKTOP, "--device", "800x600@1", cwd=woven)
    assert done.returncode == 0, done.stdout + done.stderr


def test_of_many_pages_some_of_each_kind_are_opened(woven: Path) -> None:
    for number in range(14):
        (woven / "pages" / f"{number:02}.html").write_text(PAGE.replace("Words", f"Other words {number}"))
    assert run_sarvel("build", "--quiet", cwd=woven).returncode in (0, 1)
    for words, count in (((), 2), (("--all",), 15), (("pages/09.html",), 1)):
        done = run_sarvel("confirm", "--device", PHONE, *words, cwd=woven)
        assert f"{count} page" in done.stdout, done.stdout + done.stderr
        assert ("13 pages skipped" in done.stderr) is not bool(words) and done.returncode == 0


@pytest.mark.parametrize("name", BROKEN)
def test_what_is_not_as_the_plan_asks_is_told(name: str, woven: Path) -> None:
    page = woven / "pages" / "index.html"
    text = page.read_text()
    match name:
        case "squeezed":
            page.write_text(text.replace("</head>", "<style>picture img { height: 40px }</style></head>"))
        case "broken":
            for file in (woven / "public" / "pictures").iterdir():
                file.unlink()
        case "strayed":
            page.write_text(
                text.replace("</body>", "<script>document.querySelector('source').remove()</script></body>")
            )
        case "pushed":
            page.write_text(text.replace("</head>", "<style>picture + p { margin-top: 90px }</style></head>"))
        case "narrow":
            page.write_text(text.replace("</head>", "<style>.half { width: 100% }</style></head>"))
        case "gallery":
            code = "big = document.querySelector('.half'); document.querySelector('li').onclick = () => { big.src = 'other.jpg' }"
            small = "<ul><li><a href='gone.html'><img src='../masters/gull.jpg' width='20' alt=''></a></li></ul>"
            page.write_text(text.replace("</body>", f"{small}<script>{code}</script></body>"))
        case "script":
            page.write_text(
                text.replace("</body>", "<script>if (document.querySelector('[data-woven]')) nothing()</script></body>")
            )
    done = run_sarvel("confirm", "--device", PHONE, cwd=woven)
    assert done.returncode == 1 and all(word in done.stderr for word in BROKEN[name]), done.stdout + done.stderr
    assert "1 not as the plan asks" in done.stdout


def test_what_cannot_be_confirmed(woven: Path) -> None:
    (woven / "pages" / "two.html").write_text(
        PAGE.replace("<body>", "<body><script>location.href = 'index.html'</script>")
    )
    run_sarvel("weave", cwd=woven)
    done = run_sarvel("confirm", "pages/two.html", "none.html", "--device", PHONE, cwd=woven)
    assert done.returncode == 1 and "no page was confirmed" in done.stdout
    assert (
        "two.html: leads to" in done.stderr
        and "none.html: there is no such page; name one that site.pages means" in done.stderr
    )
    done = run_sarvel("confirm", "none.html", cwd=woven)
    assert done.returncode == 2 and "no page that a browser shows is among none.html; name one" in done.stderr


@pytest.fixture
def built(woven: Path) -> Path:
    """The same site as an engine might have built it, before weaving and after, with masters under another name."""
    page = (woven / "pages" / "index.html").read_text()
    for folder in ("before", "after"):
        (woven / folder / "inner").mkdir(parents=True)
    shutil.copytree(woven / "public" / "pictures", woven / "after" / "pictures")
    shutil.copy(woven / "masters" / "gull.jpg", woven / "before" / "gull-4f2a.jpg")
    (woven / "after" / "inner" / "index.html").write_text(page.replace("../public/", "/"))
    (woven / "before" / "inner" / "index.html").write_text(PAGE.replace("../masters/gull.jpg", "/gull-4f2a.jpg"))
    return woven


BUILT: dict[str, tuple[dict[str, str], str]] = {
    "well": ({}, ""),
    "moved": ({"</head>": "<style>p { margin-top: 90px }</style></head>"}, "p.last moved from"),
    "broken": ({"/pictures/": "/gone/"}, "gull-4f2a.jpg does not load any more"),
    "console": ({"</body>": "<script>nothing()</script></body>"}, "its console says"),
    "built by a script": ({"</body>": "<script>document.body.append('one'); document.body.append(document.createElement('i'))</script></body>"}, "its elements are others"),
}  # fmt: skip


@pytest.mark.parametrize("name", BUILT)
def test_what_an_engine_built_is_held_against_what_it_built_before(name: str, built: Path) -> None:
    change, told = BUILT[name]
    page = built / "after" / "inner" / "index.html"
    for old, new in change.items():
        page.write_text(page.read_text().replace(old, new))
    done = run_sarvel("confirm", "--built", "before", "after", "--device", PHONE, "--json", cwd=built)
    assert done.returncode == bool(change) and told in done.stderr, done.stderr
    [one] = json.loads(done.stdout)["pages"]
    assert one["well"] is not bool(change) and one["page"] == "after/inner/index.html"
    if not change:
        assert len(one["fetched"]) == 1 and one["fetched"][0].startswith("gull-banner")
        assert 0 < one["bytes"]["after"] < one["bytes"]["before"] and one["largest_ms"]["after"] is not None


def test_two_sites_that_run_are_held_against_each_other(built: Path) -> None:
    for folder in ("before", "after"):
        (built / folder / "index.html").write_text('<!doctype html><p><a href="inner/index.html">in</a>')
    with served(built / "before") as before, served(built / "after") as after:
        done = run_sarvel("confirm", "--before", before, "--after", after, "--device", PHONE, "--json", cwd=built)
    assert done.returncode == 0, done.stderr
    pages = {one["page"]: one for one in json.loads(done.stdout)["pages"]}
    assert list(pages) == ["/", "/inner/index.html"] and all(one["well"] for one in pages.values())
    inner = pages["/inner/index.html"]
    assert inner["fetched"][0].startswith("gull-banner") and 0 < inner["bytes"]["after"] < inner["bytes"]["before"]
    for words, line in (
        (("--before", before), "--before and --after belong together"),
        (("--before", "https://example.org", "--after", after), "is no address on this machine"),
    ):
        done = run_sarvel("confirm", *words, cwd=built)
        assert done.returncode == 2 and line in done.stderr


def test_crops_are_no_moves_of_a_built_page(built: Path) -> None:
    """The plan asks for squares; the page before is looked at with squares, and with nothing else changed."""
    plan = built / "sarvel.toml"
    plan.write_text(plan.read_text().replace('sizes = "50vw"', 'sizes = "50vw"\ncrops = "1:1"', 1))
    run_sarvel("build", "--quiet", cwd=built)
    shutil.copytree(built / "public" / "pictures", built / "after" / "pictures", dirs_exist_ok=True)
    page = (built / "pages" / "index.html").read_text()
    (built / "after" / "inner" / "index.html").write_text(page.replace("../public/", "/"))
    done = run_sarvel("confirm", "--built", "before", "after", "--device", PHONE, "--json", cwd=built)
    [one] = json.loads(done.stdout)["pages"]
    assert one["well"], one
    assert one["bytes"]["before"] == (built / "before" / "gull-4f2a.jpg").stat().st_size, (
        "the page itself shows its own file"
    )


@pytest.mark.parametrize(
    ("words", "line"),
    [
        (("none", "after"), "none: there is no such folder; build the site into it, and name it again"),
        (("masters", "after"), "after: no page in it is also in masters; build the same site into both"),
        (("before", "after", "x.html"), "x.html: is not in both before and after; name a page that both hold"),
    ],
)
def test_what_was_not_built_is_told(words: tuple[str, ...], line: str, built: Path) -> None:
    done = run_sarvel("confirm", "--built", *words, "--device", PHONE, cwd=built)
    assert done.returncode in (1, 2) and line in done.stderr, done.stderr


def test_a_state_counts_bytes_and_what_shifts(
    tmp_path: Path, browser: webdriver.Chrome, images_of_known_size: dict[str, int]
) -> None:
    for name, size in images_of_known_size.items():
        (tmp_path / name).write_bytes(b"<svg xmlns='http://www.w3.org/2000/svg' width='9' height='9'/>".ljust(size))
    (tmp_path / "index.html").write_text(
        '<!doctype html><body><img src="a.svg"><img src="b.svg" loading="lazy"><img src="none.svg">'
    )
    server = SiteServer(Folders([tmp_path]), {})
    session = Session(browser, server.address)
    try:
        watch(session)
        state = state_on(session, server, "/index.html", Device(400, 500, 2))
        assert state.weight == sum(images_of_known_size.values())
        assert [(image.named, image.natural) for image in state.images] == [("a.svg", 9), ("b.svg", 9), ("none.svg", 0)]
        assert any("none.svg" in error and server.address not in error for error in state.errors)
    finally:
        browser.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})
        server.close()


@pytest.fixture
def images_of_known_size() -> dict[str, int]:
    return {"a.svg": 700, "b.svg": 900}


def test_no_driver_is_a_sentence(woven: Path) -> None:
    shutil.rmtree(woven / "public")
    done = run_sarvel("confirm", "--driver", "http://127.0.0.1:9", cwd=woven)
    assert done.returncode == 2 and "no browser could be started" in done.stderr and "Traceback" not in done.stderr


def test_where_no_page_is_left_no_browser_is_started(woven: Path) -> None:
    plan = read_plan(woven / "sarvel.toml")
    with pytest.raises(PlanError, match=r"no page that a browser shows is among none\.html; name one"):
        confirm(plan, ["none.html"], [Device(400, 500)], "http://nowhere.invalid", Nobody())
