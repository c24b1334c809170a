"""The words by which projects name files: every command finds the same file, and what is woven keeps the author's call."""

import json
import re
import shutil
from dataclasses import dataclass, field
from pathlib import Path
from xml.parsers import expat

import pytest
from markdown_it import MarkdownIt

from tests.cli.test_start import picture
from tests.conftest import run_sarvel


@dataclass(frozen=True)
class Idiom:
    """A page's file, its text with the words, where the image lies, and the begin of what is woven as src."""

    page: str
    words: str
    image: str
    woven: str
    more: dict[str, str] = field(default_factory=dict)
    before: str = ""


DJANGO = {"manage.py": ""}
PHP = {"style.css": "/* Theme Name: Gulls */"}
VITE = {"package.json": '{"dependencies": {"vue": "3", "vite": "5"}}'}
REACT = {"package.json": '{"dependencies": {"react": "18"}}'}
PATHS = {
    **REACT,
    "tsconfig.json": '{"compilerOptions": {"paths": {"#art/*": ["./src/art/*"]}, /* so */ "baseUrl": "."},}',
}
ALIAS = {**REACT, "vite.config.js": "export default { resolve: { alias: { '@': path.resolve(__dirname, 'src') } } }"}
HEXO = {"_config.yml": "", "layout/x.ejs": "", "source/x": ""}

