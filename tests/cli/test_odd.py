"""Odd and hostile input through the program: a line each, no traceback, no hang, and nothing written where it may not be."""

import contextlib
import html
import io
import json
import math
import os
import shutil
import socket
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import pytest
import tomlkit
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from sarvel.cli.main import main
from sarvel.plan import schema
from tests.conftest import PLAN, Run

LONG = "a" * 300
BASE64 = "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABAAAAAAAAAA"

ADDRESSES = ["http://[x/a.jpg", f"{LONG}.jpg", "a%00b.jpg", f"data:image/png;base64,{BASE64}", "javascript:alert(1)", "blob:x", "file:///etc/passwd",
    "//host/a.jpg", "../../../../../etc/passwd", ".", "/", "", " ", "?x", "#y", "%", "%ff.jpg", "../masters/", "c:\\x.jpg", "{{ x }}"]  # fmt: skip


def quiet(done: subprocess.CompletedProcess[str]) -> None:
    assert done.returncode in (0, 1, 2) and "fault of ours" not in done.stderr and "Traceback" not in done.stderr


@pytest.mark.parametrize("address", ADDRESSES, ids=lambda address: address[:20])
def test_addresses_that_no_master_has(rendered: Path, sarvel: Run, address: str) -> None:
    tag = f'<img data-sarvel="badge" src="{address}" alt="x">'
    page = rendered / "pages" / "index.html"
    page.write_text(
        f'<img src="{address}" srcset="{address} 2x" alt="x" width="3" height="3"><link rel="stylesheet" href="{address}">\n{tag}\n'
    )
    done = sarvel("weave")
    assert done.returncode == 1 and len(done.stderr.splitlines()) == 1 and "pages/index.html:2:1: " in done.stderr
    assert tag in page.read_text() and BASE64 not in done.stderr
    for command in (("survey",), ("check", "pages/index.html"), ("pick", "pages/index.html"), ("build", "--quiet")):
        done = sarvel(*command)
        quiet(done)
        assert done.returncode != 2 and BASE64 not in done.stdout + done.stderr, done.stderr


def fifo(file: Path) -> None:
    os.mkfifo(file)


def socket_of(file: Path) -> None:
    with contextlib.chdir(file.parent), socket.socket(socket.AF_UNIX) as opened:
        opened.bind(file.name)


NO_MASTERS: dict[str, tuple[Callable[[Path], object], str]] = {
    "a pipe": (fifo, "gull.jpg: is no file but a folder, a pipe or a device; put an image there"),
    "a socket": (socket_of, "gull.jpg: cannot be read (No such device or address)"),
    "a device": (lambda file: file.symlink_to("/dev/zero"), "gull.jpg: is no file but a folder, a pipe or a device"),
    "a folder": (lambda file: file.mkdir(), "gull.jpg: cannot be read (Is a directory)"),
    "a link to nowhere": (lambda file: file.symlink_to("nowhere"), "gull.jpg: there is no such file in the masters folder"),
    "a program for printers": (lambda file: file.write_text("%!PS-Adobe-3.0 EPSF-3.0\n%%BoundingBox: 0 0 9 9\nshowpage\n"), "gull.jpg: is not an image that can be read"),
    "a format that is not meant": (lambda file: Image.new("RGB", (9, 9)).save(file, "tga"), "gull.jpg: is not an image that can be read"),
    "another format that is not meant": (lambda file: Image.new("RGB", (9, 9)).save(file, "jpeg2000"), "gull.jpg: is not an image that can be read"),
}  # fmt: skip


@pytest.mark.parametrize(("make", "words"), NO_MASTERS.values(), ids=NO_MASTERS)
def test_what_is_no_master_stops_nothing_and_nobody_waits_for_it(
    site: Path, sarvel: Run, make: Callable[[Path], object], words: str
) -> None:
    (site / "masters" / "gull.jpg").unlink()
    make(site / "masters" / "gull.jpg")
    fifo(site / "x.jpg")
    fifo(site / "pages" / "x.css")
    (site / "pages" / "loop.html").symlink_to("loop.html")
    done = sarvel("build", "--quiet")
    assert done.returncode == 1 and words in done.stderr and len(done.stderr.splitlines()) == 1
    assert (site / "pages" / "index.html").read_text().count("data-woven") == 1
    for command in ("survey", "check", "plan"):
        quiet(sarvel(command))
    (site / "sarvel.toml").unlink()
    quiet(sarvel("start"))


