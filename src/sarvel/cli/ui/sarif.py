"""Findings as SARIF 2.1.0 (OASIS, 2020), which code-scanning services read."""

from __future__ import annotations

import urllib.parse
from collections.abc import Sequence

from sarvel.pipeline.checker import FindingNotice
from sarvel.rules import RULES
from sarvel.version import __version__

_SCHEMA = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json"
_LEVELS = {"broken": "error", "wasteful": "warning", "hint": "note"}  # section 3.27.10


def as_sarif(found: Sequence[FindingNotice]) -> dict[str, object]:
    """The log of one run."""
    used = sorted({one.rule.name for one in found})
    driver = {"name": "sarvel", "version": __version__, "rules": [_rule(name) for name in used]}
    run = {
        "tool": {"driver": driver},
        "columnKind": "unicodeCodePoints",
        "results": [_result(one, used.index(one.rule.name)) for one in found],
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


def _result(one: FindingNotice, index: int) -> dict[str, object]:
    region = {
        "startLine": one.start[0],
        "startColumn": one.start[1],
        "endLine": one.end[0],
        "endColumn": one.end[1],
    }
    file = {"uri": urllib.parse.quote(one.file, errors="surrogateescape")}
    place = {"physicalLocation": {"artifactLocation": file, "region": region}}
    return {
        "ruleId": one.rule.name,
        "ruleIndex": index,
        "level": _LEVELS[one.rule.severity],
        "message": {"text": one.words},
        "locations": [place],
        "partialFingerprints": {"sarvel/v1": one.fingerprint},
        **({"fixes": [_fix(one, file)]} if one.edits else {}),
    }


def _fix(finding: FindingNotice, file: dict[str, str]) -> dict[str, object]:
    """What mends a finding (SARIF 2.1.0, section 3.55)."""
    replacements = [
        {
            "deletedRegion": {"charOffset": edit.start, "charLength": edit.end - edit.start},
            "insertedContent": {"text": edit.text},
        }
        for edit in finding.edits
    ]
    changes = [{"artifactLocation": file, "replacements": replacements}]
    return {"description": {"text": finding.cure}, "artifactChanges": changes}
