"""Files of a site that is deployed somewhere, asked for politely: few at once, bounded in size and time."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import urllib3
from urllib3.exceptions import HTTPError
from urllib3.util import Retry, Timeout

from sarvel.version import __version__

AT_ONCE = 4
"""Requests under way at one time: as many as a browser of the time of HTTP/1.1 had, and less."""

_LARGEST = 16_000_000  # bytes of a file; no image or page for the web has more
_TIMEOUT = Timeout(connect=5.0, read=30.0)
# A server that makes files when they are asked for says 503 and when to come again; others must not be asked again at once.
_RETRIES = Retry(
    total=6, connect=1, read=1, redirect=3, status=3, status_forcelist=(429, 503), respect_retry_after_header=True,
    backoff_factor=0.5, raise_on_status=False,
)  # fmt: skip


@dataclass(frozen=True)
class Fetched:
    """An answer.

    Attributes:
        status: its status code; 0 if there was none.
        headers: names in lower case.
        body: its bytes.
        problem: why there was none, in words; "" if there was.
    """

    status: int
    headers: Mapping[str, str]
    body: bytes
    problem: str = ""


class Fetcher:
    """What asks; for several threads."""

    def __init__(self) -> None:
        """Begins without a connection."""
        self._pool = urllib3.PoolManager(
            maxsize=AT_ONCE,
            block=True,
            timeout=_TIMEOUT,
            retries=_RETRIES,
            headers={"User-Agent": f"sarvel/{__version__}"},
        )

    def get(self, url: str, accept: str) -> Fetched:
        """The answer to a request.

        Args:
            url: absolute, of http or https.
        """
        try:
            answer = self._pool.request("GET", url, headers={"Accept": accept}, preload_content=False)
            try:
                body = answer.read(_LARGEST + 1, decode_content=True)
                headers = {name.lower(): value for name, value in answer.headers.items()}
            finally:
                answer.drain_conn() if len(body) <= _LARGEST else answer.close()
                answer.release_conn()
        except (HTTPError, ValueError, OSError) as error:
            return Fetched(0, {}, b"", _in_words(error))
        if len(body) > _LARGEST:
            return Fetched(answer.status, headers, b"", f"has more than {_LARGEST // 10**6} MB")
        return Fetched(answer.status, headers, body)


def _in_words(error: Exception) -> str:
    """The reason of an error, without addresses of objects."""
    reason = getattr(error, "reason", None) or error
    kind = type(reason).__name__.removesuffix("Error")
    words = {
        "NewConnection": "refuses connections", "NameResolution": "has an unknown host", "ConnectTimeout": "does not answer",
        "ReadTimeout": "does not answer in time", "SSL": "has no valid certificate",
    }  # fmt: skip
    return words.get(kind, f"cannot be fetched ({kind})")
