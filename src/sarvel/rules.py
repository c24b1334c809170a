"""All rules of `sarvel check`, out of the table next to this file."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from importlib.resources import files

from sarvel.core.check.rule import Rule

RULES: Mapping[str, Rule] = {
    name: Rule(name, **entry)
    for name, entry in tomllib.loads(files("sarvel").joinpath("rules.toml").read_text(encoding="utf-8")).items()
}
"""All rules, by name, in the order in which they are documented."""
