"""The JSON Schema of sarvel.toml, by which editors complete and check it: JSON Schema, draft 2020-12."""

from __future__ import annotations

import json
from typing import Any

from sarvel.plan.schema import PlanFile

FILE_NAME = "sarvel.schema.json"
"""What `sarvel start` calls it, next to the plan; the plan's first line names it for editors."""

NAMED = f"#:schema {FILE_NAME}\n"
"""The line of a TOML file by which editors find its schema."""

_DIALECT = "https://json-schema.org/draft/2020-12/schema"
TITLE = "sarvel.toml"
"""The title of the schema, by which it is known."""


def schema_text() -> str:
    """The schema as the text of a file."""
    return (
        json.dumps(
            {"$schema": _DIALECT, **_cleaned(PlanFile.model_json_schema()), "title": TITLE},
            indent=2,
            ensure_ascii=False,
        )
        + "\n"
    )


def _cleaned(said: Any) -> Any:  # noqa: ANN401 - JSON
    """A schema without what TOML cannot say (null) and editors need not show (titles that repeat a key)."""
    if isinstance(said, list):
        return [_cleaned(one) for one in said if one != {"type": "null"}]
    if not isinstance(said, dict):
        return said
    kept: dict[str, Any] = {
        key: _properties(value) if key in ("properties", "$defs") else _cleaned(value)
        for key, value in said.items()
        if not (key == "title" or (key == "default" and (value is None or isinstance(value, dict))))
    }
    if len(choices := kept.get("anyOf", ())) == 1:  # the other was null
        kept = {**choices[0], **{key: value for key, value in kept.items() if key != "anyOf"}}
    if (
        "propertyNames" in kept and len(kept.get("patternProperties", ())) == 1
    ):  # its words serve people; the form, programs
        kept["additionalProperties"] = next(iter(kept.pop("patternProperties").values()))
    return kept


def _properties(said: Any) -> Any:  # noqa: ANN401 - as above
    """Schemas by name, among which `title` and `default` are names like others."""
    return {name: _cleaned(value) for name, value in said.items()} if isinstance(said, dict) else said
