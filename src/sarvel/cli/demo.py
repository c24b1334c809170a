"""`sarvel demo`: sets up the demo site in a new folder and does the whole job on it."""

from __future__ import annotations

import argparse
from pathlib import Path

from sarvel.cli.build import build
from sarvel.cli.speak import Speaker
from sarvel.demo import copy_site
from sarvel.plan.find import FILE_NAME
from sarvel.plan.read import read_plan


def run(options: argparse.Namespace) -> int:
    """Copies and builds; exit code 2 if the folder is not new."""
    folder = Path(options.folder)
    speaker = Speaker.of(options)
    copy_site(folder)
    speaker.result(f"The site of Brindle Rock is in {folder}: masters, pages and {FILE_NAME}.")
    options.only, options.force, options.prune, options.verify = None, False, False, False
    code = build(read_plan(folder / FILE_NAME), options)
    speaker.result(f"Open {folder}/public/index.html in a browser, and {folder}/pages/index.html for the page before.")
    return code
