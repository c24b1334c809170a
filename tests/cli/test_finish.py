"""Finish, formats that pay, colors and placeholders, through the installed program."""

import io
import json
import re
import shutil
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

import sarvel.encode.codecs
from sarvel.encode.color_profiles import display_p3
from sarvel.errors import PlanError
from sarvel.files.ledger import Ledger
from sarvel.pipeline import site as job_site
from sarvel.plan.read import read_plan
from tests.conftest import PAGE, PLAN, Run

STYLED = PAGE.replace('class="wide"', 'class="wide" style=\'color:red; content:"a"\'')


SEARCHED = re.sub("\nquality = .*", "", PLAN)


def files(site: Path) -> dict[str, bytes]:
    return {file.name: file.read_bytes() for file in (site / "public" / "pictures").iterdir()}


def with_defaults(site: Path, *lines: str) -> None:
    (site / "sarvel.toml").write_text(SEARCHED.replace("[defaults]\n", "[defaults]\n" + "\n".join(lines) + "\n"))


@pytest.mark.parametrize("kind", ["tint", "soft", "outline", "#c8d6df"])
def test_placeholders_stand_in_the_markup_and_go_again(site: Path, sarvel: Run, kind: str) -> None:
    with_defaults(site, f'placeholder = "{kind}"')
    page = site / "pages" / "index.html"
    page.write_text(STYLED)
    assert sarvel("build").returncode == 0
    woven = page.read_text()
    (style,) = re.findall(r" style='([^']*)'", woven)
    placeholder = r"background:#[0-9a-f]{6}( url\(data:[^) ]+\) 50%/cover)? content-box"
    assert re.fullmatch(rf'height:auto;{placeholder};color:red; content:"a"', style)
    assert '<picture style="display:contents"' in woven
    assert ("url(" in style) == (kind in ("soft", "outline")) and "data-was-style='" in woven
    seal = woven[woven.index("data-sarvel='badge'") :]
    assert "background:" not in seal, "the seal is transparent"
    (site / "sarvel.ledger").unlink()
    sarvel("weave")
    assert page.read_text() == woven
    sarvel("weave", "--undo")
    assert page.read_text() == STYLED


def test_placeholders_of_a_strict_page_stand_in_the_stylesheet(site: Path, sarvel: Run) -> None:
    (site / "sarvel.toml").write_text(
        PLAN.replace("[site]\n", '[site]\nplaceholders = "stylesheet"\n').replace(
            "[slots.banner]\n", '[slots.banner]\nplaceholder = "tint"\n'
        )
    )
    page = site / "pages" / "index.html"
    page.write_text(
        page.read_text().replace(
            "<p>",
            '<link rel=stylesheet href=fits.css><link rel="stylesheet" href="../public/pictures/pictures.css"><p>',
        )
    )
    (site / "pages" / "fits.css").write_text("img { max-width: 100% }")
    assert sarvel("build").returncode == 0
    assert "style=" not in page.read_text()
    css = (site / "public" / "pictures" / "pictures.css").read_text().splitlines()
    whole, height, phone, desktop, ratio = css
    assert whole.startswith(":where(picture:has(> :is(img[src") and whole.endswith(") { display: contents }")
    assert height.startswith(':where(img[src$="/gull-banner-phone-') and height.endswith(") { height: auto }")
    assert phone.startswith('img[src$="/gull-banner-phone-') and desktop.startswith("@media (min-width: 800px) { img")
    assert "background: #" in phone and "background: #" in desktop
    assert ratio.startswith(':where(img[src$="/seal-badge-') and ratio.endswith(") { aspect-ratio: auto 1/1 }")
    again = json.loads(sarvel("build", "--json").stdout)
    assert again["pages"]["written"] == [] and again["rendered"]["made"] == []


def test_what_does_not_pay_is_left_out_and_stays_so(site: Path, sarvel: Run) -> None:
    """Blocks of random colors are smaller as JPEG than as WebP, which keeps their colors at half the size."""
    (site / "sarvel.toml").write_text(SEARCHED.replace('loading = "eager"', 'loading = "eager"\nwidths = [400, 512]'))
    first = sarvel("build", "--json")
    document = json.loads(first.stdout)
    assert not document["rendered"]["left_out"] and not document["faults"]  # found out before any was written
    assert any(
        "gull.jpg" in note["place"] and "webp is left out: its first files weigh" in note["text"]
        for note in document["notes"]
    )
    made = files(site)
    page = (site / "pages" / "index.html").read_text()
    assert sorted(made) == document["rendered"]["made"]
    assert made.keys() & set(re.findall(r"gull-banner-desktop-\d+\.\w+\.jpg", page))
    assert not re.search(r"gull-banner-phone-\d+\.\w+\.webp", page + " ".join(made))
    assert json.loads(sarvel("render", "--json").stdout)["rendered"] == {
        "made": [],
        "kept": len(made),
        "left_out": [],
        "pruned": [],
        "altered": [],
    }
    (site / "sarvel.ledger").unlink()
    again = json.loads(sarvel("render", "--json").stdout)["rendered"]
    assert (
        again["made"] == [] and again["left_out"] and files(site) == made
    )  # what it is held against was not searched again


