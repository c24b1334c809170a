"""Keys: where they are looked for, what is declined, and that no message shows one."""

import os
from pathlib import Path

import pytest

from sarvel.errors import PlanError
from sarvel.plan.delivery import address_of
from sarvel.plan.read import Plan, plan_from
from sarvel.plan.seal_keys import key_file, keys_of
from sarvel.tools.new_key import with_new_key

ONE, TWO = "a" * 32, "B-_" * 20


@pytest.fixture
def plan(tmp_path: Path) -> Plan:
    return plan_from({"slots": {"card": {"sizes": "100px"}}}, tmp_path / "sarvel.toml", {})


def write(file: Path, text: str, mode: int = 0o600) -> None:
    file.write_text(text)
    file.chmod(mode)


@pytest.mark.parametrize("said", [f"{ONE},{TWO}", f"{ONE} {TWO}", f" {ONE}\n{TWO}\n"])
def test_keys_of_the_environment(plan: Plan, said: str) -> None:
    assert keys_of(plan, {"SARVEL_KEY": said}).secrets == (ONE.encode(), TWO.encode())


def test_keys_of_a_file(plan: Plan, tmp_path: Path) -> None:
    write(tmp_path / "sarvel.key", f"# made in May\n{ONE}\n\n {TWO} \n")
    assert keys_of(plan, {}).secrets == (ONE.encode(), TWO.encode())
    write(tmp_path / "other", TWO)
    assert keys_of(plan, {"SARVEL_KEY_FILE": str(tmp_path / "other")}).secrets == (TWO.encode(),)


@pytest.mark.parametrize(
    ("text", "mode", "words"),
    [
        ("# none\n", 0o600, "holds no key; a key is 32 to 200 letters"),
        (f"{ONE}\nshort-secret\n", 0o600, "key 2 has not the form of one"),
        ("é" * 40, 0o600, "holds letters that no key has"),
        (ONE, 0o640, "others than its owner may read or write it; run chmod 600"),
        (ONE, 0o602, "others than its owner may read or write it"),
    ],
)
def test_what_is_declined(plan: Plan, tmp_path: Path, text: str, mode: int, words: str) -> None:
    write(tmp_path / "sarvel.key", text, mode)
    with pytest.raises(PlanError, match=words) as told:
        keys_of(plan, {})
    assert "secret" not in str(told.value) and ONE not in str(told.value)


def test_no_key_at_all(plan: Plan) -> None:
    with pytest.raises(PlanError, match=r"there is no key; make .*sarvel.key with sarvel deliver --new-key, or put"):
        keys_of(plan, {})


def test_new_keys_go_in_front(plan: Plan) -> None:
    file = key_file(plan, {})
    mask = os.umask(0o022)
    try:
        assert with_new_key(file) == 1 and file.stat().st_mode & 0o777 == 0o600
        [first] = keys_of(plan, {}).secrets
        assert with_new_key(file) == 2 and file.stat().st_mode & 0o777 == 0o600
        assert os.umask(0o022) == 0o022
    finally:
        os.umask(mask)
    both = keys_of(plan, {})
    assert both.secrets[1] == first and both.secrets[0] != first and len(both.secrets[0]) >= 43
    file.chmod(0o644)
    with pytest.raises(PlanError, match="chmod 600"):
        with_new_key(file)


@pytest.mark.parametrize(
    ("said", "address"),
    [
        (None, None),
        ("/my pictures/", "/my%20pictures"),
        ("/a,b", "/a%2Cb"),
        ("/{left},{top}/{master} x/", "/{left},{top}/{master}%20x/"),  # a pattern keeps its fields, commas and end
    ],
)
def test_addresses_as_srcset_can_hold_them(said: str | None, address: str | None) -> None:
    assert address_of(said) == address
