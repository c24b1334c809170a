"""Files in memory: those used last, within a limit."""

from dataclasses import replace

from sarvel.core.edition.encoding import Encoding
from sarvel.core.edition.rendition import Rendition
from sarvel.server.answers import entry_of
from sarvel.server.memory import Memory

FILE = Rendition("a.webp", "webp", "image/webp", 10, 10, Encoding(), "f")


def test_those_used_last_stay() -> None:
    memory = Memory(1000)
    files = [replace(FILE, fingerprint=str(number)) for number in range(12)]
    for one in files[:10]:
        memory.keep(one, entry_of(b"x" * 100, "image/webp", is_final=True))
    assert all(memory.get(one.fingerprint) for one in files[:10]) and memory.get("0")
    memory.get("0")
    memory.keep(files[10], entry_of(b"x" * 100, "image/webp", is_final=False))
    assert memory.get("1") is None and memory.get("0") and memory.get("10")
    assert "10" not in {one.fingerprint for one in memory.final()} and len(list(memory.final())) == 9
    memory.keep(files[10], entry_of(b"x" * 50, "image/webp", is_final=True))  # in its own place
    assert (
        len(list(memory.final())) == 10 and len((memory.get("10") or entry_of(b"", "", is_final=False)).content) == 50
    )
    memory.keep(files[11], entry_of(b"x" * 500, "image/webp", is_final=True))  # too large a share of all
    assert memory.get("11") is None and memory.get("10")
