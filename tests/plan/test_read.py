"""Every fault of a plan: its line, its key, what was got, what to write."""

from pathlib import Path

import pytest

from sarvel.errors import PlanError
from sarvel.plan.find import find_plan
from sarvel.plan.key_lines import lines_of_keys
from sarvel.plan.read import read_plan

GOOD = '[breakpoints]\nphone = 0\ndesktop = 1024\n[slots.card]\nsizes = { phone = "100vw", desktop = "384px" }\ncrops = "4:3"\n'


def faults_of(folder: Path, text: str) -> list[str]:
    file = folder / "sarvel.toml"
    file.write_text(text, encoding="utf-8")
    with pytest.raises(PlanError) as caught:
        read_plan(file)
    assert caught.value.exit_code == 2
    return [line.removeprefix(f"{file}") for line in str(caught.value).splitlines()]


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("[slots.a]\nsizse = '1px'\n", [":1: slots.a.sizes: is missing; write a CSS length", ":2: slots.a.sizse: unknown key; did you mean 'sizes'?"]),
        (GOOD + 'lean = [0, 0]\nload = "first"\n', [":7: slots.card.lean: unknown key; it is called subject_at now", ':8: slots.card.load: unknown key; it is called loading = "eager" or "lazy" now']),
        (GOOD + '[[slots.b.crops]]\nratio = "1:1"\nbackground = "#ffffff"\n', [":7: slots.b.sizes: is missing", ":9: slots.b.crops.0.background: unknown key; it is called matte now"]),
        (GOOD + 'background = true\n', [':7: slots.card.background: unknown key; it is called use = "background" now']),
        (GOOD + 'links = "large"\n', [":7: slots.card.links: 'large' is neither a width nor a slot for links; write a width such as"]),
        (GOOD + 'links = "2 px"\n', [":7: slots.card.links: '2 px' is more than one length"]),
        (GOOD + 'use = "share"\n', [":7: slots.card.use: is for sharing, which needs the address that the site is published at; write url ="]),
        (GOOD + 'use = "link"\nformats = ["webp", "jpeg"]\n', [":8: slots.card.formats: has 2, and a place of this use names one file; write one"]),
        (GOOD + '[slots.b]\nuse = "single"\n', [":7: slots.b.sizes: is missing"]),
        (GOOD + '[site]\nurl = "site.example"\n', [':8: site.url: got "site.example"; write the address that the site is published at']),
        (GOOD + '[site]\ndelivery = "later"\n', [':8: site.delivery: got "later"; write "files" (all are made beforehand) or "request"']),
        (GOOD + '[site]\nformats_by = "accept"\n', [':8: site.formats_by: "accept" needs a server that chooses, and files are in a folder']),
        (GOOD + '[site]\naddress = "/{master}"\n', [":8: site.address: lacks {width}: files that differ in it would have one address"]),
        (GOOD + '[site]\naddress = "/{master}/{width}/{digest}"\ndelivery = "request"\n', [':9: site.delivery: "request" makes files here, and the pattern']),
        (GOOD + '[site]\naddress = "/{master}/{width}/{digest}.{ext}"\nformats_by = "accept"\n', [':9: site.formats_by: "accept" gives all formats one address']),
        (GOOD + 'mirror = true\n[site]\naddress = "/{master}/{width}/{digest}"\n', [":4: slots.card: mirror cannot be asked of a service elsewhere, which crops and scales"]),
        (GOOD + "[sites]\n", [":7: sites: unknown key; did you mean 'site'?"]),
        (GOOD + "[defaults]\nzzz = 1\n", [":8: defaults.zzz: unknown key; known here: formats, effort, quality"]),
        (GOOD + '[defaults]\nformats = ["avif", "bmp"]\n', [':8: defaults.formats.1: got "bmp"; write a list of formats']),
        (GOOD + "[defaults]\nwidths = 0\n", [":8: defaults.widths: got 0; write a number of widths at most, from 1 to 20"]),
        (GOOD + "[defaults]\nquality = 100\n", [":8: defaults.quality: got 100; write"]),
        (GOOD + "[defaults]\nquality = { gif = 50 }\n", [':8: defaults.quality: got { gif = 50 }; write "light", "standard", "fine", a likeness from 80 to 99, or encoder numbers']),
        (GOOD + '[slots.b]\nsizes = "1px"\nquality = { avif = 101 }\n', [":9: slots.b.quality: got { avif = 101 }"]),
        (GOOD + '[slots.b]\nsizes = "1px"\nplaceholder = "blur"\n', [':9: slots.b.placeholder: got "blur"; write "none", "tint", "soft", "outline", or a color']),
        (GOOD + '[slots.b]\nsizes = "1px"\nmetadata = ["gps"]\n', [":9: slots.b.metadata.0: got \"gps\"; write a list of what to keep"]),
        (GOOD + "[defaults]\nwidths = true\n", [":8: defaults.widths: got true; write a number of widths"]),
        (GOOD + '[defaults]\nquality = "best"\n', [':8: defaults.quality: got "best"; write "light", "standard", "fine", a likeness from 80 to 99']),
        (GOOD + "[defaults]\nwidest = 20000\n", [":8: defaults.widest: got 20000; write a number of pixels from 1 to 16383"]),
        (GOOD + "[defaults]\ndensities = []\n", [":8: defaults.densities: got []; write a list of pixel densities"]),
        (GOOD + '[slots.b]\nsizes = "384"\n', [":8: slots.b.sizes: '384' has no unit; write \"384px\""]),
        (GOOD + '[slots.b]\nsizes = "calc(100vw - 10%)"\n', [":8: slots.b.sizes: '10%' depends on a container that is unknown when the file is chosen; write it of the viewport, in vw (letter 14 of 'calc(100vw - 10%)')"]),
        (GOOD + '[slots.b]\nsizes = "50%"\n', [":8: slots.b.sizes: '50%' depends on a container"]),
        (GOOD + '[slots.b]\nsizes = { dekstop = "1px", phone = "1px" }\n', [":8: slots.b.sizes.dekstop: 'dekstop' is no breakpoint; did you mean 'desktop'?"]),
        (GOOD + '[slots.b]\nsizes = { desktop = "1px" }\n', [":8: slots.b.sizes: sets nothing for viewports narrower"]),
        (GOOD + "[slots.b]\nsizes = 5\n", [":8: slots.b.sizes: got 5; write a CSS length such as"]),
        (GOOD + '[slots.b]\nsizes = "1px"\ncrops = "4/3"\n', [":9: slots.b.crops: '4/3' is no ratio between 1:20 and 20:1"]),
        (GOOD + '[slots.b]\nsizes = "1px"\ncrops = "0:3"\n', [":9: slots.b.crops: '0:3' is no ratio"]),
        (GOOD + '[slots.b]\nsizes = "1px"\ncrops = "169:1"\n', [":9: slots.b.crops: '169:1' is no ratio"]),
        (GOOD + '[slots.b]\nsizes = "1px"\nloading = "later"\n', [':9: slots.b.loading: got "later"; write "eager" (seen at once) or "lazy"']),
        (GOOD + '[slots.b]\nsizes = "1px"\nwidths = [0]\n', [":9: slots.b.widths: got [0]; write a number of widths"]),
        (GOOD + '[slots.b]\nsizes = [{ from = 9, width = "1px" }]\n', [":8: slots.b.sizes: says nothing for the narrowest viewports"]),
        (GOOD + '[slots.b]\nsizes = [{ from = 0, width = "1px" }, { from = 9, width = "2" }]\n', [":8: slots.b.sizes.1.width: '2' has no unit"]),
        (GOOD + '[slots.b]\nsizes = [{ from = 0, width = "1px" }, { from = 0, width = "2px" }]\n', [":8: slots.b.sizes: two widths begin"]),
        (GOOD + '[slots.b]\nsizes = [{ form = 0, width = "1px" }]\n', [":8: slots.b.sizes.0.from: is missing", ":8: slots.b.sizes.0.form: unknown key; did you mean 'from'?"]),
        (GOOD + '[slots.b]\nsizes = "50vw, 10"\n', [":8: slots.b.sizes: a browser drops an entry of this sizes value: '10' has no unit"]),
        (GOOD + '[slots.b]\nsizes = "1px"\n[[slots.b.crops]]\nwhen = "(width: 1)"\nratio = "1:1"\n[[slots.b.crops]]\nratio = "1:1"\n', [":10: slots.b.crops.0.when: '(width: 1)' is no media condition"]),
        (GOOD + '[slots.b]\nsizes = "1px"\n[[slots.b.crops]]\nwhen = "print"\nratio = "1:1"\n', [":10: slots.b.crops.0.when: 'print' holds on no screen"]),
        (GOOD + '[slots.b]\nsizes = "1px"\n[[slots.b.crops]]\nratio = "1:1"\n[[slots.b.crops]]\nratio = "1:2"\n', [":11: slots.b.crops.1: no device can meet it: on every width the crops before it always hold"]),
        (GOOD + '[slots.b]\nsizes = "1px"\nwidths = "8"\n', [':9: slots.b.widths: got "8"; write a number of widths at most, from 1 to 20; or a share such as "8%"']),
        (GOOD + '[masters."a b.jpg"]\nsubject = [0.5, 0, 0.4, 1]\n', [':8: masters."a b.jpg".subject: got [0.5, 0, 0.4, 1]; write [left, top, right, bottom]']),
        (GOOD + '[masters."a.jpg"]\nsubject = [0, 0, 2, 1]\n', [':8: masters."a.jpg".subject: got [0, 0, 2, 1]; write [left, top, right, bottom]']),
        (GOOD + '[masters."a.jpg"]\nalt = 3\n', [':8: masters."a.jpg".alt: got 3; write what the picture shows, in words']),
        (GOOD.replace("phone = 0", "phone = 20"), [":2: breakpoints.phone: the narrowest breakpoint begins at 20"]),
        (GOOD.replace("desktop = 1024", "desktop = 0"), [":3: breakpoints.desktop: begins at 0, as phone does"]),
        ("", [": slots: is missing; write at least one table such as [slots.card]"]),
        ("[slots\n", [":1:7: not TOML: Expected ']' at the end of a table declaration; close the bracket"]),
        ('a = "', [":1: not TOML: Unterminated string (at end of document); see whether a quote or bracket is left open"]),
    ],
)  # fmt: skip
def test_fault(tmp_path: Path, text: str, wanted: list[str]) -> None:
    faults = faults_of(tmp_path, text)
    assert len(faults) == len(wanted), faults
    for fault, start in zip(faults, wanted, strict=True):
        assert fault.startswith(start)


