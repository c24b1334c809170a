"""Errors that a user can mend. All else is a bug, and keeps its traceback.

A message has one form: where, what, what to do. `cli.main` catches the base class once, prints the message and exits
with the class's code.
"""

from __future__ import annotations

import errno
from collections.abc import Mapping
from typing import Self

from sarvel.notices import Kind, Notice

_CURES: Mapping[int | None, str] = {
    errno.ENOENT: "there is no such file; mend its name",
    errno.EISDIR: "name a file, not a folder",
    errno.ENOTDIR: "a part of its path is no folder; mend its name",
    errno.ELOOP: "remove the link that leads to itself",
    errno.ENAMETOOLONG: "write a shorter name",
    errno.EACCES: "check its permissions",
    errno.EPERM: "check its permissions",
    errno.EROFS: "the disk can only be read; name a place on another one",
    errno.ENOSPC: "make room on the disk",
    errno.EMFILE: "raise the limit of this shell with `ulimit -n 1024`",
    errno.ENFILE: "end other programs",
    errno.EAGAIN: "end other programs, or raise the limit of processes",
    errno.ENOMEM: "end other programs, or use fewer --workers",
}


def cure_of(error: OSError) -> str:
    """What to do about an error of the system."""
    return _CURES.get(error.errno, "check its permissions, and the disk that it is on")


def first_line(error: BaseException) -> str:
    """The first line of what an error says, or else its kind."""
    return next(iter(str(error).splitlines()), type(error).__name__)


class SarvelError(Exception):
    """Something that the user can mend.

    Attributes:
        notices: one for each problem; the error's text has them all, a line each.
        kind: of its notices, where nothing more exact is known.
    """

    kind = Kind.CALL
    exit_code = 2

    def __init__(self, *notices: Notice) -> None:
        super().__init__(*notices)
        self.notices = notices

    def __str__(self) -> str:
        """The notices, a line each."""
        return "\n".join(map(str, self.notices))

    @classmethod
    def at(cls, place: object, text: str, cure: str = "") -> Self:
        """An error of one problem: place, text, cure."""
        return cls(Notice(cls.kind, str(place), text, cure))

    def within(self, place: object) -> Self:
        """The same error, whose places are seen from another one."""
        return type(self)(*(one.within(place) for one in self.notices))


class PlanError(SarvelError):
    """The plan is missing, is not TOML, or is invalid. Every problem has a line of its own."""

    kind = Kind.PLAN


class MasterError(SarvelError):
    """One master cannot be read or drawn. The others go on."""

    kind = Kind.MASTER
    exit_code = 1


class AnimatedError(MasterError):
    """One master is a moving picture. It is not changed."""

    kind = Kind.MOVING


class PageError(SarvelError):
    """One page cannot be read or written. The others go on."""

    kind = Kind.PAGE
    exit_code = 1


class OutputError(SarvelError):
    """Nothing can be written where the plan wants it."""

    kind = Kind.OUTPUT


class StorageError(OutputError):
    """The object storage that the plan names cannot be reached, or refuses."""

    kind = Kind.STORAGE


class ClusterError(SarvelError):
    """No scheduler of dask can be reached, or it has no worker that may be used."""

    kind = Kind.CLUSTER


class BrowserError(SarvelError):
    """No browser can be had, or it ends again and again."""

    kind = Kind.BROWSER
