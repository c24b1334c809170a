"""Seals: the standard's own example, and nothing that shows a key."""

import base64

import pytest

from sarvel.core.address.seal import LETTERS, Keys

# RFC 4231, section 4.7 "Test Case 6": a key longer than a block, and the first 128 bits of what comes of it.
KEY, TEXT = b"\xaa" * 131, "Test Using Larger Than Block-Size Key - Hash Key First"
SEAL = base64.urlsafe_b64encode(bytes.fromhex("60e431591ee0b67f0d8a26aacbf5b77f")).decode().rstrip("=")


def test_the_seal_of_the_standards_example() -> None:
    keys = Keys((KEY,))
    assert keys.seal(TEXT) == SEAL and len(SEAL) == LETTERS and keys.fits(TEXT, SEAL)


@pytest.mark.parametrize("seal", ["", SEAL[:-1], SEAL + "A", SEAL.swapcase(), SEAL[:-1] + "é", "\udcff" * 22])
def test_others_do_not_fit(seal: str) -> None:
    assert not Keys((KEY,)).fits(TEXT, seal)
    assert not Keys((KEY,)).fits(TEXT + "x", SEAL)


def test_older_keys_open_and_the_first_seals() -> None:
    old, new = Keys((KEY,)), Keys((b"new", KEY))
    assert new.seal(TEXT) != SEAL and new.fits(TEXT, SEAL) and new.fits(TEXT, new.seal(TEXT))
    assert not old.fits(TEXT, new.seal(TEXT))


def test_keys_are_not_shown_and_not_empty() -> None:
    assert "secret" not in repr(Keys((b"secret",))) + str(Keys((b"secret",)))
    for secrets in ((), (b"",), (b"a", b"")):
        with pytest.raises(ValueError):
            Keys(secrets)
