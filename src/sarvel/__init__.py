"""Sarvel: from a site's master images to the right file on every device.

Importing this package loads nothing heavy; the commands and the names below import their modules on first use.
"""

from sarvel.version import __version__

TYPE_CHECKING = False  # what type checkers take for true; to import it would take a tenth of the time of --help
if TYPE_CHECKING:
    from sarvel.core.css.device import Device
    from sarvel.core.html.source_selection import pick_source
    from sarvel.errors import SarvelError
    from sarvel.loaded_plan import LoadedPlan, load

__all__ = ["Device", "LoadedPlan", "SarvelError", "__version__", "load", "pick_source"]


_PLACES = {
    "Device": "sarvel.core.css.device",
    "LoadedPlan": "sarvel.loaded_plan",
    "SarvelError": "sarvel.errors",
    "load": "sarvel.loaded_plan",
    "pick_source": "sarvel.core.html.source_selection",
}


def __getattr__(name: str) -> object:
    if name not in _PLACES:
        raise AttributeError(f"module 'sarvel' has no attribute '{name}'")
    from importlib import import_module

    return getattr(import_module(_PLACES[name]), name)