def test_all_faults_are_told_at_once(tmp_path: Path) -> None:
    text = (
        GOOD
        + '[slots.b]\nsizes = "384"\n[slots.c]\nsizes = "1px"\ncrops = "x"\n[masters."a.jpg".crops.card.all]\nratio = "x"\n'
    )
    assert [fault.split(":")[1] for fault in faults_of(tmp_path, text)] == ["8", "11", "13"]


def test_files_that_are_no_plan(tmp_path: Path) -> None:
    with pytest.raises(PlanError, match="there is no such file; name the plan with --plan FILE"):
        read_plan(tmp_path / "none.toml")
    with pytest.raises(PlanError, match=r"sarvel\.toml: there is no such file"):
        read_plan(tmp_path)
    (tmp_path / "sarvel.toml").write_text(GOOD)
    assert read_plan(tmp_path).file == tmp_path / "sarvel.toml"
    (tmp_path / "sarvel.toml").unlink()
    (tmp_path / "latin.toml").write_bytes(b"# K\xfcste\n")
    with pytest.raises(PlanError, match="byte 3 is not UTF-8"):
        read_plan(tmp_path / "latin.toml")
    with pytest.raises(PlanError, match=r"no sarvel\.toml here or in any folder above"):
        find_plan(tmp_path)


