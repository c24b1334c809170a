"""Templates as people write them, woven: given back byte for byte, rendered by their engines, and picked from in Chromium."""

import contextlib
import functools
import html
import json
import os
import re
import shutil
import subprocess
from collections.abc import Iterator
from pathlib import Path

import html5lib
import jinja2
import pytest
from markdown_it import MarkdownIt
from selenium import webdriver
from selenium.webdriver.support.wait import WebDriverWait

from sarvel.core.css.device import Device
from sarvel.core.edition.compose import Edition
from sarvel.files.ledger import Ledger
from sarvel.pipeline.site import read_site
from sarvel.plan.read import read_plan
from tests.browser.conftest import served
from tests.conftest import PLAN, run_sarvel
from tests.razor import by_razor

CORPUS = Path(__file__).parent.parent / "corpus"
ENGINES = Path(__file__).parent.parent / "engines"
CONTENT = (
    '[content]\n"pages/post.md" = "banner"\n"pages/list.markdown" = "badge"\n"pages/note.mdx" = "banner"\n'
    '[slots.backdrop]\nsizes = "100vw"\nuse = "background"\nquality = { webp = 20, jpeg = 90 }\n'
)
BLADE = Path("/usr/share/php/Illuminate/View")  # where Debian has it
VALUES = {"show": True, "title": 'The "lamp" & the sea', "items": ["one", "two"], "a": 1, "b": 2}

WOVEN = {
    "plain.html": 3, "legacy.htm": 2, "page.xhtml": 2, "rooms.njk": 1, "macro.njk": 1, "base.jinja2": 2, "list.j2": 1,
    "aside.jinja": 1, "post.liquid": 1, "cards.liquid": 1, "page.hbs": 2, "note.handlebars": 1, "email.mustache": 1,
    "view.twig": 1, "loop.twig": 1, "index.ejs": 2, "show.erb": 2, "index.php": 2, "part.phtml": 1, "Card.vue": 1,
    "Many.vue": 1, "Slot.vue": 1, "Page.jsx": 2, "Frame.jsx": 1, "Room.tsx": 1, "Gallery.svelte": 2, "Plain.svelte": 1,
    "rooms.astro": 2, "view.blade.php": 1, "Index.cshtml": 1, "post.md": 10, "list.markdown": 4, "closed.xhtml": 2,
    "Ends.jsx": 2, "Generic.tsx": 1, "Sections.vue": 1, "Statements.cshtml": 2, "tags.jsp": 2, "strings.php": 1,
    "comments.blade.php": 1, "comments.gohtml": 1, "raw.hbs": 1, "note.mdx": 6, "hero.html": 0,
}  # fmt: skip

SHOWN = {
    "plain.html": 1, "legacy.htm": 2, "page.xhtml": 2, "rooms.njk": 2, "macro.njk": 2, "base.jinja2": 1, "list.j2": 2,
    "aside.jinja": 1, "post.liquid": 1, "cards.liquid": 2, "page.hbs": 3, "note.handlebars": 1, "email.mustache": 1,
    "view.twig": 1, "loop.twig": 2, "index.ejs": 3, "show.erb": 3, "index.php": 3, "part.phtml": 1, "Card.vue": 2,
    "Many.vue": 2, "Slot.vue": 1, "Page.jsx": 3, "Frame.jsx": 1, "Room.tsx": 1, "Gallery.svelte": 3, "Plain.svelte": 1,
    "post.md": 10, "list.markdown": 4, "closed.xhtml": 2, "Ends.jsx": 2, "Generic.tsx": 1, "Sections.vue": 1,
    "strings.php": 1, "comments.blade.php": 2, "raw.hbs": 1, "note.mdx": 6, "hero.html": 0,
}  # fmt: skip
"""How many images each page shows once its engine has run, going by its loops and conditions."""


