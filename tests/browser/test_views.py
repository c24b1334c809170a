"""The quickest way to see a page on many viewports, which shows what a device would."""

from pathlib import Path

import pytest
from PIL import Image
from selenium import webdriver

from sarvel.browser import views
from sarvel.browser.session import Session
from sarvel.browser.site_server import Folders, SiteServer

pytestmark = pytest.mark.browser

BODY = (
    '<style>body {{ margin: 0 }} img {{ display: block; {} }}</style><body><img src="a.png" alt=""><script>{}</script>'
)
WIDE = "document.images[0].style.width = `${Math.round(innerWidth / 2)}px`"


@pytest.mark.parametrize(
    ("css", "script", "way"),
    [
        ("width: 50vw", "", "_Framed 0"),
        ("width: 50vw", "if (top !== self) top.location = '/elsewhere.html'", "_Framed 0"),
        ("", f"const lay = () => {{ {WIDE} }}; lay(); addEventListener('resize', lay)", "_Framed 6"),
        ("width: 50vw", "if (top !== self) document.body.innerHTML = ''", "_Resized"),
        ("width: 50vw", "if (top !== self) location = 'about:blank'", "_Resized"),
        ("width: 10px", f"if (top === self) {{ {WIDE} }}", "_OpenedAgain"),
        ("", WIDE, "_OpenedAgain"),
    ],
    ids=["css", "leads away from frames", "script", "empty in frames", "goes away in frames", "other in frames, by its first viewport", "by its first viewport"],
)  # fmt: skip
def test_the_way_to_see_a_page(css: str, script: str, way: str, tmp_path: Path, browser: webdriver.Chrome) -> None:
    Image.new("RGB", (3000, 1000), "#456").save(tmp_path / "a.png")
    (tmp_path / "index.html").write_text("<!doctype html>" + BODY.format(css, script))
    server = SiteServer(Folders([tmp_path]), {})
    session = Session(browser, server.address)
    try:
        found = views.opened(session, "/index.html", named=True)
        view = found.view
        assert type(view).__name__ + (f" {view.frames}" if isinstance(view, views._Framed) else "") == way
        assert [name.rpartition("/")[2] for name, _ in found.named] == ["a.png"]
        seen = view.looks([(width, 900) for width in (300, 700, 1300, 2000)])
        assert [boxes[0].width for boxes in seen] == [150, 350, 650, 1000]
        # Half as wide as the screen, a third as high as that, on 360 × 740 and 1440 × 900.
        assert found.first[0] == pytest.approx((180 * 60 / (360 * 740), 720 * 240 / (1440 * 900)), rel=0.01)
    finally:
        browser.switch_to.default_content()
        browser.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})
        server.close()