def test_the_nearest_plan_upwards_is_found(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "sarvel.toml").write_text(GOOD)
    deep = tmp_path / "a" / "b"
    deep.mkdir(parents=True)
    monkeypatch.chdir(deep)
    assert find_plan(deep) == Path("../../sarvel.toml")
    assert read_plan(find_plan(deep)).masters_folder.resolve() == (tmp_path / "masters").resolve()


def test_what_a_good_plan_says(tmp_path: Path) -> None:
    file = tmp_path / "sarvel.toml"
    file.write_text(
        "\ufeff" + GOOD + '[site]\naddress = "/my pictures, all/"\n[defaults]\nwidths = 3\n', encoding="utf-8"
    )
    plan = read_plan(file)
    card = plan.slots["card"]
    assert (card.rungs, card.formats, card.densities, card.widest) == (3, ("avif", "webp", "jpeg"), (1, 2), 2560)
    assert [(rule.name, rule.ratio) for rule in card.crops] == [("", 4 / 3)]
    assert plan.address == "/my%20pictures%2C%20all"  # neither white space nor a comma may end a URL of a srcset early
    assert plan.woven is None


@pytest.mark.parametrize(
    ("slot", "defaults", "wanted"),
    [
        ("", "", (5, None)),
        ("widths = 3", 'widths = "8%"', (3, None)),
        ("", 'widths = "8%"', (5, 0.08)),
        ('widths = "2.5 %"', "widths = 7", (5, 0.025)),
    ],
)
def test_widths_as_a_number_or_a_share(
    tmp_path: Path, slot: str, defaults: str, wanted: tuple[int, float | None]
) -> None:
    file = tmp_path / "sarvel.toml"
    file.write_text(GOOD + slot + "\n[defaults]\n" + defaults)
    card = read_plan(file).slots["card"]
    assert (card.rungs, card.excess) == (wanted[0], pytest.approx(wanted[1]) if wanted[1] else None)