@pytest.fixture(scope="module")
def corpus(site_before: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A site of all templates, built."""
    folder = tmp_path_factory.mktemp("corpus") / "site"
    shutil.copytree(site_before, folder, ignore=shutil.ignore_patterns("index.html"))
    shutil.copytree(CORPUS, folder / "pages", dirs_exist_ok=True)
    (folder / "sarvel.toml").write_text(PLAN + CONTENT)
    done = run_sarvel("build", cwd=folder)
    assert [line for line in done.stderr.splitlines() if "soft on" not in line and "left out" not in line] == []
    assert done.returncode == 0, done.stderr
    return folder


def read(folder: Path) -> dict[str, str]:
    return {file.name: file.read_text() for file in sorted((folder / "pages").iterdir())}


def test_every_template_is_woven_once_and_given_back(corpus: Path, tmp_path: Path) -> None:
    site = Path(shutil.copytree(corpus, tmp_path / "site"))
    woven = read(site)
    marks = {name: len(re.findall(r"<picture", text)) for name, text in woven.items()}
    assert marks == WOVEN
    assert "0 files written" in run_sarvel("weave", cwd=site).stdout and read(site) == woven
    run_sarvel("weave", "--undo", cwd=site)
    assert read(site) == {file.name: file.read_text() for file in CORPUS.iterdir()}


def test_check_finds_what_is_wrong_with_them_and_no_more(corpus: Path) -> None:
    """Some templates are whole pages with a fault of their own; no dialect's code is taken for one."""
    found = json.loads(run_sarvel("check", "--json", cwd=corpus).stdout)["findings"]
    assert {(one["page"].rsplit("/", 1)[-1], one["rule"]) for one in found} == {
        ("plain.html", "no-viewport-meta"),
        ("plain.html", "image-cannot-shrink"),
        ("legacy.htm", "no-viewport-meta"),
        ("page.xhtml", "no-viewport-meta"),
        ("closed.xhtml", "no-viewport-meta"),
        ("rooms.astro", "no-viewport-meta"),
        ("post.md", "no-modern-format"),
    }


def test_how_each_dialect_spells_it(corpus: Path) -> None:
    woven = read(corpus)
    for name in ("Page.jsx", "Frame.jsx", "Room.tsx"):
        assert 'srcSet="' in woven[name] and ' srcset="' not in woven[name].replace("data-was-", "")
    assert (
        '<picture style={{ display: "contents" }} key={item}>\n' in woven["Page.jsx"]
        and "data-was-key={item}" in woven["Page.jsx"]
    )
    assert '<picture style="display:contents" v-if="a < b && show" :key="item">\n' in woven["Card.vue"]
    assert '<picture style="display:contents" v-for="item in items" :key="item">\n' in woven["Many.vue"]
    assert '<picture style="display:contents" slot="picture"\n' in woven["Slot.vue"]
    for name in ("post.md", "list.markdown"):
        lines = woven[name].splitlines()
        assert all(
            "</picture>" in line or line.endswith('<picture style="display:contents">')
            for line in lines
            if "<picture" in line
        )
    assert "<picture>\n" in woven["page.xhtml"]
    assert re.search(r'<source [^<]*" />\n', woven["page.xhtml"])


def by_node(templates: dict[str, str]) -> dict[str, str]:
    """Each template rendered by its own engine."""
    if not (ENGINES / "node_modules").is_dir():
        if os.environ.get("CI"):
            pytest.fail("no template engines; scripts/test installs them")
        pytest.skip("no template engines; scripts/test installs them")
    told = json.dumps([{"name": name, "text": text} for name, text in templates.items()])
    command = ["node", str(ENGINES / "render.mjs"), json.dumps(VALUES)]
    done = subprocess.run(command, input=told, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    return dict(zip(templates, json.loads(done.stdout), strict=True))


def by_jinja(text: str) -> str:
    return jinja2.Environment(autoescape=True, undefined=jinja2.StrictUndefined).from_string(text).render(VALUES)


def by_markdown(text: str) -> str:
    body = re.sub(r"\A---\n.*?\n---\n", "", text, flags=re.DOTALL | re.IGNORECASE)
    return str(MarkdownIt("commonmark").enable("table").render(body))


def by_php(text: str) -> str:
    said = "".join(f"${name} = {json.dumps(value)};" for name, value in VALUES.items())
    return subprocess.run(["php"], input=f"<?php {said} ?>{text}", capture_output=True, text=True, check=True).stdout


def by_blade(text: str) -> str:
    command = ["php", "-d", "error_reporting=E_ALL&~E_DEPRECATED", str(ENGINES / "blade.php"), json.dumps(VALUES)]
    return subprocess.run(command, input=text, capture_output=True, text=True, check=True).stdout


def by_erb(text: str) -> str:
    said = ";".join(f"{name} = {json.dumps(value)}" for name, value in VALUES.items())
    code = f"require 'erb'; {said}; print ERB.new(STDIN.read, trim_mode: '-').result(binding)"
    return subprocess.run(["ruby", "-e", code], input=text, capture_output=True, text=True, check=True).stdout


def rendered(templates: dict[str, str]) -> dict[str, str]:
    """HTML of every template whose engine is here."""
    nodes = ("njk", "liquid", "hbs", "handlebars", "mustache", "twig", "ejs", "vue", "jsx", "tsx", "svelte", "mdx")
    result = by_node({name: text for name, text in templates.items() if name.rsplit(".", 1)[-1] in nodes})
    ways = {
        **dict.fromkeys(("html", "htm", "xhtml"), lambda text: text),
        **dict.fromkeys(("jinja2", "j2", "jinja"), by_jinja),
        **dict.fromkeys(("md", "markdown"), by_markdown),
        **(dict.fromkeys(("php", "phtml"), by_php) if shutil.which("php") else {}),
        **({"erb": by_erb} if shutil.which("ruby") else {}),
    }
    if BLADE.is_dir() and shutil.which("php"):
        result |= {name: by_blade(text) for name, text in templates.items() if name.startswith("comments.blade")}
    for name, text in templates.items():
        if (way := ways.get(name.rsplit(".", 1)[-1])) and not name.endswith(".blade.php"):
            result[name] = way(text)
    return result


@pytest.fixture(scope="module")
def pages(corpus: Path) -> dict[str, str]:
    return rendered(read(corpus))


def without_images(text: str) -> str:
    """A page less pictures, images, and white space."""
    text = re.sub(
        r"<picture.*?</picture>|<img[^>]*?(?:\"[^\"]*\"[^>]*)*>|</img\s*>|<link[^>]*>|<div data-sarvel[^>]*>",
        "",
        text,
        flags=re.DOTALL | re.IGNORECASE,
    )
    return re.sub(r"\s+|<!--.*?-->", "", html.unescape(text).replace('<p data-woven="">', "<p>"))


def test_engines_render_what_they_rendered_before_and_pictures_in_it(pages: dict[str, str]) -> None:
    """Less the pictures, what comes of a woven template is what came of the author's, less the images."""
    before = rendered({file.name: file.read_text() for file in CORPUS.iterdir()})
    assert len(pages) >= 25 and before.keys() == pages.keys()

    for name, text in pages.items():
        assert without_images(text) == without_images(before[name]), name


def test_razor_reads_what_it_read_before(corpus: Path, tmp_path: Path) -> None:
    """By its own parser: no faults, the same code, and the same markup, less images."""
    names = [name for name in WOVEN if name.endswith(".cshtml")]
    before, after = (
        by_razor([(folder / name).read_text() for name in names], tmp_path) for folder in (CORPUS, corpus / "pages")
    )
    for name, old, new in zip(names, before, after, strict=True):
        (code, markup), (woven_code, woven_markup) = (
            ["".join(text for kind, text in pieces if (kind == "Markup") is wanted) for wanted in (False, True)]
            for pieces in (old, new)
        )
        assert "Error" not in {kind for kind, _ in new} and woven_code == code, name
        assert without_images(woven_markup) == without_images(markup), name
        assert woven_markup.count("<picture") == WOVEN[name]


def test_woven_jsp_compiles(corpus: Path, tmp_path: Path) -> None:
    """By Jasper, to Java that writes the same pictures."""
    jars = [one for one in Path("/usr/share/java").glob("tomcat9-*.jar") if "i18n" not in one.name]
    jars += [one for one in (Path("/usr/share/java/ant.jar"),) if one.exists()]
    if len(jars) < 2 or not shutil.which("java"):
        pytest.skip("no Jasper; scripts/test installs it")
    (tmp_path / "WEB-INF").mkdir()
    shutil.copy(corpus / "pages" / "tags.jsp", tmp_path)
    command = [
        "java",
        "-cp",
        ":".join(map(str, jars)),
        "org.apache.jasper.JspC",
        "-webapp",
        str(tmp_path),
        "-d",
        str(tmp_path / "out"),
        "-p",
        "x",
    ]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 0 and "Generation completed with [0] errors" in done.stderr, done.stderr
    java = (tmp_path / "out" / "x" / "tags_jsp.java").read_text()
    assert java.count("<picture") == 2 and java.count("</picture>") == 2


DEVICES = [Device(360, 740, 3), Device(800, 1000, 1), Device(1440, 900, 2)]


@contextlib.contextmanager
def device_set(browser: webdriver.Chrome, device: Device) -> Iterator[None]:
    metrics = {"width": device.width, "height": device.height, "deviceScaleFactor": device.dpr, "mobile": False}
    browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
    yield
    browser.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})


