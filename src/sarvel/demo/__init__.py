"""The demo site: Brindle Rock, a lighthouse whose keepers' cottage is let to walkers. All of it is made up.

`site/` is what a user gets; scripts/drawings/ is the code that drew its masters.
"""

from __future__ import annotations

import shutil
from pathlib import Path

from sarvel.errors import OutputError

SITE = Path(__file__).parent / "site"


def copy_site(folder: Path) -> None:
    """Copies the demo site into a new folder.

    Raises:
        OutputError: the folder holds something already, or cannot be written.
    """
    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise OutputError.at(folder, "is there already and not empty", "name a new folder: sarvel demo FOLDER")
    try:
        shutil.copytree(SITE, folder, dirs_exist_ok=True)
    except OSError as error:
        raise OutputError.at(folder, f"cannot be written ({error.strerror or error})", "name another folder") from error
