"""`sarvel start`: drafts sarvel.toml from the images, pages and stylesheets that are there."""

from __future__ import annotations

import argparse
import os
import tomllib
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path

from sarvel.cli.console import Console
from sarvel.core.css.sheet import read_sheet
from sarvel.core.html.document import Document, Image, value_of
from sarvel.core.html.images import names_a_file
from sarvel.core.html.srcset import widest
from sarvel.core.html.tags import line_and_column
from sarvel.core.html.template_code import holds_code
from sarvel.core.survey.breakpoints import breakpoints_of
from sarvel.core.survey.groups import LocalImage, grouped
from sarvel.errors import PlanError
from sarvel.job.survey import Survey, survey
from sarvel.pages.local_files import Roots, file_of
from sarvel.plan.draft import Draft, drafted
from sarvel.plan.find import FILE_NAME
from sarvel.plan.read import plan_from
from sarvel.press.atomic import write_whole

_TAKEN = frozenset({"JPEG", "PNG", "WEBP", "AVIF", "TIFF", "JXL", "MPO", "BMP"})  # formats that can be masters
_MANY = 6  # folders of pages, from which on one pattern for all of them is shorter


def run(options: argparse.Namespace) -> int:
    """Drafts; exit code 1 if something is left that needs the user."""
    console = Console.of(options)
    root = Path(options.folder)
    file = root / FILE_NAME
    if not root.is_dir():
        raise PlanError(f"{root}: there is no such folder; name the site's")
    if file.exists():
        raise PlanError(f"{file}: is there already and stays as it is; rename it to have another drafted")
    found = survey([root], None, console)
    draft = _draft(found, root)
    text = drafted(draft)
    try:
        plan_from(tomllib.loads(text.encode().decode()), file, {})
    except UnicodeEncodeError:
        raise PlanError(
            f"{root}: the name of a folder or an image is not UTF-8, which no plan can say; rename it"
        ) from None
    write_whole(file, text.encode())
    images = sum(len(group.images) for group in draft.groups)
    left = [
        *(f"{key}: has no alt; say in {file} what it shows ({place})" for key, place in draft.without_alt.items()),
        *draft.left,
    ]
    console.result(f"{file} drafted: {len(draft.groups)} slots for {images} images of {len(found.pages)} pages")
    console.result("Look at shown in each slot, then run sarvel build")
    console.notes(left)
    console.document(file=str(file), plan=text, left=left)
    return 1 if left else 0


def _draft(found: Survey, root: Path) -> Draft:
    """Works out what the plan says.

    Raises:
        PlanError: no page shows an image that is here.
    """
    files = {
        row.file.resolve(): row.file for row in found.rows if row.header.format in _TAKEN and row.header.frames == 1
    }
    seen: list[tuple[LocalImage, Path]] = []
    left: list[str] = []
    for file, page in found.pages.items():
        seen += _seen(file, page, files, left)
    if not seen:
        raise PlanError(f"{root}: no page here shows an image that is here as well; name the folder of the site")
    masters = Path(os.path.commonpath([path.parent.resolve() for _, path in seen]))
    without = {path.resolve().relative_to(masters).as_posix(): one.place for one, path in seen if _lacks_alt(one.image)}
    folders = {Path(one.page).parent for one, _ in seen}
    base = Path(os.path.commonpath([folder.resolve() for folder in folders]))
    output = _free_folder(base)
    if masters in output.parents:  # no folder of masters alone: then it is the site's own
        masters = root.resolve()
    groups = grouped([one for one, _ in seen])
    left += [
        f"slots.{group.name}: nothing tells how wide its images are shown; say it in shown"
        for group in groups
        if group.guessed
    ]
    left += [f"{placed}: there is no file {placed.use.url}" for placed in found.missing]
    return Draft(
        masters=_from(root, masters),
        pages=_patterns(root, [Path(one.page) for one, _ in seen]),
        output=_from(root, output),
        address=output.name if len(folders) == 1 else f"/{output.name}",
        breaks=_breaks(found),
        groups=groups,
        without_alt=without,
        left=left,
    )


def _seen(file: Path, page: Document, files: dict[Path, Path], left: list[str]) -> Iterator[tuple[LocalImage, Path]]:
    """The images of a page that a plan can take, each with its master; obstacles of others go to `left`."""
    for image in page.images:
        tag = image.tag
        src = (widest(value_of(tag, "srcset") or "") if not image.is_ask else None) or (
            value_of(tag, "src") or ""
        ).strip()
        if not src or holds_code(src):
            continue
        place = ":".join(map(str, (file, *line_and_column(page.text, image.tag.start))))
        at_hand, _ = file_of(src, Roots(file.parent))
        master = files.get(at_hand.resolve()) if at_hand else None
        if master is None:
            continue
        if image.sources or any(image.tag in picture.images for picture in page.pictures):
            left.append(f"{place}: stands in a picture of its own; take that away to have Sarvel write it")
            continue
        yield LocalImage(image, value_of(image.tag, "src") or src, str(file), place), master


def _lacks_alt(image: Image) -> bool:
    alt = value_of(image.tag, "alt")
    return alt is None or names_a_file(alt, value_of(image.tag, "src") or "")


def _patterns(root: Path, pages: Sequence[Path]) -> list[str]:
    """Globs for pages: by folder and ending."""
    kinds = Counter((_from(root, page.parent), page.suffix) for page in pages)
    if len(kinds) > _MANY:
        return sorted({f"**/*{ending}" for _, ending in kinds})
    return sorted(f"*{ending}" if folder == "." else f"{folder}/*{ending}" for folder, ending in kinds)


def _free_folder(base: Path) -> Path:
    """A folder for renditions beside the pages that is not there yet."""
    names: Iterable[str] = ("pictures", "renditions", *(f"pictures-{i}" for i in range(2, 100)))
    return next(base / name for name in names if not (base / name).exists())


def _breaks(found: Survey) -> list[tuple[float, int]]:
    sheets = [
        *map(read_sheet, found.sheets.values()),
        *(read_sheet(css) for page in found.pages.values() for _, css in page.styles),
    ]
    counts = breakpoints_of(media for sheet in sheets for media in sheet.media)
    return sorted(counts.items(), key=lambda one: (-one[1], one[0]))


def _from(root: Path, path: Path) -> str:
    return os.path.relpath(path.resolve(), root.resolve()).replace(os.sep, "/")
