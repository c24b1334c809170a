"""Seals: who holds a key writes them, and can tell whether an address was written by one who holds it."""

from __future__ import annotations

import base64
import hashlib
import hmac
from collections.abc import Sequence
from dataclasses import dataclass, field

_BYTES = 16  # RFC 2104, section 5: no fewer than half of the hash's length, and no fewer than 80 bits
LETTERS = 22
"""Letters of a seal: 128 bits in base64url (RFC 4648, section 5) without padding."""


@dataclass(frozen=True)
class Keys:
    """The keys of a site. Neither `repr` nor a message shows them.

    Attributes:
        secrets: the first one seals; all open, so that a new one can be put in front while pages hold older seals.
    """

    secrets: tuple[bytes, ...] = field(repr=False)

    def __post_init__(self) -> None:
        """Declines to be empty: what nothing seals, everyone could write."""
        if not self.secrets or not all(self.secrets):
            raise ValueError

    def seal(self, text: str) -> str:
        """The seal of a text."""
        return _seal(self.secrets[0], text)

    def fits(self, text: str, seal: str) -> bool:
        """Whether a seal is that of a text by one of the keys; in the same time no matter where the two differ."""
        return fits(self.secrets, text, seal)


def fits(secrets: Sequence[bytes], text: str, seal: str) -> bool:
    """Whether a seal is that of a text, by one of some keys. All are tried, and each is compared in constant time."""
    said = seal.encode("utf-8", "surrogatepass")
    found = [hmac.compare_digest(_seal(secret, text).encode(), said) for secret in secrets]
    return any(found)


def _seal(secret: bytes, text: str) -> str:
    """HMAC-SHA-256 (RFC 2104), its first 128 bits, in base64url."""
    digest = hmac.digest(secret, text.encode("utf-8", "surrogatepass"), hashlib.sha256)
    return base64.urlsafe_b64encode(digest[:_BYTES]).decode().rstrip("=")
