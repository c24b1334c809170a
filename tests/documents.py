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
    "frozen",
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
    if options.command == "demo":
        return "build"
    if options.command == "proof" and (options.suggest or options.save or options.choose):
        return "proof --suggest"
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
