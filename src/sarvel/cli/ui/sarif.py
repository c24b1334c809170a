"""Findings as SARIF 2.1.0 (OASIS, 2020), which code-scanning services read."""

from __future__ import annotations

import urllib.parse
from collections.abc import Sequence
from dataclasses import dataclass

from sarvel.core.check.rule import Finding
from sarvel.core.check.rules import RULES
from sarvel.version import __version__

_SCHEMA = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json"
_LEVELS = {"broken": "error", "wasteful": "warning", "hint": "note"}  # section 3.27.10


@dataclass(frozen=True)
class Located:
    """A finding and where it is.

    Attributes:
        file: the page, with forward slashes.
        start: line and column, both from 1.
        fingerprint: the same for the same fault, no matter where it moves.
    """

    finding: Finding
    file: str
    start: tuple[int, int]
    end: tuple[int, int]
    fingerprint: str = ""


def as_sarif(found: Sequence[Located]) -> dict[str, object]:
    """The log of one run."""
    used = sorted({one.finding.rule for one in found})
    driver = {"name": "sarvel", "version": __version__, "rules": [_rule(name) for name in used]}
    run = {
        "tool": {"driver": driver},
        "columnKind": "unicodeCodePoints",
        "results": [_result(one, used.index(one.finding.rule)) for one in found],
    }
    return {"$schema": _SCHEMA, "version": "2.1.0", "runs": [run]}


def _rule(name: str) -> dict[str, object]:
    rule = RULES[name]
    return {
        "id": name,
        "shortDescription": {"text": name.replace("-", " ")},
        "fullDescription": {"text": rule.why},
        "help": {"text": rule.mend},
        "defaultConfiguration": {"level": _LEVELS[rule.severity]},
    }


def _result(one: Located, index: int) -> dict[str, object]:
    region = {
        "startLine": one.start[0],
        "startColumn": one.start[1],
        "endLine": one.end[0],
        "endColumn": one.end[1],
    }
    file = {"uri": urllib.parse.quote(one.file, errors="surrogateescape")}
    place = {"physicalLocation": {"artifactLocation": file, "region": region}}
    rule = RULES[one.finding.rule]
    return {
        "ruleId": one.finding.rule,
        "ruleIndex": index,
        "level": _LEVELS[rule.severity],
        "message": {"text": one.finding.told(rule.mend)},
        "locations": [place],
        "partialFingerprints": {"sarvel/v1": one.fingerprint},
        **({"fixes": [_fix(one.finding, file)]} if one.finding.edits else {}),
    }


def _fix(finding: Finding, file: dict[str, str]) -> dict[str, object]:
    """What mends a finding (SARIF 2.1.0, section 3.55)."""
    replacements = [
        {
            "deletedRegion": {"charOffset": edit.start, "charLength": edit.end - edit.start},
            "insertedContent": {"text": edit.text},
        }
        for edit in finding.edits
    ]
    changes = [{"artifactLocation": file, "replacements": replacements}]
    return {"description": {"text": finding.cure or RULES[finding.rule].mend}, "artifactChanges": changes}
