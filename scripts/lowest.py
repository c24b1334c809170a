"""Prints the lowest versions that a wheel's metadata allows, as constraints for pip: python scripts/lowest.py FILE.whl."""

import re
import sys
import zipfile
from collections.abc import Iterator
from email.parser import Parser

_LOWEST = re.compile(r"(?P<name>[\w.-]+)(?:\[[\w,]+\])?\s*(?:[^;]*?)>=(?P<version>[\w.]+)")


def lowest(wheel: str) -> Iterator[str]:
    """Constraints for all that a wheel needs, by any extra but those for working on it."""
    with zipfile.ZipFile(wheel) as archive:
        name = next(one for one in archive.namelist() if one.endswith(".dist-info/METADATA"))
        metadata = Parser().parsestr(archive.read(name).decode())
    for needed in metadata.get_all("Requires-Dist", []):
        found = _LOWEST.match(needed)
        if found and "extra == 'dev'" not in needed and "extra == 'test'" not in needed:
            yield f"{found['name']}=={found['version']}"


if __name__ == "__main__":
    sys.stdout.write("\n".join(dict.fromkeys(lowest(sys.argv[1]))) + "\n")
