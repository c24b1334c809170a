"""What `--json` prints, held against the schema of the docs wherever a test has the program print it."""

import argparse
import functools
import json
from collections.abc import Iterator, Sequence
from pathlib import Path

import jsonschema

from sarvel.cli.options import parse

SCHEMA = json.loads((Path(__file__).parents[1] / "docs" / "documents.schema.json").read_text())
OPTIONS = (
    "check",
    "dry_run",
    "as_plan",
    "schema",
    "mend",
    "explain",
    "against",
    "new_key",
)  # that ask for another document


def name_of(options: argparse.Namespace) -> str:
    """The name of the document that a call prints."""
    if options.command == "build" and options.dry_run:
        return "build --check"
    if options.mend if options.command == "check" else False:
        return "check --mend"
    if options.command == "weave" and options.dry_run:
        return "weave"
    if options.command == "demo":
        return "build"
    said = [f"--{name.replace('_', '-')}" for name in OPTIONS if getattr(options, name, None)]
    return " ".join([options.command, *said])


@functools.cache
def checker(name: str) -> jsonschema.Draft202012Validator:
    """What checks one kind of document; KeyError if the schema has none such."""
    return jsonschema.Draft202012Validator({"$defs": SCHEMA["$defs"], **SCHEMA["$defs"][name]})


def assert_documented(arguments: Sequence[str], text: str) -> None:
    """Fails if a document is another than the schema says."""
    name = name_of(parse(arguments))
    for error in checker(name).iter_errors(json.loads(text)):
        raise AssertionError(f"{name}: {error.json_path}: {error.message[:300]}")


def keys(schema: object) -> Iterator[str]:
    """All names of keys that a schema knows."""
    if isinstance(schema, dict):
        yield from schema.get("properties", {})
        for part in schema.values():
            yield from keys(part)
    elif isinstance(schema, list):
        for part in schema:
            yield from keys(part)