FETCHED = "return performance.getEntriesByType('resource').map(one => one.name.split('/').pop())"


@pytest.mark.browser
def test_preloaded_images_are_fetched_once(corpus: Path, browser: webdriver.Chrome) -> None:
    """Link and picture together cause one request, for the file that the picture shows; and no link is followed in vain."""
    shutil.copy(corpus / "pages" / "plain.html", corpus / "public" / "preloads.html")
    picture = edition_of(corpus).pictures["banner", "gull.jpg"]
    browser.execute_cdp_cmd("Network.setCacheDisabled", {"cacheDisabled": True})
    with served(corpus / "public") as address:
        for device in DEVICES:
            with device_set(browser, device):
                browser.get(f"{address}/preloads.html")
                browser.execute_script("return document.images[0].decode()")
                fetched = [name for name in browser.execute_script(FETCHED) if name.startswith("gull-banner")]
                assert fetched == [picture.fetched(device).name], str(device)
                warned = [one for one in browser.get_log("browser") if "preload" in one["message"]]  # type: ignore[no-untyped-call]
                assert warned == []
    browser.execute_cdp_cmd("Network.setCacheDisabled", {"cacheDisabled": False})


@pytest.mark.browser
def test_backgrounds_by_band_and_density(corpus: Path, browser: webdriver.Chrome) -> None:
    """A phone of density 2 takes the file that is sharp there; a class without a rule of its own band takes the base's."""
    site = Path(shutil.copytree(corpus, corpus.parent / "behind"))
    slot = '[slots.hero]\nsizes = { phone = "100vw", desktop = "10vw" }\nwidths = [200, 400, 800]\nuse = "background"\nmasters = ["gull.jpg"]\n'
    (site / "sarvel.toml").write_text(PLAN.replace("[slots.badge]", f"{slot}[slots.badge]") + CONTENT)
    run_sarvel("build", cwd=site)
    page = '<!doctype html><link rel="stylesheet" href="pictures/pictures.css"><p class="hero-gull" style="height:9em">'
    (site / "public" / "behind.html").write_text(page)
    names = sorted(file.name for file in (site / "public" / "pictures").glob("gull-hero-*.webp"))
    with served(site / "public") as address:
        for device, width in ((Device(360, 740, 1), 800), (Device(1440, 900, 1), 400), (Device(1440, 900, 2), 800)):
            with device_set(browser, device):
                browser.get(f"{address}/behind.html")
                WebDriverWait(browser, 20).until(lambda it: "gull-hero" in str(it.execute_script(FETCHED)))
                fetched = [name for name in browser.execute_script(FETCHED) if name.startswith("gull-hero")]
                assert fetched == [name for name in names if f"-{width}." in name], str(device)