IDIOMS = [
    Idiom("index.html", '"img/a.jpg"', "img/a.jpg", "/pictures/"),
    Idiom("index.html", '"/img/a.jpg"', "img/a.jpg", "/pictures/"),
    Idiom("app/templates/p.html", "\"{% static 'img/a.jpg' %}\"", "app/static/img/a.jpg", "{% static 'pictures/", DJANGO),
    Idiom("templates/p.html", '"{% static "img/a.jpg" %}"', "static/img/a.jpg", '{% static "pictures/', DJANGO),
    Idiom("templates/p.html", "\"{{ url_for('static', filename='a.jpg') }}\"", "static/a.jpg", "{{ url_for('static', filename='pictures/", {"app.py": "Flask(__name__)"}),
    Idiom("templates/p.twig", "\"{{ asset('img/a.jpg') }}\"", "public/img/a.jpg", "{{ asset('pictures/", {"bin/console": ""}),
    Idiom("resources/views/p.blade.php", "\"{{ asset('img/a.jpg') }}\"", "public/img/a.jpg", "{{ asset('pictures/", {"artisan": ""}),
    Idiom("_includes/p.html", "\"{{ 'img/a.jpg' | relative_url }}\"", "img/a.jpg", "{{ 'pictures/"),
    Idiom("_includes/p.html", "\"{{ '/img/a.jpg' | absolute_url }}\"", "img/a.jpg", "{{ '/pictures/"),
    Idiom("_includes/p.html", '"{{ site.baseurl }}/img/a.jpg"', "img/a.jpg", "{{ site.baseurl }}/pictures/"),
    Idiom("_includes/p.html", '"{{ site.url }}{{ site.baseurl }}/img/a.jpg"', "img/a.jpg", "{{ site.url }}{{ site.baseurl }}/pictures/"),
    Idiom("p.html", '"{{ SITEURL }}/img/a.jpg"', "img/a.jpg", "{{ SITEURL }}/pictures/"),
    Idiom("p.html", '"{{ .Site.BaseURL }}img/a.jpg"', "img/a.jpg", "{{ .Site.BaseURL }}pictures/"),
    Idiom("p.html", '"{{ "img/a.jpg" | absURL }}"', "img/a.jpg", '{{ "pictures/'),
    Idiom("p.html", '"{{ relURL "img/a.jpg" }}"', "img/a.jpg", '{{ relURL "pictures/'),
    Idiom("p.liquid", "\"{{ 'a.jpg' | asset_url }}\"", "assets/a.jpg", "{{ 'pictures/", {"package.json": '{"dependencies": {"vue": "3"}}'}),
    Idiom("p.njk", "\"{{ '/img/a.jpg' | url }}\"", "img/a.jpg", "{{ '/pictures/"),
    Idiom("p.html", '"{{ get_url(path="img/a.jpg") }}"', "img/a.jpg", '{{ get_url(path="pictures/'),
    Idiom("p.html", "\"{{ pathto('_static/a.jpg', 1) }}\"", "_static/a.jpg", "{{ pathto('pictures/"),
    Idiom("app/views/p.html.erb", "\"<%= image_path 'a.jpg' %>\"", "app/assets/images/a.jpg", "<%= image_path 'pictures/", {"config/routes.rb": ""}),
    Idiom("layout/p.ejs", "\"<%- url_for('/img/a.jpg') %>\"", "source/img/a.jpg", "<%- url_for('/pictures/", HEXO),
    Idiom("p.ejs", '"<%= BASE_URL %>img/a.jpg"', "img/a.jpg", "<%= BASE_URL %>pictures/"),
    Idiom("p.php", '"<?php echo get_template_directory_uri(); ?>/img/a.jpg"', "img/a.jpg", "<?php echo get_template_directory_uri(); ?>/pictures/", PHP),
    Idiom("p.php", "\"<?php bloginfo('template_url'); ?>/img/a.jpg\"", "img/a.jpg", "<?php bloginfo('template_url'); ?>/pictures/", PHP),
    Idiom("p.php", "\"<?php echo esc_url( get_theme_file_uri( 'img/a.jpg' ) ); ?>\"", "img/a.jpg", "<?php echo esc_url( get_theme_file_uri( 'pictures/", PHP),
    Idiom("p.php", "\"<?php echo get_template_directory_uri() . '/img/a.jpg'; ?>\"", "img/a.jpg", "<?php echo get_template_directory_uri() . '/pictures/", PHP),
    Idiom("parts/p.php", '"<?= $base ?>/img/a.jpg"', "img/a.jpg", "<?= $base ?>/pictures/", PHP),
    Idiom("Pages/p.cshtml", '"~/img/a.jpg"', "wwwroot/img/a.jpg", "~/pictures/"),
    Idiom("Pages/p.cshtml", '"@Url.Content("~/img/a.jpg")"', "wwwroot/img/a.jpg", '@Url.Content("~/pictures/'),
    Idiom("src/main/webapp/p.jsp", '"${pageContext.request.contextPath}/img/a.jpg"', "src/main/webapp/img/a.jpg", "${pageContext.request.contextPath}/pictures/"),
    Idiom("src/main/webapp/p.jsp", '"<c:url value="/img/a.jpg"/>"', "src/main/webapp/img/a.jpg", '<c:url value="/pictures/'),
    Idiom("public/index.html", '"%PUBLIC_URL%/img/a.jpg"', "public/img/a.jpg", "%PUBLIC_URL%/pictures/", REACT),
    Idiom("src/A.jsx", "{photo}", "src/a.jpg", "/pictures/", REACT, 'import photo from "./a.jpg"\n'),
    Idiom("src/A.jsx", "{photo.src}", "src/img/a.jpg", "/pictures/", REACT, 'import photo from "@/img/a.jpg"\n'),
    Idiom("src/A.jsx", "{photo}", "src/art/a.jpg", "/pictures/", PATHS, 'import photo from "#art/a.jpg"\n'),
    Idiom("src/A.jsx", "{photo}", "src/art/a.jpg", "/pictures/", PATHS, 'import photo from "src/art/a.jpg"\n'),
    Idiom("src/A.jsx", "{photo}", "src/art/a.jpg", "/pictures/", ALIAS, 'const photo = new URL("./art/a.jpg", import.meta.url)\n'),
    Idiom("src/in/A.jsx", '{require("../a.jpg").default}', "src/a.jpg", "/pictures/", REACT),
    Idiom("src/in/A.jsx", '{require("@/a.jpg")}', "src/a.jpg", "/pictures/", ALIAS),
    Idiom("src/A.jsx", '{new URL("./a.jpg", import.meta.url).href}', "src/a.jpg", "/pictures/", REACT),
    Idiom("src/A.jsx", "{`${process.env.PUBLIC_URL}/img/a.jpg`}", "public/img/a.jpg", "${process.env.PUBLIC_URL}/pictures/", REACT),
    Idiom("src/A.jsx", '{process.env.PUBLIC_URL + "/img/a.jpg"}', "public/img/a.jpg", '${process.env.PUBLIC_URL + "/pictures/', REACT),
    Idiom("src/A.jsx", '{useBaseUrl("/img/a.jpg")}', "public/img/a.jpg", '${useBaseUrl("/pictures/', REACT),
    Idiom("src/A.svelte", "{`${base}/img/a.jpg`}", "public/img/a.jpg", "${base}/pictures/", REACT),
    Idiom("src/A.jsx", '{"/img/a.jpg"}', "public/img/a.jpg", "/pictures/", REACT),
    Idiom("src/app/a.component.html", '"assets/img/a.jpg"', "src/assets/img/a.jpg", "assets/pictures/", {"angular.json": ""}),
    Idiom("src/A.vue", '"@/assets/a.jpg"', "src/assets/a.jpg", "/pictures/", VITE),
    Idiom("src/A.vue", '"~@/assets/a.jpg"', "src/assets/a.jpg", "/pictures/", VITE),
    Idiom("src/A.vue", '"/img/a.jpg"', "public/img/a.jpg", "/pictures/", VITE),
]  # fmt: skip


