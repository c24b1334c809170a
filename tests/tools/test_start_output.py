"""Where a draft puts made files."""

from pathlib import Path

import pytest

from sarvel.tools.start.output import address_below, published
from sarvel.tools.start.ways import ground_of

REACT = '{"dependencies": {"react": "19"}}'


@pytest.mark.parametrize(
    ("files", "roots", "served", "output"),
    [
        ([], [None], None, "pages/pictures"),
        ([], ["."], None, "pictures"),
        ([], ["app/static", "app/static", "other"], None, "app/static/pictures"),
        ([], ["source"], "source", "source/pictures"),
        ([], [".."], None, "pages/pictures"),  # what addresses start from lies outside of the plan's folder
        (["package.json"], [None], None, "public/pictures"),
        (["package.json", "public/pictures/x"], [None], None, "public/renditions"),
    ],
)
def test_the_folder_for_made_files(
    tmp_path: Path, files: list[str], roots: list[str | None], served: str | None, output: str
) -> None:
    for name in files:
        (tmp_path / name).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / name).write_text(REACT)
    (tmp_path / "pages").mkdir()
    places = [tmp_path / one if one else None for one in roots]
    top, folder = published(places, [tmp_path / "pages" / "a.html"], tmp_path, ground_of(tmp_path))
    assert (top.relative_to(tmp_path).as_posix() if top else None, folder.relative_to(tmp_path).as_posix()) == (
        served,
        output,
    )


@pytest.mark.parametrize(
    ("page", "output", "address"),
    [
        ("a.jsx", "public/pictures", "${import.meta.env.BASE_URL}pictures"),
        ("a.jsx", "src/pictures", ""),
        ("a.vue", "public/pictures", ""),
    ],
)
def test_components_below_a_path_reach_them(tmp_path: Path, page: str, output: str, address: str) -> None:
    (tmp_path / "package.json").write_text(REACT)
    (tmp_path / "vite.config.js").write_text("export default { base: '/app/' }")
    assert address_below(ground_of(tmp_path), tmp_path, tmp_path / output, [tmp_path / page]) == address
