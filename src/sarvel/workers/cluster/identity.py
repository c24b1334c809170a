"""The identity of an installation: the versions that the bytes of files depend on."""

from __future__ import annotations

import PIL

from sarvel.core.edition.fingerprint import FORM, RECIPE
from sarvel.encode.codecs import CODECS
from sarvel.version import __version__
from sarvel.workers.cluster.task import Identity


def identity() -> Identity:
    """The identity of this installation."""
    codecs = [(name, codec.version()) for name, codec in sorted(CODECS.items())]
    return (("sarvel", __version__), ("recipe", f"{FORM}.{RECIPE}"), ("pillow", PIL.__version__), *codecs)


def difference(theirs: Identity, ours: Identity) -> str:
    """What differs, in words; "" if nothing does."""
    mine, other = dict(ours), dict(theirs)
    names = [name for name in dict.fromkeys([*mine, *other]) if mine.get(name) != other.get(name)]
    return ", ".join(f"{name} {other.get(name, 'missing')} where we have {mine.get(name, 'none')}" for name in names)