def page_of(idiom: Idiom) -> str:
    image = f'<img src={idiom.words} alt="A gull" />'
    if idiom.page.endswith(".jsx"):
        return f"{idiom.before}export default () => (\n  <main>\n    {image}\n  </main>\n)\n"
    return f"<template>\n  {image}\n</template>\n" if idiom.page.endswith(".vue") else f"<main>\n  {image}\n</main>\n"


@pytest.fixture(scope="module")
def art(tmp_path_factory: pytest.TempPathFactory) -> Path:
    file = tmp_path_factory.mktemp("art") / "a.jpg"
    picture(file, 600, 400)
    return file


@pytest.mark.parametrize("idiom", IDIOMS, ids=[f"{one.page.rpartition('.')[2]} {one.words}" for one in IDIOMS])
def test_the_file_is_found_by_all_commands_and_the_call_is_kept(idiom: Idiom, art: Path, tmp_path: Path) -> None:
    for name, text in {**idiom.more, idiom.page: page_of(idiom)}.items():
        (tmp_path / name).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / name).write_text(text)
    (tmp_path / idiom.image).parent.mkdir(parents=True, exist_ok=True)
    shutil.copy(art, tmp_path / idiom.image)
    before = (tmp_path / idiom.page).read_text()
    done = run_sarvel("survey", "--json", cwd=tmp_path)
    assert done.returncode == 0, done.stderr
    surveyed = json.loads(done.stdout)
    assert [len(one["uses"]) for one in surveyed["files"]] == [1] and not surveyed["missing"]
    started = run_sarvel("start", cwd=tmp_path)
    assert started.returncode == 0 and "not taken" not in started.stderr, started.stderr
    plan = (tmp_path / "sarvel.toml").read_text()
    quick = '[defaults]\neffort = "quick"\nwidths = 1\nquality = { avif = 40, webp = 50, jpeg = 60 }'
    (tmp_path / "sarvel.toml").write_text(plan.replace("[defaults]", quick))
    done = run_sarvel("build", cwd=tmp_path)
    assert done.returncode == 0 and "1 image woven" in done.stdout, done.stdout + done.stderr + plan
    woven = (tmp_path / idiom.page).read_text()
    if "<SarvelPicture " in woven:
        woven += next(tmp_path.rglob("SarvelPicture.*")).read_text()
    assert woven.count("a-picture-") == woven.count(f"{idiom.woven}a-picture-") > 3, woven
    assert run_sarvel("weave", "--check", cwd=tmp_path).returncode == 0
    assert run_sarvel("weave", "--undo", cwd=tmp_path).returncode == 0
    assert (tmp_path / idiom.page).read_text() == before


