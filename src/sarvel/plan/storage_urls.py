"""Where masters are and renditions go: folders, or places in object storage that URLs name."""

from __future__ import annotations

import re
import urllib.parse
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from sarvel.core.address.on_request import CACHE_NAME
from sarvel.plan import schema
from sarvel.plan.messages import Problem, nearest

STORES = ("s3", "gs", "gcs", "az", "abfs", "sftp", "memory")
"""Schemes of the URLs of object storage, as fsspec calls them; `file` is a folder."""

_URL = re.compile(r"([A-Za-z][A-Za-z0-9+.-]*)://(.*)", re.DOTALL)
_OUTPUT = "output"
"""The folder in the cache where renditions are made that go to a store."""


class Place(NamedTuple):
    """A place.

    Attributes:
        folder: of masters, where pages take them to be; of renditions, where they are made.
        url: of the store, if it is one.
    """

    folder: Path
    url: str | None


def masters_place(said: str, folder: Path) -> Place:
    """Where masters are. Pages name those of a store as if they lay next to the plan, in a folder called as the URL ends."""
    if (url := _store_url(said)) is None:
        return Place(folder / _plain(said), None)
    return Place(folder / urllib.parse.unquote(url.rpartition("/")[2]), url)


def output_place(said: str, folder: Path) -> Place:
    """Where renditions go, as for masters."""
    if (url := _store_url(said)) is None:
        return Place(folder / _plain(said), None)
    return Place(folder / CACHE_NAME / _OUTPUT, url)


def place_problems(site: schema.SiteTable) -> Iterator[Problem]:
    """Problems of the places that URLs name."""
    for key, said in (("masters", site.masters), ("output", site.output)):
        if not (found := _URL.match(said)):
            continue
        scheme, rest = found[1].lower(), found[2]
        if scheme not in (*STORES, "file"):
            yield Problem(("site", key), f"no kind of storage '{scheme}://'", nearest(scheme, [*STORES, "file"]))
        elif scheme != "file" and (not rest.strip("/") or set(rest) & set("?#")):
            yield Problem(
                ("site", key),
                f"'{said}' names no place",
                f"write one such as s3://bucket/{('masters' if key == 'masters' else 'pictures')}",
            )
        elif ":" in rest.partition("/")[0].rpartition("@")[0]:
            how = "take it out, and give credentials in the storage's own way, as by its environment variables"
            yield Problem(("site", key), "the plan holds a password", how)
    if _store_url(site.output) and not site.address:
        how = 'add it, as address = "https://pictures.example"'
        yield Problem(("site", "output"), "pages reach files in object storage at an address of their own", how)


def _store_url(said: str) -> str | None:
    found = _URL.match(said)
    return said.rstrip("/") if found and found[1].lower() != "file" else None


def _plain(said: str) -> str:
    """A path, of a file:// URL too."""
    if not said.lower().startswith("file://"):
        return said
    import urllib.request  # start-up is a feature

    return urllib.request.url2pathname(urllib.parse.urlsplit(said).path)
