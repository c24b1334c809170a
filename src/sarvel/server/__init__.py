"""The site served to browsers, with what each of them fetches; and pictures made when they are first asked for.

`app` is an ASGI application that takes its settings from the environment: docs/serve.md.
"""

from __future__ import annotations

TYPE_CHECKING = False
if TYPE_CHECKING:
    from sarvel.server.pictures import Pictures

    app: Pictures


def __getattr__(name: str) -> object:
    if name != "app":
        raise AttributeError(f"module 'sarvel.server' has no attribute '{name}'")
    import os

    from sarvel.server.pictures import Pictures
    from sarvel.server.settings import from_environment

    made = Pictures(lambda: from_environment(os.environ))
    globals()["app"] = made
    return made
