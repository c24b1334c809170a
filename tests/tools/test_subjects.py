"""What a proof says of masters, and which come first."""

from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from sarvel.core.crop.place import WHOLE, Box
from sarvel.core.facts import FoundSubject
from sarvel.errors import PlanError
from sarvel.pipeline.listener import Nobody
from sarvel.pipeline.site import ledger_of, read_site
from sarvel.plan.read import read_plan
from sarvel.tools.subjects.gather import chosen, found_in, proofs_of, proofs_of_sources, sure_enough
from sarvel.tools.subjects.page import as_page, is_to_decide, master_as_json, picture_of

SOME = Box(0.2, 0.1, 0.6, 0.5)


@pytest.mark.parametrize(
    ("found", "least", "enough"),
    [
        (FoundSubject(SOME, 0.85), 0.8, True),
        (FoundSubject(SOME, 0.75), 0.8, False),
        (FoundSubject(SOME, 0.75), 0.7, True),
        (FoundSubject(SOME, 0.3), 0.0, True),
        (FoundSubject(WHOLE, 0.95), 0.0, False),
    ],
)
def test_sure_enough(found: FoundSubject, least: float, enough: bool) -> None:
    assert sure_enough(found, least) == enough


def test_what_is_said_of_masters(site: Path) -> None:
    plan = read_plan(site / "sarvel.toml")
    with ledger_of(plan, pytest.fail) as ledger:
        composed = read_site(plan, ledger)
        found, faults = found_in(composed, ledger, Nobody())
    assert found.keys() == {"seal.png"} and not faults  # the plan names the subject of the other
    said = {proof.master.key: (proof.about, proof.trouble) for proof in proofs_of(composed, found)}
    assert said["gull.jpg"] == ("", "")
    assert said["seal.png"] == ("no subject, so centred", "")  # its one crop leaves nothing out
    unsure = {"gull.jpg": FoundSubject(SOME, 0.62, (WHOLE,))}
    (first, _) = proofs_of(composed, unsure)
    assert first.master.key == "gull.jpg" and first.trouble == "choose a subject" and first.guesses == (SOME, WHOLE)
    (sure, _) = proofs_of(composed, {"gull.jpg": FoundSubject(SOME, 0.9, (WHOLE,))})
    assert not sure.unsure and not sure.guesses


def test_a_master_that_cannot_be_decoded_is_said_and_the_others_are_looked_at(site: Path) -> None:
    plan = read_plan(site / "sarvel.toml")
    with ledger_of(plan, pytest.fail) as ledger:
        composed = read_site(plan, ledger)
        Image.fromarray(np.zeros((9, 9, 3), np.uint8)).save(site / "masters" / "seal.png")
        (site / "masters" / "seal.png").write_bytes((site / "masters" / "seal.png").read_bytes()[:40])
        found, faults = found_in(composed, ledger, Nobody())
    assert not found and len(faults) == 1 and faults[0].place == "seal.png"
    proofs = {proof.master.key: proof for proof in proofs_of_sources(composed, found)}
    with pytest.raises(PlanError, match=r"there are no guesses of seal\.png"):
        chosen("seal.png=1", plan, proofs)


def test_the_page_holds_masters_that_have_something_to_decide(site: Path) -> None:
    plan = read_plan(site / "sarvel.toml")
    with ledger_of(plan, pytest.fail) as ledger:
        composed = read_site(plan, ledger)
        found, _ = found_in(composed, ledger, Nobody())
    assert not any(
        map(is_to_decide, proofs_of_sources(composed, found))
    )  # the plan names one, the other is not cropped
    (proof, _) = proofs_of(composed, {"gull.jpg": FoundSubject(SOME, 0.62, (WHOLE,))})
    told = master_as_json(proof, "data:,", plan)
    assert told["guesses"] == [(0.2, 0.1, 0.6, 0.5), (0, 0, 1, 1)] and told["listed"]
    page = as_page([{**told, "key": "</script><b>.jpg"}], 1, plan).decode()
    assert page.count("</script>") == 1 and "1 more need no choice here" in page


@pytest.mark.parametrize(("size", "wanted"), [((2000, 1000), (960, 480)), ((30, 90), (30, 90)), ((9, 3000), (3, 960))])
def test_pictures_of_the_page_are_small(size: tuple[int, int], wanted: tuple[int, int]) -> None:
    assert picture_of(np.zeros((size[1], size[0], 3), np.uint8)).shape == (wanted[1], wanted[0], 3)
