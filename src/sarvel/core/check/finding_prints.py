"""Fingerprints of findings: the same for the same fault, no matter where in its page it moves."""

from __future__ import annotations

import hashlib
from collections import Counter
from collections.abc import Sequence

from sarvel.core.check.rule import Finding


def fingerprints(file: str, text: str, findings: Sequence[Finding]) -> list[str]:
    """A fingerprint of each finding, 16 hexadecimal digits: of its rule, its page and the markup at fault.

    Args:
        file: what the page is called.
        findings: in it; of equal ones, the first keeps its fingerprint if another is added after it.
    """
    counts: Counter[tuple[str, str]] = Counter()
    found = [""] * len(findings)
    for at in sorted(range(len(findings)), key=lambda i: findings[i].start):
        one = findings[at]
        alike = one.rule, " ".join(text[one.start : one.end].split())
        said = "\0".join((file, *alike, str(counts[alike])))
        counts[alike] += 1
        found[at] = hashlib.blake2b(said.encode(errors="surrogatepass"), digest_size=8).hexdigest()
    return found