def test_an_engine_joins_several_folders_into_one(art: Path, tmp_path: Path) -> None:
    (tmp_path / "manage.py").touch()
    for app in ("one", "two"):
        (tmp_path / app / "static" / app).mkdir(parents=True)
        shutil.copy(art, tmp_path / app / "static" / app / f"{app}.jpg")
        (tmp_path / app / "templates").mkdir()
        (tmp_path / app / "templates" / f"{app}.html").write_text(
            f'<img src="{{% static \'{app}/{app}.jpg\' %}}" alt="A">\n'
        )
    assert run_sarvel("start", cwd=tmp_path).returncode == 0
    plan = (tmp_path / "sarvel.toml").read_text()
    quick = '[defaults]\neffort = "quick"\nwidths = 1\nquality = { avif = 40, webp = 50, jpeg = 60 }'
    (tmp_path / "sarvel.toml").write_text(plan.replace("[defaults]", quick))
    assert "2 images woven" in run_sarvel("build", cwd=tmp_path).stdout
    for app in ("one", "two"):
        woven = (tmp_path / app / "templates" / f"{app}.html").read_text()
        assert woven.count(f"{app}-picture-") == woven.count(f"{{% static 'pictures/{app}-picture-") > 3, woven


PLAIN = """\
[site]
masters = "img"
pages = ["*.html"]
output = "pictures"
{}
[defaults]
effort = "quick"
widths = 1
quality = {{ avif = 40, webp = 50, jpeg = 60 }}
[slots.all]
selectors = ["img"]
sizes = "100vw"
"""


@pytest.fixture
def plain(art: Path, tmp_path: Path) -> Path:
    (tmp_path / "img").mkdir()
    shutil.copy(art, tmp_path / "img" / "a.jpg")
    (tmp_path / "sarvel.toml").write_text(PLAIN.format(""))
    return tmp_path


IN_PHP = """\
<?php
/* it's */ // "
function hero($base) {
  echo '<p><img src="img/a.jpg" alt="A"></p>';
  $x = "<img src='img/a.jpg' alt='B'>";
  return '<img src="' . home_url('/x', ">") . '/img/a.jpg" alt="' . $this->alt('it') . '" />' . '<b>';
}
?>
<img src="<?= $base ?>/img/a.jpg" alt='C'>
<?php echo '<img src="' . esc_url( theme( "img/a.jpg" ) ) . '">', 'it' ?>
"""


def test_strings_of_php_hold_woven_markup_that_is_still_a_string(plain: Path) -> None:
    (plain / "p.php").write_text(IN_PHP)
    (plain / "style.css").write_text("/* Theme Name: Gulls */")
    plan = PLAIN.replace("*.html", "*.php").format('[masters."a.jpg"]\nalt = "It\'s \\\\ a gull"')
    (plain / "sarvel.toml").write_text(plan)
    done = run_sarvel("build", cwd=plain)
    assert done.returncode == 0 and "4 images woven" in done.stdout, done.stdout + done.stderr
    woven = (plain / "p.php").read_text()
    strings = woven.replace("it's", "").partition("alt='C'")
    assert strings[0].count("'") == IN_PHP.replace("it's", "").partition("alt='C'")[0].count("'") + 4 * 4  # of the call
    assert 'alt="It&#39;s &#92; a gull"' in woven and "$x = \"<img src='img/a.jpg' alt='B'>\";" in woven
    assert woven.count("' . home_url('/x', \">\") . '/pictures/a-all-") == 3 + 1
    assert run_sarvel("weave", "--check", cwd=plain).returncode == 0
    assert run_sarvel("weave", "--undo", cwd=plain).returncode == 0
    assert (plain / "p.php").read_text() == IN_PHP


