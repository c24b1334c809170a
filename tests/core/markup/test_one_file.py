"""Places that name one file."""

from dataclasses import replace

from sarvel.core.address.address import InFolder, Whole
from sarvel.core.markup.one_file import at_least, named_files
from tests.core.edition.test_compose import BANNER, only


def test_the_files_of_the_last_crop_in_the_last_format() -> None:
    picture = only(replace(BANNER, widths=(100, 200)))
    files = named_files(picture, InFolder("p"))
    last = list(picture.crops[-1].renditions.values())[-1]
    assert [(one.width, one.height, one.url) for one in files] == [
        (one.width, one.height, f"p/{one.name}") for one in last
    ]
    assert {one.type for one in files} == {last[0].media_type} and len(picture.crops[-1].renditions) > 1
    assert [at_least(files, width).width for width in (1, 100, 101, 999)] == [100, 100, 200, 200]


def test_a_whole_address_is_that_of_the_site_or_of_a_service() -> None:
    picture = only(replace(BANNER, widths=(100,)))
    for prefix, begin in (
        ("/p", "https://x.example/p/"),
        ("p", "https://x.example/p/"),
        ("https://y.example/p", "https://y.example/p/"),
    ):
        assert named_files(picture, Whole("https://x.example", InFolder(prefix)))[0].url.startswith(begin)
