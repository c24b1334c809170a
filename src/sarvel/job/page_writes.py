"""A page written over what was read of it, whole or not at all."""

from __future__ import annotations

import os
import stat
from collections.abc import Callable

from sarvel.errors import OutputError
from sarvel.pages.page_files import PageFile
from sarvel.press.atomic import write_whole


def write_page(file: PageFile, content: bytes, still: Callable[[], bool] = lambda: True) -> bool:
    """Writes a page with the owner and permissions that it had.

    Args:
        file: the page.
        content: its bytes.
        still: asked at the last moment whether it may be written.

    Returns:
        Whether it was written.

    Raises:
        OutputError: it is read-only, or cannot be written.
    """
    like = file.source.stat()
    if file.target != file.source:
        like = os.stat_result((like.st_mode | stat.S_IWUSR, *like[1:]))  # a copy is ours to write again
    elif not like.st_mode & (stat.S_IWUSR | stat.S_IWGRP | stat.S_IWOTH):
        raise OutputError(
            f"{file.target}: is read-only and stays as it is; let it be written, or name a folder as site.woven"
        )
    return write_whole(file.target, content, like, still)