def test_names_that_are_not_utf_8(site: Path, sarvel: Run) -> None:
    shutil.copy(site / "masters" / "gull.jpg", os.fsdecode(os.fsencode(site / "masters") + b"/\xff.jpg"))
    keys = '[site]\nmanifest = "public/pictures.json"\n'
    rest = '[partials]\nfolder = "parts"\nmacro = "parts.jinja"\n'
    plan = PLAN.replace("[site]\n", keys).replace(
        "[slots.banner]", '[slots.banner]\nuse = "background"\nmasters = ["*.jpg"]'
    )
    (site / "sarvel.toml").write_text(plan + rest)
    page = site / "pages" / "index.html"
    page.write_text('<img data-sarvel="banner" src="../masters/%FF.jpg" alt="Odd">')
    assert sarvel("build").returncode in (0, 1) and page.read_text().count("data-woven") == 1
    assert json.loads((site / "public" / "pictures.json").read_text())
    assert json.loads(sarvel("build", "--json").stdout)["pictures"]
    for command in ("survey", "plan", "render"):
        quiet(sarvel(command))


def test_a_stem_as_long_as_a_file_can_be_called(site: Path, sarvel: Run) -> None:
    (site / "masters" / "gull.jpg").rename(site / "masters" / f"{'a' * 251}.jpg")
    page = site / "pages" / "index.html"
    page.write_text(f'<img data-sarvel="banner" src="../masters/{"a" * 251}.jpg" alt="Long">')
    (site / "sarvel.toml").write_text(PLAN.split("[masters")[0])
    assert sarvel("build", "--quiet").returncode == 0
    names = {file.name for file in (site / "public" / "pictures").iterdir()}
    assert names and max(map(len, names)) == 200 and "data-woven" in page.read_text()


def runs_as_nobody() -> bool:
    """Whether the program can be run without an administrator's rights here: there is somebody else, who can read it."""
    if os.name != "posix" or os.geteuid() != 0:
        return False
    command = [sys.executable, "-c", "import sarvel.plan.read"]
    try:
        return subprocess.run(command, user=65534, group=65534, check=False, capture_output=True).returncode == 0
    except PermissionError:
        return False


@pytest.mark.parametrize(
    ("place", "rights", "code", "words"),
    [
        ("masters", 0, 1, "gull.jpg: cannot be read (Permission denied); check its permissions"),
        ("pages/more.css", 0, 1, "pages/more.css: cannot be read (Permission denied), and is not copied"),
        ("pages/more.html", 0, 1, "pages/more.html: cannot be read (Permission denied)"),
        ("sarvel.toml", 0, 2, "sarvel.toml: cannot be read (Permission denied)"),
        ("public", 0, 2, "Permission denied"),
        (".", 0o555, 0, "sarvel.ledger: cannot be used (unable to open database file)"),
    ],
)
def test_files_and_folders_without_rights(site: Path, place: str, rights: int, code: int, words: str) -> None:
    if not runs_as_nobody():
        pytest.skip("the program cannot be run as somebody else here")
    (site / "sarvel.toml").write_text(PLAN.replace("[site]", '[site]\nwoven = "public"'))
    (site / "pages" / "more.css").write_text("p {}")
    (site / "pages" / "more.html").write_text("<p>More</p>")
    (site / "public").mkdir()
    for file in (site, *site.rglob("*")):
        os.chown(file, 65534, 65534)
    for folder in list(site.parents)[:-2]:
        folder.chmod(folder.stat().st_mode | 0o755)
    os.chown(site / place, 0, 0)
    (site / place).chmod(rights)
    program = Path(sys.executable).parent / "sarvel"
    done = subprocess.run(
        [program, "build", "--quiet"],
        cwd=site,
        user=65534,
        group=65534,
        capture_output=True,
        text=True,
        check=False,
        timeout=120,
    )
    (site / place).chmod(0o755)
    quiet(done)
    assert done.returncode == code and words in done.stderr, done.stderr


