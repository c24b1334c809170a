"""`sarvel demo`: sets up the demo site in a new folder and does the whole job on it."""

from __future__ import annotations

import argparse
from pathlib import Path

from sarvel.cli.commands.build import build_and_tell
from sarvel.cli.ui.console import Console
from sarvel.demo import copy_site
from sarvel.pipeline.render import RenderOptions
from sarvel.plan.find import FILE_NAME
from sarvel.plan.read import read_plan


def run(options: argparse.Namespace) -> int:
    """Copies and builds; exit code 2 if the folder is not new."""
    folder = Path(options.folder)
    console = Console.of(options)
    copy_site(folder)
    console.result(f"The site of Brindle Rock is in {folder}: masters, pages and {FILE_NAME}.")
    code = build_and_tell(read_plan(folder / FILE_NAME), RenderOptions(workers=options.workers), console)
    console.result(f"Open {folder}/public/index.html in a browser, and {folder}/pages/index.html for the page before.")
    return code
