"""The cluster of a run, connected when there is work for it."""

from __future__ import annotations

import contextlib
from typing import TYPE_CHECKING

from sarvel.errors import ClusterError
from sarvel.notices import Kind, Notice
from sarvel.pipeline.listener import Listener
from sarvel.pipeline.portions import PORTION

if TYPE_CHECKING:  # few runs have one
    from sarvel.workers.cluster.coordinator import Cluster

_OF_A_THREAD = 40  # masters of a portion for each thread of a cluster, so that few are idle at the end of one


class ClusterWhenNeeded:
    """The workers of a dask scheduler, from the first time that they are asked for."""

    def __init__(self, address: str | None, listener: Listener, stack: contextlib.ExitStack) -> None:
        """Takes the address.

        Args:
            address: of the scheduler; None for this machine.
            stack: lets go of it in the end.
        """
        self._address, self._listener, self._stack = address, listener, stack
        self._cluster: Cluster | None = None

    def __call__(self) -> Cluster | None:
        """The cluster; None if this machine does the work.

        Raises:
            ClusterError: it cannot be reached, or dask is not installed.
        """
        if self._cluster is None and self._address is not None:
            try:
                from sarvel.workers.cluster.coordinator import Cluster  # slow to load
            except ImportError as error:
                raise ClusterError.at(
                    "", "--on needs an extra", "install it with pip install 'sarvel[cluster]'"
                ) from error
            self._cluster = self._stack.enter_context(Cluster(self._address, self._tell))
        return self._cluster

    def _tell(self, line: str) -> None:
        self._listener.notes([Notice(Kind.CLUSTER, "", line, severity="note")])

    def portion(self) -> int:
        """How many masters are worked out together."""
        return max(PORTION, _OF_A_THREAD * self._cluster.threads if self._cluster else 0)
