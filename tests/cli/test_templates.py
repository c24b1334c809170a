"""What is written for template engines, programs and stylesheets, through the installed program."""

import json
import re
import shutil
from pathlib import Path

import jinja2
import pytest
import tinycss2

from sarvel.core.css.device import Device
from sarvel.files.ledger import Ledger
from sarvel.pages.weave.manifest import Manifest
from sarvel.pipeline.site import read_site
from sarvel.plan.read import read_plan
from tests.conftest import PLAN, Run, run_sarvel

SCHEMA = Path(__file__).parent.parent.parent / "docs" / "pictures.schema.json"
WIDE = PLAN.replace("[slots.banner]\n", '[slots.banner]\nmasters = ["*.jpg"]\n').replace(
    "[site]\n", '[site]\nmanifest = "public/pictures.json"\n'
)


def with_plan(site: Path, text: str) -> Path:
    (site / "sarvel.toml").write_text(text)
    return site


@pytest.fixture(scope="module")
def told(site_rendered: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A site with all that can be written beside pages."""
    site = Path(shutil.copytree(site_rendered, tmp_path_factory.mktemp("told") / "site"))
    (site / "pages" / "index.html").write_text("<p>Nothing here</p>\n")
    partials = '[partials]\nfolder = "templates/pictures"\nmacro = "templates/picture.jinja"\n'
    slots = '[slots.hero]\nsizes = { phone = "100vw", desktop = "20vw" }\nwidths = [300, 600, 900]\nuse = "background"\nmasters = ["seal.png", "gull.jpg"]\n'
    with_plan(site, WIDE.replace('[masters."gull.jpg"]', f'{partials}{slots}[masters."gull.jpg"]'))
    done = run_sarvel("build", cwd=site)
    assert done.returncode == 0, done.stderr
    return site


def test_the_manifest_holds_what_the_edition_says(told: Path) -> None:
    manifest = Manifest.model_validate_json((told / "public" / "pictures.json").read_text())
    plan = read_plan(told / "sarvel.toml")
    edition = read_site(plan, Ledger(told / "sarvel.ledger")).edition
    assert {(slot, key) for slot, some in manifest.pictures.items() for key in some} == set(edition.pictures)
    for (slot, key), picture in edition.pictures.items():
        said = manifest.pictures[slot][key]
        files = [file for crop in said.crops for one in crop.formats for file in one.files]
        assert [file.url for file in files] == [f"/pictures/{one.name}" for one in picture.renditions()]
        for file in files:
            made = told / "public" / file.url.lstrip("/")
            assert made.stat().st_size == file.bytes and file.digest in file.url
        assert [crop.media for crop in said.crops] == [crop.rule.media.css for crop in picture.crops]
        assert said.alt == picture.alt and said.class_ == (f"hero-{key[:4]}" if slot == "hero" else "")


def test_the_schema_in_the_docs_is_the_manifests() -> None:
    assert json.loads(SCHEMA.read_text()) == Manifest.model_json_schema(by_alias=True)


def test_partials_and_the_macro_say_the_same(told: Path) -> None:
    loader = jinja2.Environment(autoescape=True, loader=jinja2.FileSystemLoader(told / "templates"))
    partial = loader.get_template("pictures/banner/gull.jpg.html").render(alt='A "gull" & co')
    macro = loader.get_template("picture.jinja").module.picture("banner", "gull.jpg", 'A "gull" & co')  # type: ignore[attr-defined]
    assert "data-" not in partial and 'alt="A &#34;gull&#34; &amp; co"' in partial

    def flat(text: str) -> list[str]:
        return sorted(re.split(r"[\s<>]+", text))

    assert flat(partial) == flat(str(macro))


@pytest.mark.parametrize(
    ("ending", "words"),
    [
        (
            ".jsx",
            [
                "export default function Picture({ alt, style, ...others }) {",
                'srcSet="',
                "alt={alt}",
                "...style }}",
                "{...others} /></picture>",
            ],
        ),
        (".vue", ['defineProps(["alt"])', ':alt="alt"', 'v-bind="$attrs"></picture>', "</template>"]),
        (".svelte", ["export let alt;", "alt={alt}", "{...$$restProps}></picture>"]),
        (".astro", ["const { alt, ...others } = Astro.props;", "alt={alt}", "{...others}></picture>"]),
        (".blade.php", ['alt="<?= $alt ?>"']),
    ],
)
def test_partials_are_spelled_by_their_ending(rendered: Path, sarvel: Run, ending: str, words: list[str]) -> None:
    alt = "alt = '<?= $alt ?>'\n" if "php" in ending else ""
    with_plan(rendered, f'{PLAN}[partials]\nfolder = "parts"\nending = "{ending}"\n{alt}')
    assert sarvel("weave").returncode == 0
    text = (rendered / "parts" / "banner" / f"gull.jpg{ending}").read_text()
    assert all(word in text for word in words), text


def test_backgrounds_have_a_base_rule_then_bands(told: Path) -> None:
    """And each names the file that is sharp on the widest device of its band."""
    text = (told / "public" / "pictures" / "pictures.css").read_text()
    rules = [line for line in text.splitlines() if ".hero-gull" in line]
    assert not any(rule.type == "error" for rule in tinycss2.parse_stylesheet(text))
    assert rules[0].startswith(".hero-gull {") and rules[1].startswith("@media (min-width: 800px) { .hero-gull {")
    plan = read_plan(told / "sarvel.toml")
    picture = read_site(plan, Ledger(told / "sarvel.ledger")).edition.pictures["hero", "gull.jpg"]
    for rule, device in ((rules[0], Device(768, 1024, 1)), (rules[1], Device(1920, 1080, 1))):
        ladder = picture.crop_on(device).renditions["jpeg"]
        need = picture.slot.shown.on(device)
        sharp = next((one for one in ladder if one.width >= need), ladder[-1])
        assert f'background-image: url("{sharp.name}"); background-image: image-set(' in rule
        assert f'url("{sharp.name}") type("image/jpeg") 1x' in rule


def test_names_by_a_pattern(site: Path, sarvel: Run) -> None:
    pattern = 'name = "{stem}, {slot}@{density}x.{digest}.{ext}"\n'
    with_plan(site, PLAN.replace("[slots.badge]\n", f"[slots.badge]\n{pattern}"))
    assert sarvel("build").returncode == 0
    names = [file.name for file in (site / "public" / "pictures").glob("seal*")]
    assert names and all(re.fullmatch(r"seal, badge@[\d.]+x\.[0-9a-f]{10}\.(webp|png)", name) for name in names)
    page = (site / "pages" / "index.html").read_text()
    urls = re.findall(r"/pictures/seal%2C%20badge@[\d.]+x\.\w+\.(?:webp|png) [\d.]+x", page)
    assert len(urls) == len(names) and json.loads(sarvel("build", "--json").stdout)["rendered"]["made"] == []
    with_plan(site, PLAN.replace("[defaults]\n", '[defaults]\nname = "{digest}.{ext}"\n'))
    copied = json.loads(sarvel("render", "--dry-run", "--json").stdout)["to_copy"]
    assert set(names) == {name for name in copied.values() if name.startswith("seal")}


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (("[defaults]\n", '[defaults]\nname = "{stem}.{ext}"\n'), "defaults.name: got \"{stem}.{ext}\"; write a pattern for file names"),
        (("[defaults]\n", '[defaults]\nname = "a/{digest}.{ext}"\n'), "write a pattern for file names"),
        (("[slots.banner]\n", '[slots.banner]\nname = "{density}.{digest}.{ext}"\n'), "slots.banner.name: {density} in file names needs one constant shown width"),
        (("[slots.banner]\n", '[slots.banner]\nmasters = ["none/*.jpg"]\n'), "slots.banner.masters: 'none/*.jpg' matches no image in"),
        (("[slots.badge]\n", '[content]\n"pages" = "bage"\n[slots.badge]\n'), "content.pages: no slot 'bage'; did you mean 'badge'?"),
        (("[slots.badge]\n", '[content]\n"posts" = "badge"\n[slots.badge]\n'), "content.posts: no page lies there"),
        (("[site]\n", '[site]\ndialects = { ".html" = "hmtl" }\n'), 'site.dialects'),
    ],
)  # fmt: skip
def test_wrong_plans(site: Path, sarvel: Run, change: tuple[str, str], words: str) -> None:
    with_plan(site, PLAN.replace(*change))
    done = sarvel("weave")
    assert done.returncode == 2 and words in done.stderr, done.stderr


@pytest.mark.parametrize(
    ("name", "page", "words"),
    [
        ("index.html", '<img data-sarvel="badge" src="../masters/seal.png" alt="seal.png">', "1:1: its alt is a file name, 'seal.png'; write it here or in the plan"),
        ("index.html", '<img data-sarvel="badge" src="{{ page.image }}" alt="">', "1:1: only the engine knows its file; write a path there, or include a partial"),
        ("a.vue", '<template>\n <img data-sarvel="badge" :src="image" alt="">\n</template>', "2:2: only the engine knows its file"),
        ("a.jsx", 'export default () => <img data-sarvel="badge" src={image} alt="" />;', "1:22: only the engine knows its file"),
        ("index.html", '<p title="<img data-sarvel=badge src=../masters/seal.png alt=x>', ""),
        ("index.html", '<link data-sarvel="preloads">\n<link data-sarvel="preloads">', "2:1: a second place for preload links"),
    ],
)  # fmt: skip
def test_faults_of_pages(rendered: Path, sarvel: Run, name: str, page: str, words: str) -> None:
    (rendered / "pages" / "index.html").unlink()
    (rendered / "pages" / name).write_text(page)
    done = sarvel("weave")
    assert (done.returncode == 1) == bool(words) and words in done.stderr
    assert (rendered / "pages" / name).read_text() == page


def test_a_dialect_of_the_plans_own(rendered: Path, sarvel: Run) -> None:
    (rendered / "pages" / "a.tpl").write_text('<img data-sarvel="banner" src="../masters/gull.jpg">')
    with_plan(rendered, PLAN.replace("[site]\n", '[site]\ndialects = { ".tpl" = "xhtml" }\n'))
    assert sarvel("weave").returncode == 0
    assert "<picture " in (rendered / "pages" / "a.tpl").read_text()


def test_plain_images_of_a_content_folder_are_woven_and_given_back(rendered: Path, sarvel: Run) -> None:
    page = rendered / "pages" / "index.html"
    text = '<p><img src="../masters/seal.png" alt="The seal"><img src="elsewhere.jpg"><picture><img src="../masters/seal.png"></picture></p>'
    page.write_text(text)
    with_plan(rendered, f'{PLAN}[content]\n"pages" = "badge"\n')
    sarvel("weave")
    once = page.read_text()
    assert once.count("data-woven") == 1 and sarvel("weave").returncode == 0 and page.read_text() == once
    sarvel("weave", "--undo")
    assert page.read_text() == text


def test_patterns_mean_the_same_for_every_key_wherever_the_plan_lies(rendered: Path) -> None:
    """In a folder whose name holds brackets, too."""
    folder = rendered.parent / "site[1]"
    rendered.rename(folder)
    (folder / "pages" / "deep").mkdir()
    plain = '<p><img src="/masters/seal.png" alt="A seal"></p>'
    for name in ("pages/index.html", "pages/deep/inner.html", "pages/[x].html"):
        (folder / name).write_text(plain)

    def woven(pages: str, content: str) -> list[str]:
        plan = PLAN.replace('pages = ["pages"]', f'pages = ["{pages}"]\nwoven = "out"')
        (folder / "sarvel.toml").write_text(f'{plan}[content]\n"{content}" = "badge"\n')
        shutil.rmtree(folder / "out", ignore_errors=True)
        done = run_sarvel("weave", cwd=folder)
        assert done.returncode == 0, done.stderr
        return sorted(file.name for file in (folder / "out").rglob("*.html") if "<picture" in file.read_text())

    for pattern in ("**/*.html", "pages/*/*.html"):
        assert woven(pattern, pattern) == woven("pages", pattern), pattern
    assert woven("pages", "pages/*.html") == ["[x].html", "index.html"]
    assert woven("pages", "pages/[x].html") == ["[x].html"]