def test_what_scripts_take_care_of_is_left_with_a_word(plain: Path) -> None:
    text = '<!doctype html>\n<img id="main" src="img/a.jpg" alt="A">\n<img data-src="img/a.jpg" src="img/a.jpg" alt="B">\n<img src="img/a.jpg" alt="C">\n'
    (plain / "index.html").write_text(text + "<script>\nmain = $('#main')\nmain.attr('src', next)\n</script>\n")
    done = run_sarvel("build", cwd=plain)
    assert done.returncode == 0 and "1 image woven" in done.stdout
    assert "index.html:2:1: is left alone: index.html:7 sets its src" in done.stderr.replace(f"{plain}/", "")
    assert "index.html:3:1: is left to the script that reads its data-src" in done.stderr
    named = (plain / "index.html").read_text().replace('<img id="main"', '<img data-sarvel="all" id="main"')
    (plain / "index.html").write_text(named)
    assert run_sarvel("weave", cwd=plain).returncode == 1, "what was asked for by name is a fault"


@pytest.mark.parametrize("head", ['<?xml version="1.0"?>\n<html>', '<html xmlns="http://www.w3.org/1999/xhtml">'])
def test_a_page_of_xml_stays_well_formed_whatever_its_ending(plain: Path, head: str) -> None:
    text = f'{head}<head><title>x</title></head><body><p><img src="img/a.jpg" alt="A" /></p></body></html>'
    (plain / "index.html").write_text(text)
    assert run_sarvel("build", cwd=plain).returncode == 0
    woven = (plain / "index.html").read_text()
    assert "<picture" in woven and expat.ParserCreate().Parse(woven, True)
    assert run_sarvel("weave", "--undo", cwd=plain).returncode == 0 and (plain / "index.html").read_text() == text


def test_addresses_may_hold_code_of_an_engine(plain: Path) -> None:
    (plain / "sarvel.toml").write_text(PLAIN.format('address = "{{ site.baseurl }}/pictures"'))
    (plain / "index.html").write_text('<p><img src="img/a.jpg" alt="A"></p>\n')
    assert run_sarvel("build", cwd=plain).returncode == 0
    woven = (plain / "index.html").read_text()
    assert woven.count("a-all-") == woven.count("{{ site.baseurl }}/pictures/a-all-") > 3


def test_undo_asks_no_more_of_a_plan_than_where_pages_are(plain: Path) -> None:
    (plain / "index.html").write_text(text := '<p><img src="img/a.jpg" alt="A"></p>\n')
    assert run_sarvel("build", cwd=plain).returncode == 0 and (plain / "index.html").read_text() != text
    broken = (
        (plain / "sarvel.toml").read_text().replace("widths = 1", "widths = -1").replace("[slots.all]", "[slots.other]")
    )
    (plain / "sarvel.toml").write_text(broken)
    assert run_sarvel("weave", cwd=plain).returncode == 2
    assert run_sarvel("weave", "--undo", cwd=plain).returncode == 0 and (plain / "index.html").read_text() == text


def test_stylesheets_for_print_tell_no_widths(plain: Path) -> None:
    (plain / "sarvel.toml").unlink()
    (plain / "print.css").write_text("img { width: 5cm }")
    (plain / "index.html").write_text(
        '<!doctype html><head><link rel="stylesheet" href="print.css" media="print"></head><img src="img/a.jpg" alt="A">'
    )
    assert run_sarvel("start", cwd=plain).returncode == 0
    assert "188" not in (plain / "sarvel.toml").read_text()


def test_a_fence_that_shows_a_module_hides_no_image(plain: Path) -> None:
    (plain / "sarvel.toml").write_text(PLAIN.format("").replace("*.html", "*.mdx"))
    (plain / "p.mdx").write_text(
        'import A from "./a"\n\n```js\nimport b from "c"\n```\n\n![A](img/a.jpg)\n\nexport const x = 1\n'
    )
    done = run_sarvel("build", cwd=plain)
    assert "1 image woven" in done.stdout, done.stdout + done.stderr


CALLS = """
[content]
"p.md" = "all"

[partials]
folder = "parts"
alt = "{{ include.alt }}"
call = '{% include {partial} data-master="{src}" alt="{alt}" title="{title}" %}'
"""


