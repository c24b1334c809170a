"""Mistakes that people make, the line that each must give, and what becomes of it once the cure is followed.

A line names its place, says what was got, and what to do. Where the cure is a text to write, it is written here in place of the
mistake; else the text of before is: either way the line must be gone.
"""

from pathlib import Path

import pytest

from tests.conftest import Run

PLAN = "sarvel.toml"
PAGE = "pages/index.html"

# What is replaced, by what, the command, its line, and the cure where it is another text than before.
IN_PLAN: list[tuple[str, ...]] = [
    ('sizes = "40px"', 'sizes = 40px', 'plan', 'sarvel.toml:20:11: 40px is no value of TOML; write sizes = "40px"'),
    ('sizes = "40px"', "sizes = '40px", 'plan', 'sarvel.toml:24: not TOML: Expected "\'" (at end of document); see whether a quote or bracket is left open'),
    ('[slots.badge]', '[slots.badge', 'plan', "sarvel.toml:19:13: not TOML: Expected ']' at the end of a table declaration; close the bracket"),
    ('widths = 2', 'widths = 2\nwidths = 3', 'plan', 'sarvel.toml:12:11: widths is there twice, in line 11 too; keep one of them'),
    ('[slots.badge]', '[slots.banner]', 'plan', 'sarvel.toml:19:14: the table [slots.banner] is there twice; write all its keys in one place, such as line 13'),
    ('pages = ["pages"]', 'pages = ["pages"', 'plan', 'sarvel.toml:3:1: not TOML: Unclosed array; close the bracket'),
    ('widths = 2', 'widths 2', 'plan', 'sarvel.toml:11:8: no equals sign behind widths; write widths = 2'),
    ('widths = 2', 'widths == 2', 'plan', 'sarvel.toml:11:9: two equals signs; write widths = 2'),
    ('widths = 2', 'widths: 2', 'plan', 'sarvel.toml:11:7: no equals sign behind widths; write widths = 2'),
    ('loading = "eager"', 'loading = eager', 'plan', 'sarvel.toml:16:11: eager is no value of TOML; write loading = "eager"'),
    ('loading = "eager"', 'loading = true', 'plan', 'sarvel.toml:16: slots.banner.loading: got true; write "eager" (seen at once) or "lazy"'),
    ('widths = 2', 'soft = 5%', 'plan', 'sarvel.toml:11:9: 5% is no value of TOML; write soft = "5%"', 'soft = "5%"'),
    ('[defaults]', '[default]', 'plan', "sarvel.toml:9: default: unknown key; did you mean 'defaults'?"),
    ('[slots.badge]', '[slot.badge]', 'plan', "sarvel.toml:19: slot: unknown key; did you mean 'slots'?"),
    ('[site]', '[sites]', 'plan', "sarvel.toml:1: sites: unknown key; did you mean 'site'?"),
    ('[masters."gull.jpg"]', '[master."gull.jpg"]', 'plan', "sarvel.toml:22: master: unknown key; did you mean 'masters'?"),
    ('[breakpoints]', '[breakpoint]', 'plan', "sarvel.toml:5: breakpoint: unknown key; did you mean 'breakpoints'?"),
    ('formats =', 'format =', 'plan', "sarvel.toml:10: defaults.format: unknown key; did you mean 'formats'?"),
    ('crops =', 'crop =', 'plan', "sarvel.toml:15: slots.banner.crop: unknown key; did you mean 'crops'?"),
    ('alt = "A gull"', 'text = "A gull"', 'plan', 'sarvel.toml:23: masters."gull.jpg".text: unknown key; known here: alt, subject, kind, crops'),
    ('subject =', 'subjects =', 'plan', 'sarvel.toml:24: masters."gull.jpg".subjects: unknown key; did you mean \'subject\'?'),
    ('pages = ["pages"]', 'page = ["pages"]', 'plan', "sarvel.toml:2: site.page: unknown key; did you mean 'pages'?"),
    ('loading = "eager"', 'lazy = false', 'plan', 'sarvel.toml:16: slots.banner.lazy: unknown key; known here: formats, effort, quality, gamut, metadata,'),
    ('sizes = "40px"', 'size = "40px"', 'plan', 'sarvel.toml:19: slots.badge.sizes: is missing; write a CSS length such as "100vw", a whole sizes value, or'),
    ('widths = 2', 'width = 2', 'plan', "sarvel.toml:11: defaults.width: unknown key; did you mean 'widths'?"),
    ('"webp", "jpeg"', '"webp", "jpg"', 'plan', 'sarvel.toml:10: defaults.formats.1: got "jpg"; write a list of formats, best first, each once, of "jxl",'),
    ('"webp", "jpeg"', '"gif"', 'plan', 'sarvel.toml:10: defaults.formats.0: got "gif"; write a list of formats, best first, each once, of "jxl",'),
    ('"webp", "jpeg"]', ']', 'plan', 'sarvel.toml:10: defaults.formats: got []; write a list of formats, best first, each once, of "jxl",'),
    ('formats = ["webp", "jpeg"]', 'formats = "webp"', 'plan', 'sarvel.toml:10: defaults.formats: got "webp"; write a list of formats, best first, each once, of "jxl",', 'formats = ["webp"]'),
    ('widths = 2', 'widths = 0', 'plan', 'sarvel.toml:11: defaults.widths: got 0; write a number of widths at most, from 1 to 20; or a share'),
    ('widths = 2', 'widths = "2"', 'plan', 'sarvel.toml:11: defaults.widths: got "2"; write a number of widths at most, from 1 to 20; or a share'),
    ('widths = 2', 'densities = 2', 'plan', 'sarvel.toml:11: defaults.densities: got 2; write a list of pixel densities such as [1, 2]', 'densities = [1, 2]'),
    ('widths = 2', 'densities = ["2x"]', 'plan', 'sarvel.toml:11: defaults.densities.0: got "2x"; write a list of pixel densities such as [1, 2]', 'densities = [2]'),
    ('widths = 2', 'soft = "5"', 'plan', 'sarvel.toml:11: defaults.soft: got "5"; write a share such as "5%": what visitors whom no table', 'soft = "5%"'),
    ('widths = 2', 'soft = 5', 'plan', 'sarvel.toml:11: defaults.soft: got 5; write a share such as "5%": what visitors whom no table', 'soft = "5%"'),
    ('widths = 2', 'widest = "2560px"', 'plan', 'sarvel.toml:11: defaults.widest: got "2560px"; write a number of pixels from 1 to 16383', 'widest = 2560'),
    ('widths = 2', 'placeholder = "blur"', 'plan', 'sarvel.toml:11: defaults.placeholder: got "blur"; write "none", "tint", "soft", "outline", or a color such as', 'placeholder = "soft"'),
    ('widths = 2', 'reserve = "yes"', 'plan', 'sarvel.toml:11: defaults.reserve: got "yes"; write "ratio" (in a style, which harms no stylesheet that', 'reserve = "ratio"'),
    ('widths = 2', 'effort = "fast"', 'plan', 'sarvel.toml:11: defaults.effort: got "fast"; write "quick", "normal" or "thorough": how long encoders try', 'effort = "quick"'),
    ('quality = { webp = 20, jpeg = 90 }', 'quality = "high"', 'plan', 'sarvel.toml:17: slots.banner.quality: got "high"; write "light", "standard", "fine", a likeness from 80 to', 'quality = "fine"'),
    ('quality = { webp = 20, jpeg = 90 }', 'quality = { webp = 200 }', 'plan', 'sarvel.toml:17: slots.banner.quality: got { webp = 200 }; write "light", "standard", "fine", a likeness from 80 to', 'quality = { webp = 100 }'),
    ('quality = { webp = 20, jpeg = 90 }', 'quality = { png = 20 }', 'plan', 'sarvel.toml:17: slots.banner.quality: got { png = 20 }; write "light", "standard", "fine", a likeness from 80 to'),
    ('loading = "eager"', 'loading = "now"', 'plan', 'sarvel.toml:16: slots.banner.loading: got "now"; write "eager" (seen at once) or "lazy"'),
    ('sizes = "40px"', 'sizes = "40"', 'plan', 'sarvel.toml:20: slots.badge.sizes: \'40\' has no unit; write "40px"'),
    ('sizes = "40px"', 'sizes = 40', 'plan', 'sarvel.toml:20: slots.badge.sizes: got 40; write a CSS length such as "100vw", a whole sizes value, or'),
    ('sizes = "40px"', 'sizes = "40%"', 'plan', "sarvel.toml:20: slots.badge.sizes: '40%' depends on a container that is unknown when the file is chosen; write it of the viewport, in vw", 'sizes = "40vw"'),
    ('sizes = "40px"', 'sizes = "50 vw"', 'plan', "sarvel.toml:20: slots.badge.sizes: '50 vw' is more than one length; write one (letter 4 of '50 vw')", 'sizes = "50vw"'),
    ('sizes = "40px"', 'sizes = "calc(100vw-2rem)"', 'plan', "sarvel.toml:20: slots.badge.sizes: 'vw-2rem' in '100vw-2rem' is no unit known here; write one of px, em, rem, vw, vh, vmin, vmax, cm, mm, in,", 'sizes = "calc(100vw - 2rem)"'),
    ('sizes = "40px"', 'sizes = "auto"', 'plan', "sarvel.toml:20: slots.badge.sizes: 'auto' is no CSS length; write one in px, em, rem, vw, vh, vmin, vmax, cm, mm, in,"),
    ('sizes = "40px"', 'sizes = "-5px"', 'plan', "sarvel.toml:20: slots.badge.sizes: '-5px' is negative; write a width"),
    ('sizes = "40px"', 'sizes = "0px"', 'plan', 'sarvel.toml:20: slots.badge.sizes: is 0 px on every viewport; write how wide the layout shows the image'),
    ('sizes = "40px"', '', 'plan', 'sarvel.toml:19: slots.badge.sizes: is missing; write a CSS length such as "100vw", a whole sizes value, or'),
    ('sizes = "40px"', 'sizes = { phone = "40px", tablet = "50px" }', 'plan', "sarvel.toml:20: slots.badge.sizes.tablet: 'tablet' is no breakpoint; known here: phone, desktop"),
    ('sizes = "40px"', 'sizes = { desktop = "40px" }', 'plan', 'sarvel.toml:20: slots.badge.sizes: sets nothing for viewports narrower than its first breakpoint; begin with phone = …'),
    ('phone = "1:1", desktop = "2:1"', 'phone = "1x1", desktop = "2:1"', 'plan', 'sarvel.toml:15: slots.banner.crops.phone: \'1x1\' is no ratio between 1:20 and 20:1; write width:height such as "4:3", or "native"'),
    ('phone = "1:1", desktop = "2:1"', 'phone = "1:0", desktop = "2:1"', 'plan', 'sarvel.toml:15: slots.banner.crops.phone: \'1:0\' is no ratio between 1:20 and 20:1; write width:height such as "4:3", or "native"'),
    ('phone = "1:1", desktop = "2:1"', 'mobile = "1:1"', 'plan', "sarvel.toml:15: slots.banner.crops.mobile: 'mobile' is no breakpoint; known here: phone, desktop"),
    ('phone = "1:1", desktop = "2:1"', 'phone = 1.5', 'plan', 'sarvel.toml:15: slots.banner.crops.phone: got 1.5; write a ratio such as "4:3", "native", or one for each'),
    ('phone = 0', 'phone = 320', 'plan', 'sarvel.toml:6: breakpoints.phone: the narrowest breakpoint begins at 320; begin one at 0'),
    ('phone = 0', 'phone = "0px"', 'plan', 'sarvel.toml:6: breakpoints.phone: got "0px"; write where each breakpoint begins, from 0 to 100000 CSS'),
    ('desktop = 800', 'desktop = 0', 'plan', 'sarvel.toml:7: breakpoints.desktop: begins at 0, as phone does; take one of them away', 'desktop = 1'),
    ('desktop = 800', 'desktop = -1', 'plan', 'sarvel.toml:7: breakpoints.desktop: got -1; write where each breakpoint begins, from 0 to 100000 CSS'),
    ('subject = [0.2, 0.2, 0.4, 0.4]', 'subject = [200, 200, 400, 400]', 'plan', 'sarvel.toml:24: masters."gull.jpg".subject: got [200, 200, 400, 400]; write [left, top, right, bottom] in fractions from 0 to 1,'),
    ('subject = [0.2, 0.2, 0.4, 0.4]', 'subject = [0.4, 0.2, 0.2, 0.4]', 'plan', 'sarvel.toml:24: masters."gull.jpg".subject: got [0.4, 0.2, 0.2, 0.4]; write [left, top, right, bottom] in fractions from 0 to 1,'),
    ('subject = [0.2, 0.2, 0.4, 0.4]', 'subject = [0.2, 0.2, 0.4]', 'plan', 'sarvel.toml:24: masters."gull.jpg".subject: got [0.2, 0.2, 0.4]; write [left, top, right, bottom] in fractions from 0 to 1,'),
    ('subject = [0.2, 0.2, 0.4, 0.4]', 'subject = "face"', 'plan', 'sarvel.toml:24: masters."gull.jpg".subject: got "face"; write [left, top, right, bottom] in fractions from 0 to 1,', 'subject = "find"'),
    ('alt = "A gull"', 'alt = ["A gull"]', 'plan', 'sarvel.toml:23: masters."gull.jpg".alt: got [\'A gull\']; write what the picture shows, in words; "" if it is'),
    ('[masters."gull.jpg"]', '[masters.gull.jpg]', 'plan', 'sarvel.toml:22: masters.gull.jpg: a name with a point is not quoted; write [masters."gull.jpg"]'),
    ('[masters."gull.jpg"]', '[masters."gul.jpg"]', 'build', 'sarvel.toml:22: masters."gul.jpg": there is no such file in the masters folder; put it there or mend its name'),
    ('[site]', '[site]\nmasters = "mastres"', 'build', 'sarvel.toml:2: site.masters: there is no folder mastres; name the folder of the master images'),
    ('[site]', '[site]\noutput = "masters"', 'build', 'sarvel.toml:2: site.output: masters lies in the masters folder, where nothing is ever written; write another place'),
    ('[site]', '[site]\noutput = "../elsewhere"', 'build', "sarvel.toml:2: site.output: ../elsewhere lies outside of the plan's folder; write a place within it, or allow that one: outside ="),
    ('pages = ["pages"]', 'pages = ["page"]', 'build', "sarvel.toml:2: site.pages: 'page' matches no file in .; write a folder, a file or a pattern that does"),
    ('pages = ["pages"]', 'pages = "pages"', 'build', 'sarvel.toml:2: site.pages: got "pages"; write a list of folders, files or globs, such as ["pages"]'),
    ('pages = ["pages"]', 'pages = ["*.htm"]', 'build', "sarvel.toml:2: site.pages: '*.htm' matches no file in .; write a folder, a file or a pattern that does"),
    ('pages = ["pages"]', 'pages = []', 'build', 'sarvel.toml:2: site.pages: names no page, and no slot lists masters; write a list such as ["pages"]'),
    ('[site]', '[site]\naudience = "nope.csv"', 'plan', 'sarvel.toml:2: site.audience: nope.csv: cannot be read (No such file or directory); mend site.audience or the file'),
    ('[site]', '[site]\ndelivery = "cdn"', 'plan', 'sarvel.toml:2: site.delivery: got "cdn"; write "files" (all are made beforehand) or "request" (each', '[site]\ndelivery = "files"'),
    ('[site]', '[site]\nbase = "blog"', 'plan', 'sarvel.toml:2: site.base: got "blog"; write the path that the site is published below, such as', '[site]\nbase = "/blog/"'),
    ('[site]', '[site]\nwoven = "masters"', 'build', 'sarvel.toml:2: site.woven: masters lies in the masters folder, where nothing is ever written; write another place'),
    ('[site]', '[site]\ncomponent = "src/Pictures.jsx"', 'plan', 'sarvel.toml:2: site.component: got "src/Pictures.jsx"; write the file of the component that woven scripts call,', '[site]\ncomponent = "src/SarvelPicture.jsx"'),
    ('[site]', '[site]\ndialects = { ".tpl" = "smarty" }', 'plan', 'sarvel.toml:2: site.dialects.".tpl": got "smarty"; write a table of dialects by file ending, such as { ".tpl"'),
    ('[slots.badge]', '[slots."my badge"]', 'plan', 'sarvel.toml:19: slots."my badge": cannot be a name here; write letters, digits, hyphens and underscores, the first a', '[slots.my-badge]'),
    ('sizes = "40px"', 'sizes = "40px"\nselectors = ["img[src="]', 'plan', 'sarvel.toml:21: slots.badge.selectors: \'img[src=\' is not a supported selector; write one such as "img.wide", "[width=\'300\']" or ".cards'),
    ('sizes = "40px"', 'sizes = "40px"\nselectors = ".seal"', 'plan', 'sarvel.toml:21: slots.badge.selectors: got ".seal"; write a list of selectors of an img such as [".wide",', 'sizes = "40px"\nselectors = [".seal"]'),
    ('sizes = "40px"', 'sizes = "40px"\nselectors = [".seall"]', 'build', 'sarvel.toml:19: slots.badge: no image matches .seall; correct selectors, or remove it from them'),
    ('sizes = "40px"', 'sizes = "40px"\nmasters = ["seals/*.png"]', 'build', "sarvel.toml:21: slots.badge.masters: 'seals/*.png' matches no image in masters; write a pattern that does"),
    ('[slots.badge]', '[content]\n"pages" = "bannr"\n[slots.badge]', 'plan', "sarvel.toml:20: content.pages: no slot 'bannr'; did you mean 'banner'?"),
    ('[slots.badge]', '[check.allow]\nalt-mising = "pages/*"\n[slots.badge]', 'plan', "sarvel.toml:20: check.allow.alt-mising: no rule 'alt-mising'; did you mean 'alt-missing'?"),
    ('[slots.badge]', '[check]\nbudget = { "390x844" = "1 meg" }\n[slots.badge]', 'plan', 'sarvel.toml:20: check.budget.390x844: got "1 meg"; write a table of what images of a page may weigh by device,'),
]  # fmt: skip
IN_PAGE: list[tuple[str, ...]] = [
    ('src="../masters/gull.jpg"', 'src="../masters/gul.jpg"', 'build', 'pages/index.html:3:3: gul.jpg: there is no such file in the masters folder; put it there or mend its name'),
    ('src="../masters/gull.jpg"', '', 'build', 'pages/index.html:3:3: names no master; write src with the path of a file in the masters folder'),
    ('src="../masters/gull.jpg"', 'src=""', 'build', 'pages/index.html:3:3: names no master; write src with the path of a file in the masters folder'),
    ('src="../masters/gull.jpg"', 'src="{{ page.image }}"', 'build', 'pages/index.html:3:3: only the engine knows its file; write a path there, or include a partial ([partials] in the'),
    ('data-sarvel="banner"', 'data-sarvel="baner"', 'build', "pages/index.html:3:3: no slot 'baner' in the plan; did you mean banner? Else write [slots.baner] there, or"),
    ('data-sarvel="banner"', 'data-sarvel=""', 'build', 'pages/index.html:3:3: names no slot; write one in data-sarvel: banner, badge'),
    ('data-sarvel="banner"', 'data-sarvel', 'build', 'pages/index.html:3:3: names no slot; write one in data-sarvel: banner, badge'),
    (" alt='The seal'", '', 'build', 'pages/index.html:4:3: has no alt; write it here or in the plan under [masters."seal.png"],'),
    (" alt='The seal'", " alt='seal.png'", 'build', 'pages/index.html:4:3: its alt is a file name, \'seal.png\'; write it here or in the plan under [masters."seal.png"],'),
    ('class="wide">', 'class="wide"', 'build', 'pages/index.html:3:3: swallows what follows: it, or a quote in it, is not closed; close it in front of what became part of it'),
    ('class="wide">', 'class="wide>', 'build', 'pages/index.html:3:3: is cut off by the end of the file; close it, and any quote in it'),
    ('src="../masters/gull.jpg"', 'src="../masters/gull.jpg', 'build', 'pages/index.html:3:3: gull.jpg class=: there is no such file in the masters folder; put it there or mend its name'),
    ('<img data-sarvel="banner"', '<picture><source srcset="x.webp"><img data-sarvel="banner"', 'build', 'pages/index.html:3:36: is in a picture element that is not closed, or holds several; close it behind its one img'),
    ('<img data-sarvel="banner"', '<!-- <img data-sarvel="banner"', 'build', 'sarvel.toml:13: slots.banner: no image names it; write data-sarvel on an img, or remove it'),
]  # fmt: skip
CALLS = [
    ('bild', "sarvel: no command 'bild'; did you mean build?"),
    ('init', "sarvel: no command 'init'; did you mean start?"),
    ('undo', "sarvel: no command 'undo'; did you mean weave --undo?"),
    ('clean', "sarvel: no command 'clean'; did you mean build --prune?"),
    ('watch', "sarvel: no command 'watch'; did you mean build --watch?"),
    ('optimize', "sarvel: no command 'optimize'; sarvel --help lists them"),
    ('build pages/index.html', "sarvel: 'pages/index.html' is one word too many: this command takes no pages; sarvel weave and check do"),
    ('build --wacth', 'sarvel: no option --wacth; did you mean --watch?'),
    ('build --workers many', "sarvel build: argument --workers: got 'many', write a whole number from 1; sarvel build --help tells more"),
    ('build --workers 0', "sarvel build: argument --workers: got '0', write a whole number from 1; sarvel build --help tells more"),
    ('build --effort best', "sarvel build: --effort: got 'best'; write quick, normal, thorough"),
    ('pick nope.html', 'nope.html: there is no such file; mend its name'),
    ('pick', 'sarvel pick: the following arguments are required: PAGE; sarvel pick --help tells more'),
    ('pick pages/index.html --device 400', "sarvel pick: argument --device: got '400', write width x height @ density, such as 390x844@3; sarvel pick --help tells more"),
    ('pick pages/index.html --device 400x800', "sarvel pick: argument --device: got '400x800', which does not say the density; write 400x800@3 or so; sarvel pick --help tells more"),
    ('pick pages/index.html --image bannr', '--image bannr: no such image among the 2 of this page; write a number, #id, .class or a slot'),
    ('check nope.html', 'nope.html: there is no such page; mend its name'),
    ('check masters/gull.jpg', 'masters/gull.jpg: is no page; name pages, templates, stylesheets or folders of them'),
    ('check --baseline none.json', '--baseline none.json: there is no such file; write it with `sarvel check --json > FILE`'),
    ('check --baseline sarvel.toml', '--baseline sarvel.toml: holds no findings of check; write it with `sarvel check --json > FILE`'),
    ('check --explain alt-mising', "--explain alt-mising: no rule is called so; did you mean 'alt-missing'?"),
    ('check --format xml', "sarvel check: --format: got 'xml'; write text, json, sarif, lines, annotations"),
    ('check --severity grave', "sarvel check: --severity: got 'grave'; write broken, wasteful, hint"),
    ('plan bannr', "sarvel.toml: no slot 'bannr'; did you mean 'banner'?"),
    ('weave pages/nope.html', 'pages/nope.html: is no page of the plan; name it under site.pages in sarvel.toml'),
    ('weave masters/gull.jpg', 'masters/gull.jpg: is no page of the plan; name it under site.pages in sarvel.toml'),
    ('one', 'sarvel one: the following arguments are required: MASTER, --alt; sarvel one --help tells more'),
    ('one masters/gull.jpg', 'sarvel one: the following arguments are required: --alt; sarvel one --help tells more'),
    ('one nope.jpg --alt x', 'nope.jpg: there is no such file; mend its name'),
    ('one masters/gull.jpg --alt x --crop 4x3', 'command line: slots.image.crops: \'4x3\' is no ratio between 1:20 and 20:1; write width:height such as "4:3", or "native"'),
    ('one masters/gull.jpg --alt x --sizes 40', 'command line: slots.image.sizes: \'40\' has no unit; write "40px"'),
    ('one masters/gull.jpg --alt x --formats gif', 'command line: slots.image.formats.0: got "gif"; write a list of formats, best first, each once, of "jxl",'),
    ('subjects --sure 0.8', "sarvel subjects: argument --sure: got '0.8', write a percentage from 0 to 100, such as 80; sarvel subjects --help tells more"),
    ('subjects nope.jpg', "sarvel: 'nope.jpg' is one word too many; see sarvel --help"),
    ('proof nope.jpg', "sarvel: 'nope.jpg' is one word too many; see sarvel --help"),
    ('start', 'sarvel.toml: is there already and stays as it is; rename it to have another drafted'),
    ('start --way engin', "sarvel start: --way: got 'engin'; did you mean engine?"),
    ('start --at localhost:3000', 'sarvel.toml: is there already and stays as it is; rename it to have another drafted'),
    ('start --built nope', 'sarvel.toml: is there already and stays as it is; rename it to have another drafted'),
    ('confirm --built a', 'sarvel confirm: argument --built: expected 2 arguments; sarvel confirm --help tells more'),
    ('confirm --built a b', 'a: there is no such folder; build the site into it, and name it again'),
    ('survey nope', 'nope: there is no such file or folder; name one that is'),
    ('serve --port x', "sarvel serve: argument --port: got 'x', write a number from 0 to 65535; sarvel serve --help tells more"),
    ('serve --port 99999999', "sarvel serve: argument --port: got '99999999', write a number from 0 to 65535; sarvel serve --help tells more"),
    ('build --plan nope.toml', 'nope.toml: there is no such file; name the plan with --plan FILE'),
    ('build --plan pages', 'pages/sarvel.toml: there is no such file; name the plan with --plan FILE'),
    ('render --only nope.jpg', "--only nope.jpg: no slot and no master of the pages has this name; did you mean 'seal.png'?"),
    ('demo .', '.: is there already and not empty; name a new folder: sarvel demo FOLDER'),
    ('remove', 'sarvel remove: would remove files, and this is no terminal to ask on; add --yes, or --dry-run to see them'),
    ('help bild', "sarvel: no command 'bild'; did you mean build?"),
    ('--plan x', "sarvel: no command 'x'; sarvel --help lists them"),
]  # fmt: skip


@pytest.mark.parametrize(
    ("file", "row"), [*((PLAN, row) for row in IN_PLAN), *((PAGE, row) for row in IN_PAGE)], ids=str
)
def test_a_mistake_gives_a_line_that_its_cure_takes_away(
    file: str, row: tuple[str, ...], rendered: Path, sarvel: Run
) -> None:
    old, new, command, line = row[:4]
    place = rendered / file
    text = place.read_text()
    assert old in text
    place.write_text(text.replace(old, new, 1))
    done = sarvel(command)
    assert line in done.stderr, done.stderr
    assert done.returncode == 2 or command == "build"
    place.write_text(text.replace(old, row[4] if len(row) > 4 else old, 1))
    assert line not in sarvel(command).stderr


@pytest.mark.parametrize(("call", "line"), CALLS, ids=[call for call, _ in CALLS])
@pytest.mark.usefixtures("rendered")
def test_a_call_that_cannot_be_meant_gives_a_line(call: str, line: str, sarvel: Run) -> None:
    done = sarvel(*call.split())
    assert done.returncode == 2 and done.stderr.startswith(line) and not done.stdout, done.stderr
    assert len(done.stderr.splitlines()) == 1
