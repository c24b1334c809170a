"""The files of a plan's folders that a preview serves: what the site publishes, and nothing else that is kept there.

It serves pages, styles, scripts, fonts and media; data in published folders, or if a page asks for it; masters that a page names.
It never serves keys, the plan, the ledger, sources of a server, hidden files, dependencies, or what a link outside leads to.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from functools import cached_property
from pathlib import Path

from sarvel.core.address.on_request import CACHE_NAME
from sarvel.files.ledger_rows import FILE_NAME as LEDGER
from sarvel.files.places import WELL_KNOWN, is_within, real_places
from sarvel.files.reports import is_for_people
from sarvel.pages.read.page_files import SERVABLE, PageFile
from sarvel.pages.read.references import names_in_pages
from sarvel.plan.find import FILE_NAME as PLAN
from sarvel.plan.read import Plan
from sarvel.plan.seal_keys import FILE_NAME as KEYS
from sarvel.plan.seal_keys import key_file


def _endings(names: str) -> frozenset[str]:
    return frozenset(f".{name}" for name in names.split())


_IMAGES = _endings("apng avif bmp cur gif heic ico jfif jpeg jpg jxl pjp pjpeg png svg svgz tif tiff webp")
_KINDS = _endings("css js mjs eot otf ttf woff woff2 aac flac m4a m4v mov mp3 mp4 oga ogg ogv opus vtt wav weba webm")
_DATA = _endings("atom csv geojson glb gltf json pdf rss tsv txt wasm webmanifest xml")
_DEPENDENCIES = frozenset({"node_modules", "bower_components", "jspm_packages", "site-packages", "__pycache__"})


class Published:
    """The files of a site that browsers may have."""

    def __init__(self, plan: Plan, pages: Sequence[PageFile], tops: Iterable[Path]) -> None:
        """Looks nothing up yet.

        Args:
            tops: the folders that are served as /.
        """
        self._pages = pages
        self._own = {file.resolve() for page in pages for file in (page.source, page.target)}
        tops = [*tops, plan.output, plan.masters_folder, *plan.outside]
        self._tops, self._lexical = real_places(tops), [str(top.absolute()) for top in tops]
        places = [
            plan.output,
            *([plan.woven] if plan.woven else []),
            *([plan.root] if plan.root != plan.folder else []),
        ]
        self._meant = real_places(places)
        self._authors = real_places(page.source.parent for page in pages)
        self._masters, self._output = real_places([plan.masters_folder]), real_places([plan.output])
        self._withheld = real_places([plan.file, plan.folder / CACHE_NAME, key_file(plan), *plan.tables])
        self._beside = tuple(real_places([plan.file, key_file(plan)]))  # and copies next to them, such as `keys.txt~`

    def __call__(self, file: Path, *, asked: bool) -> bool:
        """Tells whether browsers may have a file.

        Args:
            asked: whether a page of the site asks for it, by what the browser says.
        """
        real = file.resolve()
        if not self._is_open(real) or _DEPENDENCIES & set(self._below(file.absolute(), self._lexical)):
            return False
        kind = real.suffix.lower()
        if kind in _IMAGES:
            is_master = is_within(real, self._masters) and not is_within(real, self._output)
            return not is_master or real.name in self._named
        if kind in SERVABLE:
            is_page = is_within(real, [*self._meant, *self._authors]) or real in self._own
            return is_page and not is_for_people(real)
        return kind in _KINDS or (kind in _DATA and (asked or is_within(real, self._meant)))

    def _is_open(self, real: Path) -> bool:
        """Tells whether a file is within the served folders, and neither hidden nor one of a plan's own."""
        if not is_within(real, self._tops) or is_within(real, self._withheld):
            return False
        if real.name.startswith((PLAN, KEYS, LEDGER)) or str(real).startswith(self._beside):
            return False
        parts = self._below(real, self._tops)
        return not any((part.startswith(".") and part != WELL_KNOWN) or part in _DEPENDENCIES for part in parts)

    def _below(self, file: Path, tops: Iterable[str]) -> Sequence[str]:
        """The parts of a path below the innermost folder that is served: those above it do not matter."""
        around = [top for top in tops if is_within(file, [top])]
        return file.relative_to(max(around, key=len)).parts if around else ()

    @cached_property
    def _named(self) -> set[str]:
        """Names of files that pages name."""
        return names_in_pages(dict.fromkeys(file for page in self._pages for file in (page.source, page.target)))
