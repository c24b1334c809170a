"""A place in object storage, named by a URL: listed, read and written by the library of its kind.

Credentials come from the storage's own settings and environment, and are never asked for, kept or told.
"""

from __future__ import annotations

import base64
import contextlib
import hashlib
import threading
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from sarvel.errors import StorageError, first_line
from sarvel.files.atomic import PART

if TYPE_CHECKING:  # slow to load, and few plans need it
    from fsspec import AbstractFileSystem

_PIECE = 8 << 20  # bytes of a part of a large file: S3 takes parts from 5 MiB on ("Amazon S3 multipart upload limits")
_LARGE = 2 * _PIECE  # bytes from which a file goes in parts
_WITH_BUCKETS = ("s3", "gs", "gcs", "az", "abfs")  # protocols whose places begin with a bucket, which must be there
_AT_ONCE = (*_WITH_BUCKETS, "memory")  # protocols in which a file is there whole or not at all

KEPT_FOR_EVER = "public, max-age=31536000, immutable"
"""The Cache-Control of files whose names tell their contents: a year (RFC 9111, section 5.2.2), not asked again (RFC 8246)."""

ASKED_AGAIN = "no-cache"
"""The Cache-Control of files that change under one name."""


@dataclass(frozen=True)
class StoredEntry:
    """A file in a store.

    Attributes:
        size: its bytes.
        version: differs between any two contents of it, as its ETag does; "" if the store tells none.
    """

    size: int
    version: str