def test_plan_tells_numbers_once_they_are_found(site: Path, sarvel: Run) -> None:
    (site / "sarvel.toml").write_text(SEARCHED)
    before = sarvel("plan", "--quality").stdout
    assert "not searched yet" in before and "lossless" in before and "graphic" in before
    assert not (site / "sarvel.ledger").exists()
    sarvel("render")
    after = sarvel("plan", "--quality").stdout
    assert "not searched yet" not in after and re.search(r"jpeg\s+─*\s", after)
    crop = json.loads(sarvel("plan", "--json").stdout)["slots"][0]["pictures"][0]["crops"][0]
    (tried,) = crop["formats"]["jpeg"]["tried"]
    assert crop["formats"]["jpeg"]["target"] == 93 and 92.6 <= tried["likeness"] < 96
    # A second way: the file itself is of that number.
    name = next(
        name
        for name in files(site)
        if name.startswith(f"gull-banner-desktop-{tried['width']}") and name.endswith("jpg")
    )
    with Image.open(io.BytesIO(files(site)[name])) as image:
        known = io.BytesIO()
        image.save(known, "jpeg", quality=tried["quality"], subsampling="4:2:0")
        assert Image.open(known).quantization == image.quantization  # type: ignore[attr-defined]


def test_numbers_by_hand_are_taken(site: Path, sarvel: Run) -> None:
    with_defaults(site, "quality = { webp = 30, jpeg = 40 }")
    sarvel("render")
    told = sarvel("plan", "--quality").stdout
    assert "40 (plan)" in told and "not searched" not in told
    crop = json.loads(sarvel("plan", "--json").stdout)["slots"][0]["pictures"][0]["crops"][0]
    assert crop["formats"]["jpeg"] == {"quality": 40, "by_hand": True}


def test_wide_colors_and_credit_go_along_if_the_plan_says_so(site: Path, sarvel: Run) -> None:
    exif = Image.Exif()
    exif[0x8298], exif[0x010F] = "K. Tarn", "A camera"
    with Image.open(site / "masters" / "gull.jpg") as image:
        image.save(site / "masters" / "gull.jpg", quality=95, exif=exif, icc_profile=display_p3())
    for lines, profile, credit in (
        ((), None, {}),
        (('gamut = "wide"', 'metadata = ["credit"]'), display_p3(), {0x8298: "K. Tarn"}),
    ):
        with_defaults(site, *lines)
        shutil.rmtree(site / "public", ignore_errors=True)
        assert sarvel("render").returncode == 0
        gulls = [content for name, content in files(site).items() if name.startswith("gull")]
        for content in gulls:
            with Image.open(io.BytesIO(content)) as image:
                assert (image.info.get("icc_profile"), dict(image.getexif())) == (profile, credit)
        assert gulls


def test_a_damaged_profile_is_a_warning(site: Path, sarvel: Run) -> None:
    with Image.open(site / "masters" / "gull.jpg") as image:
        image.save(site / "masters" / "gull.jpg", icc_profile=b"damaged")
    done = sarvel("render")
    assert done.returncode == 0 and sarvel("render", "--strict").returncode == 1
    assert re.search(
        r"sarvel.toml: gull.jpg: its color profile cannot be used \(.*\), its colors are treated as sRGB; save",
        done.stderr,
    )
    assert any(name.startswith("gull") for name in files(site))


def test_a_graphic_comes_out_pixel_for_pixel(site: Path, sarvel: Run) -> None:
    """At its own width nothing is resampled and nothing lost."""
    drawn = np.zeros((60, 120, 3), np.uint8)
    drawn[20:40, 30:90] = (200, 30, 30)
    Image.fromarray(drawn).save(site / "masters" / "seal.png")
    (site / "sarvel.toml").write_text(PLAN.replace('sizes = "40px"', 'sizes = "120px"'))
    sarvel("render")
    widest = [content for name, content in files(site).items() if name.startswith("seal-badge-120.")]
    assert widest
    for content in widest:
        with Image.open(io.BytesIO(content)) as image:
            assert (np.asarray(image.convert("RGB")) == drawn).all()


def test_a_format_that_is_not_installed(site: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    codecs = {name: codec for name, codec in sarvel.encode.codecs.CODECS.items() if name != "jxl"}
    monkeypatch.setattr(job_site, "CODECS", codecs)
    (site / "sarvel.toml").write_text(PLAN.replace('"webp", ', '"jxl", '))
    with pytest.raises(
        PlanError, match=r"sarvel.toml:13: slots.banner: the format jxl needs an extra; install it with pip install"
    ):
        job_site.read_site(read_plan(site / "sarvel.toml"), Ledger())
