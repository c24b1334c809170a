"""Results that several threads want, and one of them works out."""

from __future__ import annotations

import threading
from collections import defaultdict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

_Key = TypeVar("_Key", bound=Hashable)
_Value = TypeVar("_Value")


class Once(Generic[_Key, _Value]):
    """Results by key, each worked out once, by anyone who asks first; others wait for it."""

    def __init__(self) -> None:
        """Begins empty."""
        self._values: dict[_Key, _Value] = {}
        self._locks: defaultdict[_Key, threading.Lock] = defaultdict(threading.Lock)
        self._all = threading.Lock()

    def get(self, key: _Key, work_out: Callable[[], _Value]) -> _Value:
        """The result of a key.

        Args:
            work_out: called if it is missing; if it raises, the next caller tries again.
        """
        if key in self._values:
            return self._values[key]
        with self._all:
            lock = self._locks[key]
        with lock:
            if key not in self._values:
                self._values[key] = work_out()
            return self._values[key]

    def known(self, key: _Key) -> _Value | None:
        """The result of a key, if there is one already."""
        return self._values.get(key)
