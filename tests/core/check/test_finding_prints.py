"""Fingerprints of findings."""

from sarvel.core.check.finding_prints import fingerprints
from sarvel.core.check.rule import Finding


def test_a_fingerprint_stays_where_a_finding_moves_and_differs_where_it_differs() -> None:
    one, two = Finding("alt-missing", 0, 5, "says"), Finding("alt-missing", 6, 11, "says")
    found = fingerprints("a.html", "<img> <img>", [two, one])
    assert len(set(found)) == 2 and all(len(print_) == 16 for print_ in found)
    moved = [Finding("alt-missing", start + 3, end + 3, "other words") for start, end in ((6, 11), (0, 5))]
    assert fingerprints("a.html", "<p><img> <img>", moved) == found
    assert fingerprints("a.html", "<img> <img>", [one]) == found[1:]
    assert fingerprints("b.html", "<img>", [one]) != found[1:]
    assert fingerprints("a.html", "<img>", [Finding("size-not-said", 0, 5, "")]) != found[1:]
