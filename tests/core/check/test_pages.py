"""Whole pages in the styles of real sites: fifty-seven with a fault, forty-five without any, written before the rules were tried on them."""

import pytest

from sarvel.core.check.all_rules import check
from sarvel.core.check.context import Context, LinkedFile
from sarvel.core.html.document import read_document

PAGE = """<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>Rock</title>
{head}
</head>
<body>
<header><nav><a href="/">Home</a></nav></header>
<main>
{body}
</main>
</body></html>
"""
FITS = "<style>img{max-width:100%;height:auto}</style>"
IMG = '<img src="a.webp" alt="A rock" width="800" height="600">'
SIZE = 'alt="x" width="800" height="600"'
LIST = 'srcset="a.webp 800w, b.webp 1600w"'

# What stands in the head beside the usual, the body, the rules that are broken, and the first place marked.
FAULTY = [
    (FITS, f'<img src="a.webp" {LIST} sizes="(max-width:600px) 100vw (max-width: 1200px) 50vw, 800px" {SIZE}>', ['length-dropped'], '100vw'),
    (FITS, f'<img src="a.webp" srcset="a.webp 1x b.webp 2x" {SIZE}>', ['candidate-dropped'], '1x'),
    (FITS, f'<picture><source media="max-width: 600px" srcset="a.webp"><img src="b.webp" {SIZE}></picture>', ['source-never-chosen'], 'max-width: 600px'),
    (FITS, f'<picture><source media="(min-width: 600px) and (max-width 900px)" srcset="b.webp"><img src="a.webp" {SIZE}></picture>', ['source-never-chosen'], 'max-width'),
    (FITS, f'<picture><source srcset="a.webp" type="webp"><img src="a.jpg" {SIZE}></picture>', ['type-unknown'], 'type="webp"'),
    (FITS, f'<picture><source srcset="a.avif" type="image/avif"><source srcset="b.avif" media="(min-width: 900px)" type="image/avif"><img src="a.jpg" {SIZE}></picture>', ['source-never-chosen'], '<source srcset="b.avif" media="(min-width: 900px)" type="image/avif">'),
    (FITS, f'<img src="a.webp" {LIST} sizes="(min-width: 800px): 50vw, 100vw" {SIZE}>', ['length-dropped'], ':'),
    (FITS, f'<img src="a.webp" srcset="a.webp 800, b.webp 1600" sizes="100vw" {SIZE}>', ['candidate-dropped', 'candidate-dropped'], '800'),
    (FITS, f'<img src="a.webp" {LIST} size="50vw" {SIZE}>', ['attribute-misspelt'], 'size="50vw"'),
    (FITS, f'<img src="a.webp" {LIST} sizes="50%" {SIZE}>', ['length-dropped'], '50%'),
    (FITS, f'<img src="a.webp" srcset="a.webp 1x, b.webp 2" {SIZE}>', ['candidate-dropped'], '2'),
    (FITS, '<a href="/gallery"><img src="a.webp" alt="" width="800" height="600"></a>', ['link-without-words'], '<a href="/gallery">'),
    (FITS, f'<img src="a.webp" loading="lazy" fetchpriority="high" {SIZE}>', ['lazy-and-urgent'], 'fetchpriority="high"'),
    (FITS, '<img src="a.webp" heigth="600" width="800" alt="x">', ['attribute-misspelt'], 'heigth="600"'),
    (FITS, '<img src="a.webp" width="800" height="auto" alt="x">', ['dimension-no-number'], 'height="auto"'),
    (FITS, f'<img src="C:\\Users\\me\\a.webp" {SIZE}>', ['address-of-one-machine'], 'src="C:\\Users\\me\\a.webp"'),
    (FITS, f'<img src="http://127.0.0.1:3000/a.webp" {SIZE}>', ['address-of-one-machine'], 'src="http://127.0.0.1:3000/a.webp"'),
    (FITS, f'<picture srcset="b.webp"><source srcset="b.webp" media="(min-width: 900px)"><img src="a.webp" {SIZE}></picture>', ['attribute-on-picture'], 'srcset="b.webp"'),
    (FITS, f'<picture><source src="b.webp" media="(min-width: 900px)"><img src="a.webp" {SIZE}></picture>', ['src-on-source'], 'src="b.webp"'),
    (FITS, f'<picture><img src="a.webp" {SIZE}><source srcset="b.webp" media="(min-width: 900px)"></picture>', ['img-not-last'], '<source srcset="b.webp" media="(min-width: 900px)">'),
    (FITS, f'<picture><source srcset="b.webp" media="(min-width: 900px)"><figure><img src="a.webp" {SIZE}></figure></picture>', ['img-not-a-child'], '<img src="a.webp" alt="x" width="800" height="600">'),
    (FITS, f'<img src="a.webp" {LIST} sizes="auto" {SIZE}>', ['auto-not-lazy'], 'sizes="auto"'),
    (FITS, f'<img src="a.webp" {LIST} sizes="100vw, (min-width: 900px) 50vw" {SIZE}>', ['entry-never-counts'], '(min-width: 900px) 50vw'),
    (FITS, f'<img src="a.webp" srcset="a.webp 800w, b.webp 1500w" sizes="100vw" {SIZE}>', ['width-not-the-files'], '1500w'),
    (FITS, f'<img src="a.webp" srcset="a.webp 2x, b.webp 1x" {SIZE}>', ['densities-out-of-order'], 'a.webp 2x'),
    (FITS, f'<img src="a b.webp" {SIZE}>', ['address-not-escaped', 'file-missing'], 'src="a b.webp"'),
    (FITS, f'<img src="A.webp" {SIZE}>', ['letter-case-differs'], 'src="A.webp"'),
    (FITS, f'<img src="a.png" {SIZE}>', ['ending-wrong'], 'src="a.png"'),
    (FITS, '<img src="a.webp" alt="IMG_2041.webp" width="800" height="600">', ['alt-is-a-file-name'], 'alt="IMG_2041.webp"'),
    (FITS, '<img src="a.webp" alt="x" width="800" height="800">', ['size-of-another-shape'], 'width="800"'),
    (FITS, f'<img src="a.webp" srcset="a.webp 800w; b.webp 1600w" sizes="100vw" {SIZE}>', ['candidate-dropped'], '800w;'),
    (FITS, f'<img src="a.webp" {LIST} sizes="calc(100vw-40px)" {SIZE}>', ['length-dropped'], '100vw-40px'),
    (FITS, f'<img src="a.webp" srcset="a.webp 800w, b.webp 2x" sizes="100vw" {SIZE}>', ['widths-and-densities-mixed'], 'b.webp 2x'),
    (FITS, f'<img src="a.webp" srcset="a.webp 800w, b.webp 800w" sizes="100vw" {SIZE}>', ['same-descriptor-twice'], 'b.webp 800w'),
    (FITS, f'<picture><source media="(min-width: 1000px)" srcset="b.webp"><source media="(max-width: 999px)" srcset="a.webp"><source media="(max-width: 500px)" srcset="a.jpg"><img src="a.webp" {SIZE}></picture>', ['source-never-chosen'], '<source media="(max-width: 500px)" srcset="a.jpg">'),
    (FITS, f'<img src="a.webp" decoding="asynch" {SIZE}>', ['value-unknown'], 'decoding="asynch"'),
    (FITS, f'<img src="a.webp" crossorigin="anonymus" {SIZE}>', ['value-unknown'], 'crossorigin="anonymus"'),
    (FITS, f'<img {SIZE}>', ['address-missing'], '<img alt="x" width="800" height="600">'),
    (FITS, f'<img src="a.webp" {LIST} sizes="(min-width: 60em 50vw, 100vw" {SIZE}>', ['length-dropped'], '60em'),
    (FITS, f'<img src="a.webp" {LIST} sizes="(orientation: landscap) 50vw, 100vw" {SIZE}>', ['length-dropped'], 'landscap'),
    (FITS, f'<img src="a.webp" {LIST} sizes="(max-width: 600px) 100vw, (max-width: 900px) 50wv, 33vw" {SIZE}>', ['length-dropped'], '50wv'),
    (FITS, f'<img src="a.webp" {LIST} sizes="(max-width: 600px), 100vw, 800px" {SIZE}>', ['length-dropped'], ','),
    (FITS, f'<picture><source media="(min-width: 640px)" srcset="b.webp"><source media="(min-width: 1024px)" srcset="b.jpg"><img src="a.webp" {SIZE}></picture>', ['source-never-chosen'], '<source media="(min-width: 1024px)" srcset="b.jpg">'),
    (FITS, '<img src="a.webp" srcset="/a.webp 800w,/b.webp 1600w" sizes="100vw" alt="x" width="800px" height="600px">', ['dimension-no-number'], 'width="800px"'),
    (FITS, f'<svg><image href="a.webp"/></svg><img src="gone.webp" {SIZE}>', ['file-missing'], 'src="gone.webp"'),
    (FITS, f'<img src="a.webp" {SIZE} loading="Lazy load">', ['value-unknown'], 'loading="Lazy load"'),
    (FITS, f'<picture><source type="image/webp" srcset="a.webp"><source type="image/avif" srcset="a.avif"><img src="a.jpg" {SIZE}></picture>', ['lighter-format-behind'], '<source type="image/avif" srcset="a.avif">'),
    (FITS, f'<img src="a.webp" data-srcset="x" src-set="b.webp 2x" {SIZE}>', ['attribute-misspelt'], 'src-set="b.webp 2x"'),
    (FITS, f'<img src="a.webp" srcset="a.webp, b.webp, 2x" {SIZE}>', ['candidate-dropped'], ', 2x'),
    (FITS, f'<img src="a.webp" {LIST} sizes="(min-width: 1200px) 400px, (min-width: 1200px) 300px, 100vw" {SIZE}>', ['entry-never-counts'], '(min-width: 1200px) 300px'),
    ('<style>img{max-width:100%;height:auto}</style>\n<link rel="preload" href="a.webp" as="image" imagesrcset="b.webp 2x">', f'{IMG}', ['preload-not-used'], 'imagesrcset="b.webp 2x"'),
    ('<style>img{max-width:100%;height:auto}</style>\n<link rel="preload" href="b.webp" as="image">', f'{IMG}', ['preload-not-used'], 'href="b.webp"'),
    ('<style>img{max-width:100%;height:auto}</style>\n<link rel="prelaod" href="a.webp" as="image">', f'{IMG}', ['value-unknown'], 'rel="prelaod"'),
    ('<style>img{max-width:100%}</style>', f'{IMG}', ['height-stays'], 'height="600"'),
    ('<style>img{max-width:300px;height:auto}</style>', f'<img src="a.webp" {LIST} sizes="100vw" {SIZE}>', ['sizes-contradict-the-style'], 'sizes="100vw"'),
    ('<style>img{max-width:100%;height:auto} .hero{background:url(gone.jpg)}</style>', f'{IMG}', ['file-missing'], 'background:url(gone.jpg)'),
    ('<style>img{max-width:100%;height:auto} .hero{background-image:image-set(url(a.webp) 1x, url(gone.webp) 2x)}</style>', f'{IMG}', ['file-missing'], 'background-image:image-set(url(a.webp) 1x, url(gone.webp) 2x)'),
]  # fmt: skip
CLEAN = [
    (FITS, f'<img src="a.webp" {LIST} sizes="(min-width: 60em) calc(50vw - 2 * 1.5rem), 100vw" alt="A rock" width="800" height="600">'),
    (FITS, f'<picture><source media="(orientation: landscape) and (min-width: 640px)" srcset="b.webp" width="1600" height="1200">{IMG}</picture>'),
    (FITS, f'<picture><source media="(prefers-color-scheme: dark)" srcset="b.webp">{IMG}</picture>'),
    (FITS, f'<picture><source media="(width >= 900px)" srcset="b.webp"><source media="(400px <= width < 900px)" srcset="a.webp">{IMG}</picture>'),
    (FITS, '<picture><source type="image/avif" srcset="a.avif 1x, b.avif 2x"><source type="image/webp" srcset="a.webp 1x, b.webp 2x"><img src="a.jpg" srcset="b.jpg 2x" alt="A rock" width="800" height="600"></picture>'),
    (FITS, f'<img src="a.webp" {LIST} sizes="min(100vw, 800px)" alt="A rock" width="800" height="600">'),
    (FITS, f'<p>x</p><img src="a.webp" {LIST} sizes="clamp(300px, 50vw, 800px)" decoding="async" alt="A rock" width="800" height="600">'),
    (FITS, f'{IMG}\n<img src="a.webp" {LIST} sizes="auto, (min-width: 800px) 50vw, 100vw" loading="lazy" alt="A rock" width="800" height="600">'),
    (FITS, '<img src="a.webp" alt="A rock" width="800" height="600" fetchpriority="high" decoding="async">'),
    (FITS, '<a href="/x"><img src="a.webp" alt="" width="800" height="600"><span>The rock</span></a>'),
    (FITS, '<a href="/x" aria-label="The rock"><img src="a.webp" alt="" width="800" height="600"></a>'),
    (FITS, '<button type="button"><img src="icon.png" alt="Close" width="24" height="24"></button>'),
    (FITS, '<img src="v.svg" alt="A mark" width="120" height="40">'),
    (FITS, '<img src="data:image/gif;base64,R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7" alt="" width="1" height="1">'),
    (FITS, '<img src="a.webp" alt="A rock" style="aspect-ratio: 4/3; width: 100%">'),
    (FITS, f'<figure>{IMG}<figcaption>The rock</figcaption></figure>'),
    (FITS, '<div style="overflow-x:auto"><img src="b.webp" alt="A panorama" width="1600" height="1200" style="max-width:none"></div>'),
    (FITS, '<picture><source srcset="a.webp" type="image/webp; q=1"><img src="a.jpg" alt="A rock" width="800" height="600"></picture>'),
    (FITS, '<img src="a.webp?v=3&amp;x=1" alt="A rock" width="800" height="600">'),
    (FITS, '<img src="https://cdn.example/rock-800.webp" srcset="https://cdn.example/rock-800.webp?w=800,h=600 800w, https://cdn.example/rock-1600.webp?w=1600,h=1200 1600w" sizes="100vw" alt="A rock" width="800" height="600">'),
    (FITS, f'<noscript>{IMG}</noscript><img data-src="b.webp" src="a.webp" class="lazyload" alt="A rock" width="800" height="600">'),
    (FITS, '<picture><!-- art --><source media="(max-width: 599.98px)" srcset="a.webp"><!-- wide --><source media="(min-width: 600px)" srcset="b.webp"><img src="b.webp" alt="A rock" width="1600" height="1200"></picture>'),
    (FITS, '<video poster="a.webp" controls width="800" height="600"><source src="rock.mp4" type="video/mp4"></video>'),
    (FITS, '<img src="a.webp" alt="A rock, seen from the sea" title="Rock" width="800" height="600" role="img">'),
    (FITS, '<img src="a.webp" alt role="presentation" width="800" height="600">'),
    (FITS, '<IMG SRC="a.webp" ALT="A rock" WIDTH=800 HEIGHT=600>'),
    (FITS, '<img src="a.webp" srcset="a.webp 800w, b.webp 1600w," sizes="100vw" alt="A rock" width="800" height="600">'),
    (FITS, f'<img src="a.webp" {LIST} sizes="(min-width: 40.0625em) 50vw, 100vw" alt="A rock" width="800" height="600">'),
    (FITS, f'<img src="a.webp" {LIST} sizes="(max-width: 599px) 100vw, (max-width: 1199px) 50vw, 400px" alt="A rock" width="800" height="600">'),
    (FITS, f'<img src="a.webp" {LIST} sizes="(hover: none) 100vw, 50vw" alt="A rock" width="800" height="600">'),
    (FITS, '<template><img src="{{src}}" {{more}}></template><img src="a.webp" alt="A rock" width="800" height="600">'),
    (FITS, "\n".join(IMG if i < 4 else IMG.replace("<img", '<img loading="lazy"') for i in range(16))),
    (FITS, '<iframe src="x.html" loading="lazy" width="400" height="300" title="x"></iframe><object data="v.svg"></object>'),
    (FITS, f'<picture class="c"><source media="print" srcset="b.webp">{IMG}</picture>'),
    (FITS, '<img src="a.webp" alt="down" width="800" height="600" crossorigin referrerpolicy="no-referrer" ismap>'),
    (FITS, '<map name="m"><area href="/a" alt="a" coords="0,0,1,1"></map><img usemap="#m" src="a.webp" alt="Map" width="800" height="600">'),
    ('<style>img{max-width:100%;height:auto}</style><link rel="preload" as="image" href="a.webp" fetchpriority="high">', f'{IMG}'),
    ('<style>img{max-width:100%;height:auto}</style><link rel="preload" as="image" href="a.webp" imagesrcset="a.webp 800w, b.webp 1600w" imagesizes="100vw">', f'<img src="a.webp" {LIST} sizes="100vw" alt="A rock" width="800" height="600">'),
    ('<style>.hero{background-image:url(a.webp);background-image:image-set("a.webp" 1x,"b.webp" 2x)}@media (min-width:900px){.hero{background-image:url(b.webp)}}</style>', '<div class="hero"></div>'),
    ('<style>.card{width:18rem}.card-img{width:100%;height:auto;object-fit:cover}</style>', '<div class="card"><img class="card-img" src="a.webp" alt="A rock" width="800" height="600"></div>'),
    ('<style>.r{aspect-ratio:1;position:relative}.r>img{position:absolute;inset:0;width:100%;height:100%;object-fit:cover}</style>', f'<div class="r">{IMG}</div>'),
    ('<base href="./"><style>img{max-width:100%;height:auto}</style>', f'{IMG}'),
    ('<style>.w-100{width:100%!important}.h-auto{height:auto!important}</style>', '<img class="w-100 h-auto" src="a.webp" alt="A rock" width="800" height="600">'),
    ('<style>main{max-width:1140px;margin:auto}img{width:100%;height:auto}</style>', f'<img src="a.webp" {LIST} sizes="(min-width: 1200px) 1140px, 100vw" alt="A rock" width="800" height="600">'),
    ('<style>.l{list-style:url(v.svg)} .m{mask:url(#m)} .c{cursor:url(icon.png),auto}</style>', '<ul class="l"><li>a</li></ul>'),
]  # fmt: skip


