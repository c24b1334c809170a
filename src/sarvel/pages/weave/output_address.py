"""The ways in which pages reach the files of pictures.

A page that is served as it stands gets addresses relative to itself, so that it works below any folder and from disk. One
whose author writes addresses from the root, and what a template engine makes other pages of, gets them from the root.
"""

from __future__ import annotations

import os
import re
import urllib.parse
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from sarvel.core.address.address import Address, InCall, InFolder, Whole
from sarvel.core.html.base import base_path, without_base
from sarvel.core.html.front_matter import front_matter_end
from sarvel.core.html.markdown_call import PartialCall
from sarvel.pages.read.expression import Expression

_STANDING = frozenset({".html", ".htm", ".xhtml", ".xht", ".php"})  # what servers send from its own place
_WHOLE = re.compile(r"<!doctype\b|<html\b|<head\b|<body\b", re.IGNORECASE)
_OWN_CODE = re.compile(r"<(script|style)\b.*?</\1", re.IGNORECASE | re.DOTALL)
_TEMPLATE = re.compile(r"\{\{|\{%|<%|\[%|@(?:extends|section|yield)\b")


@dataclass(frozen=True)
class Addresses:
    """The ways in which pages reach files in the folder of renditions; or, where no file is there, the one way for all.

    Attributes:
        root: the folder that is served as /, or as the base.
        said: the one way that the plan names, a URL prefix without a slash at its end; None if it names none.
        base: the path that the site is published below, without a slash at its end.
        made_elsewhere: addresses of files that are not in that folder: as pages reach them, and as its stylesheet does.
        component: the file of the component that woven scripts call; None if they hold the markup themselves.
        partial: how Markdown calls a partial; None if it holds the markup itself.
        site: the address that the site is published at; "" if the plan does not say.
    """

    output: Path
    root: Path
    said: str | None = None
    base: str = ""
    made_elsewhere: tuple[Address, Address] | None = None
    component: Path | None = None
    partial: PartialCall | None = None
    site: str = ""

    @property
    def prefix(self) -> str:
        """The URL prefix of the folder for markup whose final place is unknown."""
        if self.said is not None:
            return self.said
        path = _path(self.output, self.root)
        return self.base if path == "." else f"{self.base}/{path}"

    @property
    def rooted(self) -> Address:
        """Addresses for markup whose final place is unknown: partials, templates, programs."""
        return self.made_elsewhere[0] if self.made_elsewhere else InFolder(self.prefix)

    @property
    def whole(self) -> Address:
        """Whole addresses, for images that are shared."""
        return Whole(self.site, self.rooted)

    @property
    def beside(self) -> Address:
        """The way for the stylesheet in the folder."""
        return self.made_elsewhere[1] if self.made_elsewhere else InFolder("")

    def of_component(self, target: Path) -> str:
        """The path by which a page imports the component, as a bundler resolves it; an ending of TypeScript is left out."""
        file = self.component or target
        path = os.path.relpath(file.absolute(), target.parent.absolute()).replace(os.sep, "/").removesuffix(".tsx")
        return path if path.startswith(".") else f"./{path}"

    def of_page(self, target: Path, text: str, srcs: Iterable[str]) -> Address:
        """The way for one page.

        Args:
            target: where the page is served from.
            srcs: the addresses that its author gives to images.
        """
        if self.made_elsewhere or self.said is not None:
            return self.rooted
        if not _stands(target, text) or any(src.startswith("/") for src in srcs):
            return self.rooted
        folder, base = target.parent, base_path(text)
        if base is not None:
            start = self.root if base.startswith("/") else folder
            folder = start / without_base(urllib.parse.unquote(base.rpartition("/")[0]), self.base).lstrip("/")
        path = _path(self.output, folder)
        return InFolder("" if path == "." else path)

    def of_call(self, said: Expression, roots: Iterable[Path]) -> Address | None:
        """The way by an author's own call; None for other words, or if no call reaches the folder.

        Args:
            roots: folders that the call may see files from, the likeliest first.
        """
        if said.form != "call" or self.made_elsewhere or self.said is not None:
            return None
        path = next((path for root in roots if not (path := _path(self.output, root)).startswith(".")), None)
        if path is None:
            return None
        prefix = f"/{path}" if said.path.startswith("/") else path
        return InCall(prefix, *(_in_template(said) if said.is_script else (said.before, said.after)))


def _in_template(said: Expression) -> tuple[str, str]:
    """The words around a path of an expression of JavaScript, as a template literal holds them."""
    before, after = said.before.removeprefix("{").lstrip(), said.after.removesuffix("}").rstrip()
    if before.startswith("`"):
        return before[1:], after.removesuffix("`")
    return f"${{{before}", f"{after}}}"


def _stands(target: Path, text: str) -> bool:
    """Tells whether a page is served as it stands, going by its text: it is whole, and no template engine's."""
    if target.suffix.lower() == ".css":
        return True
    if target.suffix.lower() not in _STANDING or not _WHOLE.search(text) or front_matter_end(text):
        return False
    return not _TEMPLATE.search(_OWN_CODE.sub("", text))


def _path(place: Path, folder: Path) -> str:
    """The address of a place as seen from a folder."""
    return urllib.parse.quote(
        os.path.relpath(place.absolute(), folder.absolute()).replace(os.sep, "/"), safe="/~!$&'()*+;=@"
    )
