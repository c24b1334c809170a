"""Listeners: a command's console, a watcher or a server receives the progress of a job."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterable, Iterator
from contextlib import AbstractContextManager
from typing import Protocol, TypeAlias

from sarvel.notices import Notice

Advance: TypeAlias = Callable[[int, str], None]
"""Called with a number of finished items, and the current item."""


class Listener(Protocol):
    """The interface that a job needs of its caller."""

    def progress(self, label: str, total: int, *, timed: bool = True) -> AbstractContextManager[Advance]:
        """Begins to show progress, until the block ends.

        Args:
            timed: whether the remaining time follows the count; else it is part of the item's text.
        """

    def step(self, text: str) -> None:
        """Hears of a single step."""

    def trouble(self, messages: Iterable[Notice]) -> None:
        """Receives warnings."""

    def notes(self, messages: Iterable[Notice]) -> None:
        """Hears what the user should know and may leave so."""


class Nobody:
    """A listener for jobs whose results alone matter."""

    @contextlib.contextmanager
    def progress(self, label: str, total: int, *, timed: bool = True) -> Iterator[Advance]:  # noqa: ARG002 - as a listener has it
        """Shows nothing."""
        yield lambda _count, _what: None

    def step(self, text: str) -> None:
        """Keeps it to itself."""

    def trouble(self, messages: Iterable[Notice]) -> None:
        """Keeps them to itself."""

    def notes(self, messages: Iterable[Notice]) -> None:
        """Keeps them to itself."""
