"""The words by which projects name files: every command finds the same file, and what is woven keeps the author's call."""

import json
import shutil
from dataclasses import dataclass, field
from pathlib import Path

import pytest

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
    Idiom("src/A.jsx", "{`${process.env.PUBLIC_URL}/img/a.jpg`}", "public/img/a.jpg", "/pictures/", REACT),
    Idiom("src/A.jsx", '{process.env.PUBLIC_URL + "/img/a.jpg"}', "public/img/a.jpg", "/pictures/", REACT),
    Idiom("src/A.jsx", '{"/img/a.jpg"}', "public/img/a.jpg", "/pictures/", REACT),
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
    assert woven.count("a-picture-") == woven.count(f"{idiom.woven}a-picture-") > 3, woven
    assert run_sarvel("weave", "--check", cwd=tmp_path).returncode == 0
    assert run_sarvel("weave", "--undo", cwd=tmp_path).returncode == 0
    assert (tmp_path / idiom.page).read_text() == before
