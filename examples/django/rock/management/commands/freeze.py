"""Writes the site into a folder, to be looked at before and after weaving: python manage.py freeze FOLDER."""

from argparse import ArgumentParser
from pathlib import Path

from django.contrib.staticfiles.finders import get_finders
from django.core.management.base import BaseCommand
from django.test import Client

PAGES = ("", "log/")


class Command(BaseCommand):
    """The command."""

    help = "Write all pages and static files into a folder, for sarvel confirm --built."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Takes the folder."""
        parser.add_argument("folder", type=Path)

    def handle(self, *, folder: Path, **_: object) -> None:
        """Writes."""
        for page in PAGES:
            file = folder / page / "index.html"
            file.parent.mkdir(parents=True, exist_ok=True)
            file.write_bytes(Client().get(f"/{page}", headers={"host": "localhost"}).content)
        for finder in get_finders():
            for name, storage in finder.list([]):
                file = folder / "static" / (getattr(storage, "prefix", None) or "") / name
                file.parent.mkdir(parents=True, exist_ok=True)
                file.write_bytes(storage.open(name).read())