def test_markdown_calls_a_partial_that_has_the_markup(plain: Path) -> None:
    text = (
        '# A\n\n![The *only* one](img/a.jpg)\n\nIn ![a "b" & {{c}}](img/a.jpg \'D\')![e](img/a.jpg "F") text, `![g](img/a.jpg)`\n\n'
        '| a |\n| - |\n| ![h](img/a.jpg) |\n\n![a "b" & {{c}}](img/a.jpg)\n'
    )
    (plain / "sarvel.toml").write_text(
        PLAIN.format("").replace("*.html", "*.md").replace("slots.img", "slots.all") + CALLS
    )
    (plain / "p.md").write_text(text)
    assert "5 images woven" in run_sarvel("build", cwd=plain).stdout
    woven = (plain / "p.md").read_text()
    # What a call cannot say in the author's own form has its markup in the page.
    assert woven.count("{% include all/a.jpg.html ") == 3 and woven.count("<picture") == 2
    assert 'data-master="img/a.jpg" alt="e" title="F" %} text' in woven

    def included(call: re.Match[str]) -> str:
        said = dict(re.findall(r'([\w-]+)="([^"]*)"', call.group()))
        return (plain / "parts" / "all" / "a.jpg.html").read_text().replace("{{ include.alt }}", said["alt"])

    page = re.sub(r"\{% include .*? %\}", included, woven)
    markdown = MarkdownIt("commonmark").enable("table")
    shown, before = (
        re.sub(r"<picture.*?</picture>|<img[^>]*>", "[image]", markdown.render(one)) for one in (page, text)
    )
    assert shown == before
    assert "0 files written" in run_sarvel("build", cwd=plain).stdout
    assert run_sarvel("weave", "--undo", cwd=plain).returncode == 0 and (plain / "p.md").read_text() == text


def formatted(text: str) -> str:
    """Woven markup as formatters of pages leave it: an attribute a line, lists over several lines, spaces in styles."""
    tags = re.sub(r"(?s)<(source|img|picture)\b.*?/?>(?=[\s<]|$)", lambda tag: _spread(tag.group()), text)
    tags = re.sub(r"(?<=[\s\"}])>(?=<)", ">", tags)
    return re.sub(r"><(?=source|img|/picture)", ">\n    <", tags).replace(
        '<p data-woven=""><', '<p data-woven="">\n  <'
    )


def _spread(tag: str) -> str:
    tag = re.sub(r'(?<=[ \n])(srcset|srcSet|sizes)="([^"]*)"', r'\1="\n      \2\n    "', tag)
    tag = re.sub(r'(?<=[ \n])style="([^":]*):([^"]*)"', r'style="\1: \2;"', tag)
    return re.sub(r"\s+(?=[\w-]+=)", "\n    ", tag)


@pytest.mark.parametrize(
    ("page", "text"),
    [
        ("a.html", '<main>\n<img src="img/a.jpg" alt="A" style="border-radius: 3px">\n</main>\n'),
        ("a.jsx", 'import a from "./img/a.jpg"\nexport default () => <main><img src={a} alt="A" style={{ borderRadius: 3 }} /></main>\n'),
        ("a.mdx", "# A\n\n![A gull](img/a.jpg)\n\nText.\n"),
        ("a.vue", '<template>\n  <main><img :src="a" alt="A" /></main>\n</template>\n<script>\nimport a from "./img/a.jpg"\n</script>\n'),
    ],
)  # fmt: skip
def test_woven_markup_is_known_again_after_a_formatter(plain: Path, page: str, text: str) -> None:
    (plain / "sarvel.toml").write_text(PLAIN.format("").replace("*.html", page).replace("widths = 1", "widths = 2"))
    (plain / page).write_text(text)
    done = run_sarvel("build", cwd=plain)
    assert "1 image woven" in done.stdout, done.stdout + done.stderr
    woven = (plain / page).read_text()
    (plain / page).write_text(formatted(woven))
    assert (plain / page).read_text() != woven and "[object" not in woven
    again = run_sarvel("weave", cwd=plain)
    assert again.returncode == 0 and "is not changed" not in again.stderr, again.stderr
    (plain / page).write_text(formatted((plain / page).read_text()))
    assert run_sarvel("weave", "--undo", cwd=plain).returncode == 0
    assert re.sub(r"\s+", "", (plain / page).read_text()) == re.sub(r"\s+", "", text)