class Store:
    """A place in object storage.

    Attributes:
        url: the place, without a slash at its end.
    """

    def __init__(self, url: str) -> None:
        """Takes the place; it is reached when it is needed."""
        self.url = url.rstrip("/")
        self._protocol = url.partition("://")[0]
        self._lock = threading.Lock()
        self._reached: tuple[AbstractFileSystem, str] | None = None
        self._is_made = self._protocol in _AT_ONCE
        self._tells_digests = True

    def entries(self) -> dict[str, StoredEntry]:
        """All files below it, by their names as seen from it: one listing.

        Raises:
            StorageError: it cannot be listed, or its bucket is missing.
        """
        fs, root = self._place()
        found: dict[str, dict[str, Any]] = {}
        with self._told(), contextlib.suppress(NotADirectoryError):
            try:
                found = fs.find(root, detail=True)
            except FileNotFoundError:
                found = {}
            bucket = root.strip("/").partition("/")[0]
            if not found and self._protocol in _WITH_BUCKETS and not fs.exists(bucket):
                raise StorageError.at(
                    self.url, f"there is no bucket '{bucket}'", "make it, or mend its name in the plan"
                )
        beside = root.strip("/") + "/"
        return {
            name.strip("/").removeprefix(beside): StoredEntry(int(one["size"] or 0), _version(one))
            for name, one in found.items()
        }

    def get(self, name: str) -> bytes:
        """The bytes of a file.

        Raises:
            StorageError: it cannot be read.
        """
        fs, root = self._place()
        with self._told(f"/{name}"):
            content: bytes = fs.cat_file(f"{root}/{name}")
        return content

    def put(self, name: str, content: bytes, media_type: str, kept: str) -> None:
        """Uploads a file, whole or not at all, and compares the result with its content.

        Args:
            content: its bytes.

        Raises:
            StorageError: it is refused, or did not arrive whole.
        """
        fs, root = self._place()
        path = f"{root}/{name}"
        with self._told(f"/{name}"):
            if not self._is_made:
                fs.makedirs(root, exist_ok=True)
                self._is_made = True
            said = self._headers(media_type, kept, len(content))
            if self._protocol in _AT_ONCE:
                answer = fs.pipe_file(path, content, **said)
            else:
                part = f"{root}/{PART}{hashlib.blake2b(name.encode(), digest_size=8).hexdigest()}"
                answer = fs.pipe_file(part, content, **said)
                fs.mv(part, path)
            if not self._arrived(fs, path, content, answer):
                raise StorageError.at(f"{self.url}/{name}", "did not arrive as it was sent", "run again")

    def remove(self, names: Iterable[str]) -> None:
        """Removes files that are there.

        Raises:
            StorageError: they cannot be removed.
        """
        fs, root = self._place()
        paths = [f"{root}/{name}" for name in names]
        if paths:
            with self._told():
                fs.rm(paths)

    def _place(self) -> tuple[AbstractFileSystem, str]:
        """The file system of the place, and its path there.

        Raises:
            StorageError: what reaches it is not installed.
        """
        with self._lock:
            if self._reached is None:
                try:
                    from fsspec.core import url_to_fs

                    with self._told():
                        self._reached = url_to_fs(self.url, use_listings_cache=False, skip_instance_cache=True)
                except ImportError as error:
                    raise StorageError.at(
                        self.url,
                        "needs an extra",
                        f"install it with pip install 'sarvel[storage]', and with it the package for {self._protocol}:// "
                        f"({first_line(error)})",
                    ) from error
            return self._reached

    def _headers(self, media_type: str, kept: str, size: int) -> dict[str, object]:
        """What a file is written with, in the words of the library for the protocol."""
        match self._protocol:
            case "s3":
                parts = {"chunksize": _PIECE} if size >= _LARGE else {}
                return {"ContentType": media_type, "CacheControl": kept, **parts}
            case "gs" | "gcs":
                return {"content_type": media_type, "fixed_key_metadata": {"cache_control": kept}}
            case "az" | "abfs":
                return {"content_settings": {"content_type": media_type, "cache_control": kept}}
        return {}

    def _arrived(self, fs: AbstractFileSystem, path: str, content: bytes, answer: object) -> bool:
        """Tells whether a file is there as it was sent, by its size and the digest that the store describes it."""
        digests = _digests(content)
        if isinstance(answer, dict) and str(answer.get("ETag", "")).strip('"') in digests:
            return True
        info = fs.info(path)
        if info["size"] != len(content):
            return False
        told = _told_digest(info)
        if not told or told in digests or not self._tells_digests:
            return True
        if fs.cat_file(path) != content:
            return False
        self._tells_digests = False  # encrypted files have an ETag that is no digest
        return True

    @contextlib.contextmanager
    def _told(self, name: str = "") -> Iterator[None]:
        """Turns the errors of a library into a clear line; each kind of storage has its own ones."""
        where = f"{self.url}{name}"
        try:
            yield
        except (StorageError, ImportError, NotADirectoryError):
            raise
        except FileNotFoundError as error:
            raise StorageError.at(
                where, f"is not there ({first_line(error)})", "see that the bucket is there and named rightly"
            ) from error
        except Exception as error:
            reason = first_line(error)
            if (
                isinstance(error, PermissionError)
                or "redential" in type(error).__name__
                or "Token" in type(error).__name__
            ):
                raise StorageError.at(
                    where,
                    f"the storage refuses ({reason})",
                    "give credentials in its own way, as by its environment variables, never in the plan",
                ) from error
            raise StorageError.at(
                where, f"the storage does not do it ({reason}); nothing is lost", "run again when it answers"
            ) from error


def _version(said: dict[str, Any]) -> str:
    """What differs between any two contents of a file, as far as a store tells: an ETag, a digest, or a time."""
    for key in ("ETag", "etag", "md5Hash", "mtime", "created", "last_modified", "LastModified"):
        if said.get(key):
            return str(said[key]).strip('"')
    return ""


def _digests(content: bytes) -> set[str]:
    """The forms in which stores tell the MD5 of a file: hexadecimal, Base64, and S3's of a file in parts."""
    whole = hashlib.md5(content, usedforsecurity=False)
    pieces = [content[i : i + _PIECE] for i in range(0, len(content), _PIECE)]
    each = b"".join(hashlib.md5(piece, usedforsecurity=False).digest() for piece in pieces)
    in_parts = f"{hashlib.md5(each, usedforsecurity=False).hexdigest()}-{len(pieces)}"
    return {whole.hexdigest(), base64.b64encode(whole.digest()).decode(), in_parts}


def _told_digest(info: dict[str, Any]) -> str:
    """The digest that a store describes a file, in one of its forms; "" if none."""
    settings = info.get("content_settings") or {}
    told = (
        info.get("md5Hash") or info.get("ETag") or (settings.get("content_md5") if isinstance(settings, dict) else "")
    )
    return base64.b64encode(told).decode() if isinstance(told, (bytes, bytearray)) else str(told or "").strip('"')
