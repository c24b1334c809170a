"""Sarvel: from a site's master images to the right file on every device.

Importing this package loads nothing heavy; the commands, and the names below, load what they use.
"""

TYPE_CHECKING = False  # what type checkers take for true; to import it would take a tenth of the time of --help
if TYPE_CHECKING:
    from sarvel.core.css.device import Device
    from sarvel.core.html.source_selection import pick_source

__version__ = "0.1.0"

__all__ = ["Device", "__version__", "pick_source"]


def __getattr__(name: str) -> object:
    if name == "Device":
        from sarvel.core.css.device import Device

        return Device
    if name == "pick_source":
        from sarvel.core.html.source_selection import pick_source

        return pick_source
    raise AttributeError(f"module 'sarvel' has no attribute '{name}'")