PLAIN_REACT = """\
import React from "react";
import a from "./img/a.jpg";

export const App = ({ all }) => (
  <main>
    <img key="1" className="x" src={a} alt="A" onClick={() => all(1 > 0)} />
    <img
      src={a}
      width={300}
      alt={`B ${all}`}
    />
    <img src={a} ref={all} alt="C" />
    <img src={a} style={{ color: "red" }} />
    {all.map((one) => (
      <SarvelPicture of={`all/${one}`} key={one} />
    ))}
  </main>
);
"""


def test_scripts_call_a_component_that_has_the_markup(art: Path, tmp_path: Path) -> None:
    (tmp_path / "src" / "img").mkdir(parents=True)
    shutil.copy(art, tmp_path / "src" / "img" / "a.jpg")
    page, component = tmp_path / "src" / "App.jsx", tmp_path / "src" / "parts" / "SarvelPicture.jsx"
    page.write_text(PLAIN_REACT)
    more = 'component = "src/parts/SarvelPicture.jsx"\nplaceholders = "stylesheet"\n[masters."a.jpg"]\nalt = "\\"Gulls\\" & {co}"'
    plan = PLAIN.replace('"img"\n', '"src/img"\n', 1).replace('"*.html"', '"src"').format(more)
    (tmp_path / "sarvel.toml").write_text(plan)
    done = run_sarvel("build", cwd=tmp_path)
    assert done.returncode == 0 and "4 images woven" in done.stdout, done.stdout + done.stderr
    woven = page.read_text()
    assert woven.startswith('import { SarvelPicture } from "./parts/SarvelPicture.jsx";\nimport React')
    call = '<SarvelPicture of="all/a.jpg" key="1" className="x" data-master={a} alt="A" onClick={() => all(1 > 0)} />'
    assert call in woven and woven.count("<SarvelPicture") == 4, woven
    assert (
        '<SarvelPicture\n      of="all/a.jpg"\n      data-master={a}\n      width={300}\n' in woven
    )  # as a formatter has it
    assert woven.count("<picture") == 1 and 'ref={all} alt="C"' in woven  # a ref needs the img itself
    assert json.dumps('"Gulls" & {co}') in component.read_text()
    page.write_text(woven.replace('alt="A"', 'alt="Edited" id="n"'))  # all but what is called is the author's
    assert "0 files written" in run_sarvel("build", cwd=tmp_path).stdout
    component.write_text(component.read_text().replace('"', "'").replace(",\n", "\n"))  # as a formatter does
    assert "0 files written" in run_sarvel("build", cwd=tmp_path).stdout
    (tmp_path / "src" / "img" / "a.jpg").rename(tmp_path / "a.jpg")  # a call that stays keeps its import
    run_sarvel("build", cwd=tmp_path)
    assert page.read_text().count("SarvelPicture") == 6
    (tmp_path / "a.jpg").rename(tmp_path / "src" / "img" / "a.jpg")
    assert run_sarvel("weave", "--undo", cwd=tmp_path).returncode == 0
    own = 'import { SarvelPicture } from "./parts/SarvelPicture.jsx";\n'  # stays, because the author calls it, too
    assert page.read_text() == own + PLAIN_REACT.replace('alt="A"', 'alt="Edited" id="n"')
    assert component.exists()
    page.write_text(PLAIN_REACT.replace("<SarvelPicture", "<p"))
    run_sarvel("build", cwd=tmp_path)
    run_sarvel("weave", "--undo", cwd=tmp_path)
    assert page.read_text() == PLAIN_REACT.replace("<SarvelPicture", "<p") and not component.exists()
    component.write_text("// mine\n")
    done = run_sarvel("build", cwd=tmp_path)
    assert done.returncode == 2 and component.read_text() == "// mine\n"