PLANS = {
    "nothing": ('"40px"', '"0"', "sarvel.toml:20: slots.badge.sizes: is 0 px on every viewport"),
    "no number": ('"40px"', '"1e400px"', "sarvel.toml:20: slots.badge.sizes: is no number on a viewport of 240 px"),
    "divided by nothing": ('"40px"', '"calc(100vw/0)"', "sarvel.toml:20: slots.badge.sizes: is no number"),
    "many terms": ('"40px"', f'"calc({" + ".join(["1px"] * 20_000)})"', "more than 400 parts in one expression"),
    "nested arrays": ('"40px"', "[" * 3000 + "]" * 3000, "sarvel.toml:20: arrays or tables stand too deep within each other"),
    "an open bracket": ('"40px"', '"calc(100vw - 2rem"', "holds a '(' that is never closed; close it or take it away"),
    "a glob at the root": ('["pages"]', '["/etc/*.html"]', "sarvel.toml:2: site.pages.0: '/etc/*.html' begins at the root"),
    "an empty glob": ('["pages"]', '[""]', "sarvel.toml:2: site.pages.0: is empty"),
    "stars": ('["pages"]', '["**x"]', "sarvel.toml:2: site.pages.0: '**x' has ** next to other characters"),
    "pages outside": ('["pages"]', '["../pages"]', "sarvel.toml:2: site.pages: "),
    "no pages": ('["pages"]', '["nowhere"]', "sarvel.toml:2: site.pages: 'nowhere' matches no file"),
    "a NUL": ('"/pictures"', '"a\\u0000b"', "sarvel.toml:3: site.address: holds a NUL"),
    "endless": ("desktop = 800", "desktop = inf", "sarvel.toml:7: breakpoints.desktop: got inf"),
    "a huge number": ("desktop = 800", f"desktop = {'9' * 5000}", "sarvel.toml:7: a number of 5000 digits; write a smaller one"),
    "an open condition": ('crops = { phone = "1:1", desktop = "2:1" }', 'crops = [{ when = "(min-width: 5px", ratio = "1:1" }, { ratio = "2:1" }]', "sarvel.toml:15: slots.banner.crops.0.when: '(min-width: 5px' holds a '(' that is never closed"),
    "a comment": ('crops = { phone = "1:1", desktop = "2:1" }', 'crops = [{ when = "(min-width: 5px) /* x", ratio = "1:1" }, { ratio = "2:1" }]', "holds a comment"),
    "a slot outside": ("[slots.badge]", '[slots."../../evil"]', 'sarvel.toml:19: slots."../../evil": cannot be a name here; write letters, digits'),
    "a slot that is no class": ("[slots.badge]", '[slots."1 a"]', 'sarvel.toml:19: slots."1 a": cannot be a name here'),
    "a slot that colors terminals": ("[slots.badge]", '[slots."\\u001b[31m"]', "cannot be a name here"),
    "too long a name": ("[site]", f'[site]\noutput = "{LONG}"', "sarvel.toml:2: site.output: 'aaa"),
    "masters outside": ("[slots.badge]", '[slots.badge]\nmasters = ["../*.jpg"]', "sarvel.toml:20: slots.badge.masters.0: '../*.jpg' leads out of the masters folder"),
}  # fmt: skip


@pytest.mark.parametrize(("old", "new", "words"), PLANS.values(), ids=PLANS)
def test_plans_that_say_what_cannot_be(site: Path, sarvel: Run, old: str, new: str, words: str) -> None:
    assert old in PLAN
    shutil.copytree(site / "pages", site.parent / "pages")
    (site / "sarvel.toml").write_text(PLAN.replace(old, new, 1))
    done = sarvel("build")
    assert done.returncode == 2 and words in done.stderr and len(done.stderr.splitlines()) == 1, done.stderr
    assert not (site / "public").exists()


@pytest.mark.parametrize(
    ("rows", "words"),
    [
        ("1e99,800,1,1", "audience.csv:2: width: got '1e99'; write a number above 0, up to 100,000"),
        (f"{'9' * 200_000},800,1,1", "audience.csv:2: is no line of CSV (field larger than field limit (131072))"),
        ("nan,800,1,1", "audience.csv:2: width: got 'nan'"),
        ("800,800,1,", "audience.csv:2: share: got ''"),
    ],
    ids=["huge", "long", "none", "empty"],
)
def test_audiences_that_say_what_cannot_be(site: Path, sarvel: Run, rows: str, words: str) -> None:
    (site / "sarvel.toml").write_text(PLAN.replace("[site]", '[site]\naudience = "audience.csv"'))
    (site / "audience.csv").write_text(f"width,height,density,share\n{rows}\n")
    done = sarvel("plan")
    assert done.returncode == 2 and words in done.stderr and len(done.stderr.splitlines()) == 1


CODE = "{{7*7}} {% x %} {x} <?x?> <% x %> @x(1) \x1b[31m [bold]x[/] <b> \" '"


@pytest.mark.parametrize("ending", [".html", ".njk", ".blade.php", ".svelte", ".astro", ".vue", ".jsx", ".md", ".hbs"])
def test_what_the_plan_says_is_text_on_every_page(rendered: Path, sarvel: Run, ending: str) -> None:
    plan = rendered / "sarvel.toml"
    plan.write_text(PLAN.replace('"A gull"', json.dumps(CODE)))
    page = rendered / "pages" / f"page{ending}"
    tag = '<img data-sarvel="banner" src="../masters/gull.jpg" />'
    around = {".jsx": ("export default () => ", ""), ".vue": ("<template>", "</template>")}.get(ending, ("", ""))
    page.write_text(f"{around[0]}<p>{tag}</p>{around[1]}\n")
    (rendered / "pages" / "index.html").unlink()
    assert sarvel("weave").returncode == 0
    woven = page.read_text()
    said = woven.split('alt="')[1].split('"')[0]
    assert not set('{}<>@"') & set(said) and "&#123;&#123;7*7&#125;&#125;" in said
    assert html.unescape(said) == CODE


