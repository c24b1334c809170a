"""Kinds of projects, and where their addresses lead."""

from pathlib import Path

import pytest

from sarvel.errors import PlanError
from sarvel.pages.read.expression import Expression
from sarvel.pages.read.kinds import PAGES, WAYS, kind_of, kinds
from sarvel.pages.read.project import Project
from sarvel.tools.start.ways import base_of_site, ground_of

# Files of a project (with "/" at the end a folder; behind a bar the text), its kind, and the way.
PROJECTS = [
    (["_config.yml", "_layouts/"], "Jekyll", "engine"),
    (['package.json|{\'dependencies\': {"hexo": "7"}}', "_config.yml"], "Hexo", "engine"),
    (["_config.yml", "layout/", "source/"], "a theme of Hexo", "server"),
    (["hugo.toml"], "Hugo", "engine"),
    (["config.toml|base_url = 'x'", "content/"], "Zola", "engine"),
    (["eleventy.config.js"], "Eleventy", "engine"),
    (["mkdocs.yml"], "MkDocs", "engine"),
    (["docs/conf.py|extensions = []"], "Sphinx", "engine"),
    (['package.json|{"dependencies": {"astro": "5"}}'], "Astro", "engine"),
    (['package.json|{"dependencies": {"next": "15", "react": "19"}}'], "Next.js", "source"),
    (['package.json|{"dependencies": {"@sveltejs/kit": "2"}}'], "SvelteKit", "source"),
    (['package.json|{"dependencies": {"vue": "3", "vite": "6"}}'], "components", "source"),
    (['package.json|{"devDependencies": {"vite": "6"}}'], "Vite", "engine"),
    (["manage.py", 'package.json|{"devDependencies": {"vite": "6", "react": "19"}}'], "Django", "server"),
    (["app.py|app = Flask(__name__)", "templates/"], "Flask", "server"),
    (["style.css|/* Theme Name: x */"], "WordPress theme", "server"),
    (["shop.csproj"], "ASP.NET", "server"),
    (["artisan", 'package.json|{"devDependencies": {"vite": "6"}}'], "Laravel", "server"),
    (["index.php"], "PHP", "server"),
    (["index.html", "package.json|{}"], PAGES.name, "pages"),
]


def made(folder: Path, *files: str) -> Path:
    for file in files:
        name, _, text = file.partition("|")
        place = folder / name
        place.mkdir(parents=True) if name.endswith("/") else place.parent.mkdir(parents=True, exist_ok=True)
        if not name.endswith("/"):
            place.write_text(text)
    return folder


@pytest.mark.parametrize(("files", "name", "way"), PROJECTS, ids=[one[1] for one in PROJECTS])
def test_a_project_is_known_by_its_files(tmp_path: Path, files: list[str], name: str, way: str) -> None:
    kind = kind_of(made(tmp_path, *files))
    assert (kind.name, kind.way) == (name, way)


def test_the_table_says_what_each_way_needs() -> None:
    for kind in kinds():
        assert kind.marks and kind.way in WAYS and (kind.built or kind.way != "engine")
        assert not kind.says_built or len(kind.says_built) == 2


def test_the_folder_that_an_engine_wrote(tmp_path: Path) -> None:
    with pytest.raises(PlanError, match=r"MkDocs has not written site yet.* run mkdocs build once"):
        ground_of(made(tmp_path, "mkdocs.yml"))
    made(tmp_path, "mkdocs.yml|site_dir: out  # so", "out/a/index.html", "published/")
    ground = ground_of(tmp_path)
    assert (ground.built, ground.woven, ground.folder) == ("out", "published-2", tmp_path / "out")
    assert ground_of(tmp_path, "source").folder == tmp_path
    made(tmp_path, "other/index.html")
    assert ground_of(tmp_path, built=tmp_path / "other").built == "other"
    with pytest.raises(PlanError, match="is not in"):
        ground_of(tmp_path, built=tmp_path.parent)


@pytest.mark.parametrize(
    ("files", "address"),
    [
        (["vite.config.ts|export default { base: './' }"], "${import.meta.env.BASE_URL}"),
        (["vite.config.js|export default { base: '/' }"], ""),
        ([], ""),
        (['package.json|{"dependencies": {"react-scripts": "5"}, "homepage": "https://x.example/app"}'], "${process.env.PUBLIC_URL}/"),
        (['package.json|{"dependencies": {"react-scripts": "5"}, "homepage": "."}'], ""),
    ],
)  # fmt: skip
def test_components_of_a_site_that_is_published_below_a_path(tmp_path: Path, files: list[str], address: str) -> None:
    made(tmp_path, 'package.json|{"dependencies": {"react": "19", "vite": "6"}}', *files)
    assert kind_of(tmp_path).address_in(tmp_path) == address


@pytest.mark.parametrize(
    ("addresses", "base"),
    [
        (["/blog/a.html", "/blog/img/a.jpg", "img/a.jpg"], "/blog"),
        (["/me/site/a.html", "/me/site/in/"], "/me/site"),
        (["/a.html", "/img/a.jpg"], ""),
        (["/blog/none.html", "a.html"], ""),
        (["//host/a.html", "https://host/blog/a.html", "/a.html#x"], ""),
    ],
)
def test_the_path_that_a_site_is_published_below(tmp_path: Path, addresses: list[str], base: str) -> None:
    made(tmp_path, "a.html", "img/a.jpg", "in/index.html")
    (tmp_path / "index.html").write_text("".join(f'<a href="{one}">x</a>' for one in addresses))
    assert base_of_site(tmp_path) == base


@pytest.mark.parametrize(
    ("said", "found"),
    [
        (Expression("a.jpg"), "pages/a.jpg"),
        (Expression("/img/b.jpg"), "public/img/b.jpg"),
        (Expression("/blog/img/b.jpg"), "public/img/b.jpg"),
        (Expression("/none.jpg"), None),
        (Expression("img/b.jpg", "{{ f('", "') }}", "call"), "public/img/b.jpg"),
        (Expression("c.jpg", "{{ f('", "') }}", "call"), "c.jpg"),
        (Expression("#art/d.jpg", form="import"), "src/art/d.jpg"),
        (Expression("@/art/d.jpg", form="import"), "src/art/d.jpg"),
        (Expression("./a.jpg", form="import"), "pages/a.jpg"),
        (Expression("src/art/d.jpg", form="import"), "src/art/d.jpg"),
    ],
)
def test_where_words_lead(tmp_path: Path, said: Expression, found: str | None) -> None:
    paths = '{"compilerOptions": {"paths": {"#art/*": ["src/art/*"]}}}'
    made(tmp_path, "pages/a.jpg", "public/img/b.jpg", "c.jpg", "src/art/d.jpg", f"tsconfig.json|{paths}")
    file = Project(tmp_path, (tmp_path / "public",), "/blog").file(said, tmp_path / "pages")
    assert (file.relative_to(tmp_path).as_posix() if file else None) == found
