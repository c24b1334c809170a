"""Where a drafted plan puts made files, and how pages reach them."""

from __future__ import annotations

import os
from collections import Counter
from collections.abc import Iterable, Sequence
from pathlib import Path, PurePosixPath

from sarvel.core.html.dialect import dialect_of
from sarvel.core.html.tags import COMPONENT
from sarvel.pages.read.kinds import has
from sarvel.pages.read.local_files import is_file, is_folder
from sarvel.plan.read import SERVED
from sarvel.tools.start.ways import Ground


def published(
    roots: Iterable[Path | None], pages: Sequence[Path], root: Path, ground: Ground
) -> tuple[Path | None, Path]:
    """The folder that is served as /, None for the default; and a folder for renditions that is not there yet.

    Args:
        roots: the folders that addresses of images start from, as far as they tell.
        pages: those with images.
        root: the plan's folder.
    """
    if ground.woven:
        return None, root / ground.woven / "pictures"
    inside = Counter(one for one in roots if one and one.resolve().is_relative_to(root.resolve()))
    top = next((place for place, _ in inside.most_common(1)), None)
    if top is None and ground.kind.published:
        top = root / ground.kind.published
    if top is None:
        return None, _free_folder(Path(os.path.commonpath([page.parent.resolve() for page in pages])))
    part = (root / ground.kind.published).resolve()
    if ground.kind.published and is_folder(part) and top.resolve() in part.parents and top.resolve() != root.resolve():
        return top, _free_folder(part)  # of the folder that addresses start from, only this one is published
    is_plain = top.resolve() == root.resolve() or top.name in SERVED
    return None if is_plain else top, _free_folder(top)


def _free_folder(base: Path) -> Path:
    names: Iterable[str] = ("pictures", "renditions", *(f"pictures-{i}" for i in range(2, 100)))
    return next(base / name for name in names if not (base / name).exists())


def address_below(ground: Ground, root: Path, output: Path, pages: Iterable[Path]) -> str:
    """How components of a site that is published below a path reach the renditions; "" for other sites."""
    begin = ground.kind.address_in(root) if ground.way == "source" else ""
    public = root / ground.kind.published
    if not begin or any(page.suffix == ".vue" for page in pages) or public.resolve() not in output.resolve().parents:
        return ""
    return f"{begin}{seen_from(public, output)}"


_COMPONENTS = ("src/components", "components", "src", ".")  # where the sources of a project commonly have theirs


def component_of(ground: Ground, root: Path, pages: Iterable[Path]) -> str:
    """The file of the component that woven scripts of React can call; "" where none do."""
    scripts = (dialect_of(page.name, ground.dialects) for page in pages)
    if ground.way != "source" or not any(one and one.camel for one in scripts):
        return ""
    if not has(root, "package.json", r'"react"\s*:'):
        return ""
    folder = next(name for name in _COMPONENTS if is_folder(root / name))
    ending = ".tsx" if is_file(root / "tsconfig.json") else ".jsx"
    return (PurePosixPath(folder) / f"{COMPONENT}{ending}").as_posix()


def seen_from(folder: Path, path: Path) -> str:
    """A path as seen from a folder, with forward slashes."""
    return os.path.relpath(path.resolve(), folder.resolve()).replace(os.sep, "/")
