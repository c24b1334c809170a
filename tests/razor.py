"""Razor's own parser, by Mono: the pieces that it reads a template as."""

import itertools
import json
import shutil
import subprocess
from collections.abc import Sequence
from pathlib import Path

import pytest

SOURCE = Path(__file__).parent / "engines" / "razor.cs"


def by_razor(texts: Sequence[str], folder: Path) -> list[list[tuple[str, str]]]:
    """For each text its pieces, kind and text; those of one kind that follow each other are one. Errors are a kind of their own."""
    if not shutil.which("mcs") or not list(Path("/usr/lib/mono").glob("*/System.Web.Razor.dll")):
        pytest.skip("no Razor; scripts/test installs it")
    program = folder / "razor.exe"
    subprocess.run(["mcs", "-r:System.Web.Razor.dll", f"-out:{program}", str(SOURCE)], check=True)
    told = "".join(f"{len(text)}\n{text}" for text in texts)
    done = subprocess.run(["mono", str(program)], input=told, capture_output=True, text=True, check=True)
    parsed = [json.loads(line) for line in done.stdout.splitlines()]
    return [
        [(kind, "".join(text for _, text in pieces)) for kind, pieces in itertools.groupby(one, lambda piece: piece[0])]
        for one in parsed
    ]
