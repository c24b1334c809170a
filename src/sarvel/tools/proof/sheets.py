"""Sheets of proofs: pages of PNG with an index, or one PNG for each master."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Protocol

from PIL import Image

from sarvel.core.facts import MasterFacts
from sarvel.core.pixels.resample import Pixels
from sarvel.files.reports import png_file, write_for_people
from sarvel.tools.proof.contact_sheet import Shot, as_png, draw_panels
from sarvel.tools.proof.notes import ProofNotes
from sarvel.tools.proof.sheet_index import IndexEntry, draw_index, small_of
from sarvel.tools.subjects.page import picture_of

_LARGER = 560  # px of the longer side of a picture that the index is drawn from

A_PAGE = 6
"""So many masters are on one page."""


class Sheets(Protocol):
    """What proofs are drawn on."""

    def add(self, master: MasterFacts, pixels: Pixels, shots: Sequence[Shot], told: ProofNotes) -> None:
        """Draws a master.

        Args:
            pixels: its pixels, upright.
        """

    def written(self) -> list[Path]:
        """Writes the remaining sheets; returns all files written, the index first if there are several."""


class Pages:
    """Six masters a page; of more than six several pages, numbered, and an index in the place of one."""

    def __init__(self, output: Path) -> None:
        """Begins.

        Args:
            output: the file to write: the page, or the index.
        """
        self._output = output
        self._panels: list[Image.Image] = []
        self._entries: list[IndexEntry] = []
        self._files: list[Path] = []

    def add(self, master: MasterFacts, pixels: Pixels, shots: Sequence[Shot], told: ProofNotes) -> None:
        """Draws a master."""
        if self._entries and len(self._entries) % A_PAGE == 0:
            self._write_page()
        self._panels += draw_panels(master, pixels, shots, told.about, told.guesses)
        small = small_of(Image.fromarray(picture_of(pixels, _LARGER)))
        page = len(self._entries) // A_PAGE + 1
        self._entries.append(IndexEntry(master.key, small, page, told.trouble, told.loses))

    def written(self) -> list[Path]:
        """Writes the last page, and the index if there are several."""
        if not self._entries:
            return []
        if len(self._entries) <= A_PAGE:
            write_for_people(self._output, as_png(self._panels))
            return [self._output]
        self._write_page()
        write_for_people(self._output, png_file(draw_index(self._entries)))
        return [self._output, *self._files]

    def _write_page(self) -> None:
        self._files.append(self._output.with_name(f"{self._output.stem}-{len(self._files) + 1}{self._output.suffix}"))
        write_for_people(self._files[-1], as_png(self._panels))
        self._panels = []


class OneEach:
    """A sheet for each master, named after it."""

    def __init__(self, output: Path) -> None:
        """Begins."""
        self._output = output
        self._files: list[Path] = []

    def add(self, master: MasterFacts, pixels: Pixels, shots: Sequence[Shot], told: ProofNotes) -> None:
        """Draws and writes a master."""
        stem = Path(master.key).stem
        self._files.append(self._output.with_name(f"{self._output.stem}-{stem}{self._output.suffix}"))
        write_for_people(self._files[-1], as_png(draw_panels(master, pixels, shots, told.about, told.guesses)))

    def written(self) -> list[Path]:
        """All is written already."""
        return self._files