def lookup(address: str) -> LinkedFile | None:
    """The files of the pages: a is 800 px wide, b 1600, the icon 64; what is written otherwise is another's, or missing."""
    name, _, ending = address.split("?", maxsplit=1)[0].rpartition(".")
    width = {"a": 800, "b": 1600, "icon": 64}.get(name, 0)
    if address.startswith(("http", "data:", "/")) or ending in ("svg", "css") or set("#{") & set(address):
        return None
    if name == "A":
        return LinkedFile(real_name=f"a.{ending}")
    if not width or (name != "icon" and ending == "png"):
        return LinkedFile(missing=True, near="a.avif" if name == "a" else "")
    return LinkedFile(
        width,
        width if name == "icon" else width * 3 // 4,
        f"image/{ending.replace('jpg', 'jpeg')}",
        weight=1_500 if name == "icon" else 20_000,
    )


def found(head: str, body: str) -> list[tuple[str, str]]:
    text = PAGE.replace("{head}", head).replace("{body}", body)
    return [(one.rule, text[one.start : one.end]) for one in check(read_document(text), Context(lookup))]


@pytest.mark.parametrize(("head", "body", "rules", "marked"), FAULTY)
def test_the_fault_of_a_page_is_found_at_its_place(head: str, body: str, rules: list[str], marked: str) -> None:
    told = found(head, body)
    assert [rule for rule, _ in told] == rules
    assert told[0][1] == marked


@pytest.mark.parametrize(("head", "body"), CLEAN)
def test_a_page_without_fault_has_no_finding(head: str, body: str) -> None:
    assert found(head, body) == []
