"""A page written only over the content that was read, whole or not at all; through no link, and over no foreign file."""

from __future__ import annotations

import os
import stat
from collections.abc import Callable
from pathlib import Path

from sarvel.errors import OutputError
from sarvel.files.atomic import write_whole
from sarvel.pages.read.page_files import PageFile


def write_page(
    file: PageFile,
    content: bytes,
    still: Callable[[], bool] = lambda: True,
    is_ours: Callable[[Path], bool] = lambda _: True,
) -> bool:
    """Writes a page with the owner and permissions that it had.

    Args:
        file: the page. One that is woven in place and is a link is written to the file that it leads to.
        content: its bytes.
        still: called at the last moment; if it returns False, nothing is written.
        is_ours: whether a file that is in the place of a woven page was written by Sarvel.

    Returns:
        Whether it was written.

    Raises:
        OutputError: it is read-only, is not ours to write, or cannot be written.
    """
    like = file.source.stat()
    if file.target != file.source:
        like = os.stat_result((like.st_mode | stat.S_IWUSR, *like[1:]))  # a copy is ours to write again
        refuse_others(file.target, is_ours)
        return write_whole(file.target, content, like, still, file.top)
    if not like.st_mode & (stat.S_IWUSR | stat.S_IWGRP | stat.S_IWOTH):
        raise OutputError.at(
            file.target, "is read-only and stays as it is", "let it be written, or name a folder as site.woven"
        )
    return write_whole(file.source.resolve(), content, like, still)


def refuse_others(place: Path, is_ours: Callable[[Path], bool]) -> None:
    """Checks that nothing of the author's is where a file is to be written.

    Raises:
        OutputError: a link is there, or a file that Sarvel did not write.
    """
    if place.is_symlink():
        raise OutputError.at(place, "is a link, and nothing is written through it or in its place", "remove it")
    if place.exists() and not is_ours(place):
        raise OutputError.at(
            place, "is there already, and Sarvel did not write it", "move it away, or delete it if you do not need it"
        )