def test_names_neither_color_terminals_nor_are_markup(site: Path, sarvel: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("COLUMNS", "160")
    for name in ("[red]x[-red].png", "\x1b[31mred.png", "{{7*7}}#{7*7}.png"):
        shutil.copy(site / "masters" / "seal.png", site / "masters" / name)
    keys = PLAN.replace("[site]\n", '[site]\nmanifest = "public/pictures.json"\n').replace(
        "[slots.badge]", '[slots.badge]\nmasters = ["*.png"]'
    )
    (site / "sarvel.toml").write_text(keys + '[partials]\nfolder = "parts"\nmacro = "parts.twig"\n')
    done = sarvel("build")
    planned = sarvel("plan").stdout
    assert done.returncode == 0 and "[red]x[-red].png" in planned and "\\x1b[31mred.png" in planned
    assert "\x1b" not in done.stdout + done.stderr + sarvel("survey").stdout + sarvel("plan").stdout
    assert "{{7*7}}#{7*7}.png" in json.loads((site / "public" / "pictures.json").read_text())["pictures"]["badge"]
    assert '"badge/{{7*7}}\\#{7*7}.png"' in (site / "parts.twig").read_text()


JUNK: list[object] = [0, -1, 10**20, 1e308, math.inf, math.nan, True, "", "0", "1e400px", "calc(", "min()", "-5px", "(", "/*", "../../evil", "/etc", ".", "..", "masters",
    "pages", "sarvel.toml", "masters/gull.jpg", "pages/index.html", "sarvel.ledger", "public/pictures", "**", "[", LONG, "{{7*7}}", "\x1b[31m", "é ", "'\"<>", [], [[]], {}, ["/x"], [0.5, 0.5],
    [1, 2, 3], {"x": 1}, {"phone": "1px"}, {"phone": "1:1", "desktop": "native"}, "native", "100vw", "print", "(orientation: portrait)"]  # fmt: skip


def tables(model: type[schema.PlanTable]) -> list[str]:
    return [field.alias or name for name, field in model.model_fields.items()]


PLACES = [
    *(("site", key) for key in tables(schema.SiteTable)),
    *(("defaults", key) for key in tables(schema.DefaultsTable)),
    *(("slots", slot, key) for slot in ("banner", "badge", "new") for key in tables(schema.SlotTable)),
    *(("masters", "gull.jpg", key) for key in tables(schema.MasterTable)),
    *(("masters", "gull.jpg", "crops", "banner", "phone", key) for key in tables(schema.MasterCropTable)),
    *(("partials", key) for key in tables(schema.PartialsTable)),
    *(("check", key) for key in tables(schema.CheckTable)),
    ("breakpoints", "phone"), ("breakpoints", "wall"), ("content", "pages"), ("slots", "../../evil"), ("masters", "../../x.jpg"), ("check", "allow", "*"), ("check", "budget", "1x1@1"),
]  # fmt: skip


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=int(os.environ.get("PLANS", "60")))
@given(st.lists(st.tuples(st.sampled_from(PLACES), st.sampled_from(JUNK)), min_size=1, max_size=4))
def test_any_plan_is_built_or_told_of(
    site: Path, tmp_path_factory: pytest.TempPathFactory, changes: list[tuple[tuple[str, ...], object]]
) -> None:
    """Values of any kind in any place of the schema: one line each, masters and plan as they were, nothing outside."""
    folder = tmp_path_factory.mktemp("plans") / "deep" / "er"
    shutil.copytree(site, folder)
    Image.new("RGB", (60, 40), (9, 80, 9)).save(folder / "masters" / "gull.jpg")
    content = tomlkit.parse(PLAN.replace('["webp", "jpeg"]', '["png"]')).unwrap()
    for path, value in changes:
        table = content
        for key in path[:-1]:
            table = table.setdefault(key, {}) if isinstance(table, dict) else {}
        if isinstance(table, dict):
            table[path[-1]] = value
    (folder / "sarvel.toml").write_text(tomlkit.dumps(content))
    before = {file: file.read_bytes() for file in (*(folder / "masters").iterdir(), folder / "sarvel.toml")}
    said = io.StringIO()
    with contextlib.chdir(folder), contextlib.redirect_stderr(said), contextlib.redirect_stdout(said):
        code = main(["build", "--workers", "1"])
    assert code in (0, 1, 2) and "fault of ours" not in said.getvalue() and "Traceback" not in said.getvalue(), (
        said.getvalue()
    )
    assert {file: file.read_bytes() for file in before} == before
    assert [file for file in (folder.parent.parent).rglob("*") if not file.is_relative_to(folder.parent)] == []
    assert [file.name for file in folder.parent.iterdir()] == [folder.name]
    shutil.rmtree(folder.parent.parent)