def test_lines_of_keys() -> None:
    text = '[a."b.c"]\nx = 1\n"y z" = 2\n\n[[d]]\nk = 1\n[[d]]\nk.l = 2\n[d.e]\n'
    lines = lines_of_keys(text)
    assert lines["a", "b.c", "x"] == 2 and lines["a", "b.c", "y z"] == 3
    assert lines["d", 0, "k"] == 6 and lines["d", 1, "k", "l"] == 8


@pytest.mark.parametrize(
    ("default", "own", "wanted"),
    [
        ("", "", ("standard", 93, {})),
        ('quality = "fine"', "", ("fine", 95, {})),
        ('quality = "fine"', "quality = 88.5", ("88.5", 88.5, {})),
        ("quality = { avif = 40 }", "", ("standard", 93, {"avif": 40})),
        ('quality = "fine"', "quality = { avif = 40 }", ("fine", 95, {"avif": 40})),
        ("quality = { avif = 40 }", "quality = { jpeg = 70 }", ("standard", 93, {"jpeg": 70})),
        ("quality = { avif = 40 }", 'quality = "light"', ("light", 91, {})),
    ],
)
def test_quality_as_a_word_a_likeness_or_numbers(
    tmp_path: Path, default: str, own: str, wanted: tuple[str, float, object]
) -> None:
    file = tmp_path / "sarvel.toml"
    file.write_text(GOOD + f'[defaults]\n{default}\n[slots.b]\nsizes = "9px"\n{own}\n')
    finish = read_plan(file).slots["b"].finish
    assert (finish.name, finish.likeness, dict(finish.quality)) == wanted