def test_written_html_conforms(corpus: Path, demo: Path) -> None:
    """The page's own tags aside, a checker that stops at the first error reads all of it."""
    checked = [*(demo / "public").glob("*.html"), corpus / "pages" / "plain.html"]
    assert len(checked) == 4
    for file in checked:
        html5lib.HTMLParser(strict=True).parse(file.read_text())


@functools.cache
def edition_of(folder: Path) -> Edition:
    plan = read_plan(folder / "sarvel.toml")
    return read_site(plan, Ledger(plan.folder / "sarvel.ledger")).edition


@pytest.mark.browser
def test_every_device_fetches_what_the_edition_says(
    corpus: Path, pages: dict[str, str], browser: webdriver.Chrome
) -> None:
    made = corpus / "public" / "rendered"
    made.mkdir()
    for name, text in pages.items():
        (made / f"{name}.html").write_text('<!doctype html><meta charset="utf-8"><base href="/">' + text)
    script = (
        "const master = one => one.dataset.master ?? one.dataset.woven?.split('#')[0];"
        "return Promise.all(Array.from(document.images).filter(master).map(async one => {"
        "one.loading = 'eager'; await one.decode(); return [one.dataset.sarvel || '', master(one), one.currentSrc]"
        "}))"
    )
    with served(corpus / "public") as address:
        for device in DEVICES:
            with device_set(browser, device):
                for name in pages:
                    browser.get(f"{address}/rendered/{name}.html")
                    found = browser.execute_script(script)
                    assert len(found) == SHOWN[name], name
                    for said, master, url in found:
                        slot = said or ("banner" if name in ("post.md", "note.mdx") else "badge")
                        picture = edition_of(corpus).pictures[slot, master.rsplit("/", 1)[-1]]
                        assert url.rsplit("/", 1)[-1] == picture.fetched(device).name, (name, str(device))
