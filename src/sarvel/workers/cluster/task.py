"""Tasks that go out to the workers of a cluster, and their replies: pure data."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import TypeAlias

from sarvel.encode.work import Made, MasterWork
from sarvel.files.storage.stored_output import StoredOutput

Identity: TypeAlias = tuple[tuple[str, str], ...]
"""Names of programs and libraries whose versions go into the bytes of files, each with its version."""


@dataclass(frozen=True)
class Task:
    """The work on one master, for a worker that may run anywhere.

    Attributes:
        work: the work; its paths are absolute, as the coordinator has them.
        identity: of the coordinator: a worker of another one would make other bytes.
        mark: name of a file in the folder of renditions; who finds it there shares the coordinator's storage.
        place: object storage that the files go to, if they go to one: from where they are made, if that can reach it.
        master: the bytes of the master, for workers that do not share the coordinator's storage; None while that is not known.
    """

    work: MasterWork
    identity: Identity
    mark: str
    master: bytes | None = None
    place: StoredOutput | None = None


@dataclass(frozen=True)
class Reply:
    """The reply to a task.

    Attributes:
        made: the result; or None.
        contents: bytes of files by name, where they could not be written in place.
        lacks: whether the master cannot be read where the worker is, and has to travel.
        refuses: the address of the worker, if it is of another identity.
        sent: whether the files are in object storage already.
        died: whether the process that did the work died.
    """

    made: Made | None = None
    contents: Mapping[str, bytes] = field(default_factory=dict)
    lacks: bool = False
    refuses: str = ""
    sent: bool = False
    died: bool = False
