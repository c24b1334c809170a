"""Rules: their names, which stay, how grave they are, and what to tell of them.

Over 400 lines, for it is one table with an entry for each rule.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal, TypeAlias, get_args

Severity: TypeAlias = Literal["broken", "wasteful", "hint"]
"""broken: a wrong image or none; wasteful: too many bytes, waiting or softness; hint: possibly intended."""

SEVERITIES: tuple[Severity, ...] = get_args(Severity)


@dataclass(frozen=True)
class Rule:
    """A rule for image markup.

    Attributes:
        name: what messages, allow-lists and other programs call it.
        severity: how grave it is to break it.
        why: why it matters, in a sentence or two.
        mend: what to do.
    """

    name: str
    severity: Severity
    why: str
    mend: str


@dataclass(frozen=True)
class Finding:
    """A place where a rule is broken.

    Attributes:
        rule: its name.
        start: where the markup at fault begins, in the page.
        end: just behind it.
        says: what is wrong, in a sentence.
    """

    rule: str
    start: int
    end: int
    says: str


_RULES = (
    Rule(
        "source-never-chosen",
        "broken",
        "Browsers take the first source that fits, so this one is dead: its crop or its format is never seen.",
        "Put it before the sources that cover it, widest min-width or narrowest max-width first; or take it away.",
    ),
    Rule(
        "sources-out-of-order",
        "broken",
        "Browsers that know the format of an earlier source take it here, too, though it was made for other viewports.",
        "Put sources in order of their media first, and of their formats within each.",
    ),
    Rule(
        "gap-between-sources",
        "broken",
        "Viewports between two sources, or beyond the last, fall back to the img, which is made for others: the "
        "largest screens may get the smallest file.",
        "Let the ranges meet: write them all with min-width, widest first, and leave the rest to the img.",
    ),
    Rule(
        "ranges-overlap-by-a-pixel",
        "hint",
        "At exactly this width two sources hold, and the first wins; the second was meant to begin there.",
        "End one range a hundredth of a pixel before the other begins, or write both with min-width.",
    ),
    Rule(
        "picture-without-img",
        "broken",
        "A picture shows nothing by itself; the img in it does.",
        "Put an img behind the sources.",
    ),
    Rule("img-not-last", "broken", "Sources behind the img are not looked at.", "Put the img behind all sources."),
    Rule(
        "source-outside-picture",
        "broken",
        "Only a source that is a child of a picture counts for an image.",
        "Put it and its img into a picture, directly.",
    ),
    Rule(
        "src-on-source",
        "broken",
        "In a picture, browsers look at a source's srcset and never at its src.",
        "Rename the attribute to srcset.",
    ),
    Rule(
        "attribute-on-picture",
        "broken",
        "A picture itself has no file and no condition; its sources and its img have.",
        "Move the attribute to a source or to the img.",
    ),
    Rule(
        "several-images",
        "broken",
        "The sources of a picture count for one img; each further one shows its own src on every device.",
        "Give each img a picture of its own.",
    ),
    Rule(
        "img-not-a-child",
        "broken",
        "Sources count only for an img that is a child of the picture itself; here they are dead.",
        "Put the other element around the picture, or take it away.",
    ),
    Rule(
        "attribute-twice",
        "broken",
        "Browsers take the first and drop the others without a word.",
        "Keep the one that is meant.",
    ),
    Rule(
        "attribute-misspelt",
        "broken",
        "Browsers pass over attributes that they do not know.",
        "Write the name as HTML has it.",
    ),
    Rule(
        "value-unknown",
        "broken",
        "Browsers take the default in the place of a value that they do not know.",
        "Write a value that HTML has.",
    ),
    Rule(
        "type-unknown",
        "broken",
        "Browsers pass over a source whose type they do not know.",
        "Write the media type as it is registered.",
    ),
    Rule(
        "type-not-said",
        "broken",
        "Browsers that cannot show the format take this source all the same, and show nothing.",
        'Say it: type="image/avif".',
    ),
    Rule(
        "lighter-format-behind",
        "wasteful",
        "The first source whose format is known is taken, so the lighter file behind it is never fetched.",
        "Put sources in order of format, AVIF before WebP.",
    ),
    Rule(
        "fallback-few-know",
        "hint",
        "The src of an img is for browsers that know nothing newer.",
        "Offer this file in a source with its type, and let src name a JPEG, PNG or WebP.",
    ),
    Rule(
        "address-missing",
        "broken",
        "Without an address an img shows nothing where no candidate or source serves.",
        "Write src with the file for all who take no other.",
    ),
    Rule(
        "dimension-no-number",
        "hint",
        "The attributes are CSS pixels without unit; of anything else browsers read the digits in front, or nothing.",
        "Write the number alone, and lengths in CSS.",
    ),
    Rule(
        "entry-never-counts",
        "broken",
        "The first entry of sizes whose condition holds counts, so this one is dead.",
        "Put entries in order: widest min-width or narrowest max-width first, and the one without condition last.",
    ),
    Rule(
        "sizes-end-open",
        "hint",
        "Where no condition holds, browsers take 100vw.",
        "End sizes with an entry without condition.",
    ),
    Rule(
        "auto-not-lazy",
        "wasteful",
        "Browsers know auto only of lazy images: of any other it counts as 100vw.",
        'Write how wide it is shown, or loading="lazy" if it is far down the page.',
    ),
    Rule(
        "lazy-and-urgent",
        "wasteful",
        "A lazy image is not fetched before it is nearly in view, however urgent.",
        "Take one of the two away.",
    ),
    Rule(
        "address-of-one-machine",
        "broken",
        "On any other machine than its author's there is no such file.",
        "Write an address within the site.",
    ),
    Rule(
        "preload-without-as",
        "wasteful",
        "Browsers do not preload what they do not know the kind of, or fetch it twice.",
        'Write as="image".',
    ),
    Rule(
        "preload-fetched-apart",
        "wasteful",
        "A preload with crossorigin and an image without, or the other way round, are two fetches of one file.",
        "Give both the same crossorigin.",
    ),
    Rule(
        "preload-of-a-lazy-image",
        "wasteful",
        "The preload fetches at once what is told to wait.",
        "Take the preload or the laziness away.",
    ),
    Rule(
        "widths-without-sizes",
        "wasteful",
        "Without sizes a browser takes the image to be as wide as the viewport, lazy or not, and fetches too much for a "
        "narrower one.",
        'Write sizes with the width that the layout shows, such as sizes="(min-width: 1024px) 384px, 100vw".',
    ),
    Rule(
        "sizes-without-widths",
        "hint",
        "sizes says nothing to candidates with density descriptors, or with none.",
        "Give candidates width descriptors, such as 640w; or take sizes away.",
    ),
    Rule(
        "widths-and-densities-mixed",
        "broken",
        "A list is read by widths or by densities; a mixture is read in a way that nobody means.",
        "Use width descriptors for all, and sizes; or density descriptors for all.",
    ),
    Rule(
        "candidate-dropped",
        "broken",
        "Browsers drop a faulty candidate without a word, and choose among the rest.",
        "Write URL, space, descriptor, with commas between: 'a.jpg 640w, b.jpg 1280w'; escape spaces as %20.",
    ),
    Rule(
        "address-not-escaped",
        "broken",
        "In a srcset a space ends the address, and a comma before a space ends the candidate: browsers fetch something else, "
        "or nothing. In a src browsers mend a space, other programs do not.",
        "Write %20 for a space and %2C for a comma.",
    ),
    Rule(
        "length-dropped",
        "broken",
        "Browsers drop a faulty entry of sizes without a word, and take the next, or the whole viewport's width.",
        "Write a condition and a CSS length, no percentage: '(min-width: 1024px) 384px'; the last without condition.",
    ),
    Rule(
        "descriptors-alike",
        "broken",
        "Of two candidates with one descriptor the second is never chosen.",
        "Give each the width of its own file.",
    ),
    Rule(
        "alt-missing",
        "broken",
        "Who cannot see the image is read its file name, or nothing.",
        'Say in alt what it shows; alt="" if it is decoration.',
    ),
    Rule(
        "alt-is-a-file-name",
        "broken",
        "Who cannot see the image is read a file name.",
        'Say in alt what it shows; alt="" if it is decoration.',
    ),
    Rule(
        "link-without-words",
        "broken",
        "Readers hear the address of the link, for nothing in it has words.",
        "Say in the alt of the img where the link leads.",
    ),
    Rule(
        "decoration-with-words",
        "hint",
        "It is hidden from who cannot see it, and yet has words for them.",
        'Take role or aria-hidden away, or write alt="".',
    ),
    Rule(
        "size-not-said",
        "wasteful",
        "Nothing says the shape of the image, so the page jumps when it arrives.",
        'Write style="aspect-ratio: auto 3/2" with its own ratio; or width and height, and img { height: auto } in a stylesheet.',
    ),
    Rule(
        "height-stays",
        "broken",
        "width and height are a size as well as a ratio: a rule changes the width alone, so the image is squeezed.",
        'img { height: auto } in a stylesheet; or a ratio in place of the attributes, style="aspect-ratio: auto 3/2".',
    ),
    Rule(
        "sizes-beyond-the-files",
        "wasteful",
        "An image is by nature as wide as sizes says, and no rule sets its width: it is stretched beyond its own pixels.",
        "Let sizes say no more than the widest file has: min(100vw, 660px); or set a width in a stylesheet.",
    ),
    Rule(
        "auto-without-width",
        "broken",
        "With auto in sizes browsers lay a lazy image out as if it were 300 px by 150, wherever nothing else says its size.",
        "Set its width in a stylesheet and its ratio in the markup; or take auto away.",
    ),
    Rule(
        "first-image-lazy",
        "wasteful",
        "The first image is mostly in view at once; lazy, it waits for the layout.",
        "Take loading away from it, and lazy from it alone.",
    ),
    Rule(
        "late-image-eager",
        "wasteful",
        "An image far down the page competes with those in view.",
        'Write loading="lazy".',
    ),
    Rule(
        "many-urgent-images",
        "wasteful",
        "Where everything is urgent nothing is.",
        'Leave fetchpriority="high" to the one largest image in view at once.',
    ),
    Rule(
        "fetched-without-encryption",
        "broken",
        "On a page served by https, browsers block an image fetched by http, or rewrite its address.",
        "Write https://, or an address without a scheme.",
    ),
    Rule(
        "no-viewport-meta",
        "broken",
        "Without it phones lay the page out some 980 px wide and shrink it: every media condition and sizes is off.",
        '<meta name="viewport" content="width=device-width, initial-scale=1"> in the head.',
    ),
    Rule(
        "file-missing",
        "broken",
        "A browser that chooses it shows a broken image.",
        "Mend the name, or put the file there.",
    ),
    Rule(
        "ending-wrong",
        "broken",
        "A browser that chooses it shows a broken image; a file of this name is there, with another ending.",
        "Write the ending that the file has.",
    ),
    Rule(
        "ending-not-the-files",
        "hint",
        "Web servers tell the type of a file by its ending; programs that believe it fail.",
        "Name the file after what it is.",
    ),
    Rule(
        "letter-case-differs",
        "broken",
        "It is found on this system, and not on a web server that tells letter case apart.",
        "Write the name as the file has it.",
    ),
    Rule(
        "width-not-the-files",
        "broken",
        "Browsers believe the descriptor: they choose by it and lay the image out by it.",
        "Write the file's own width.",
    ),
    Rule(
        "type-not-the-files",
        "broken",
        "A browser that does not know the type passes over a file that it could show; another fetches one that it cannot.",
        "Write the type of what the file is.",
    ),
    Rule(
        "shapes-differ",
        "broken",
        "All candidates of one list must show the same picture; a differing ratio is another crop hidden in it, or a mistake.",
        "Give another crop a source of its own, with media; or make the file anew.",
    ),
    Rule(
        "size-of-another-shape",
        "wasteful",
        "width and height reserve the wrong space, so that the page jumps or the image is squeezed.",
        "Write width and height in the ratio of the file.",
    ),
    Rule(
        "no-modern-format",
        "wasteful",
        "AVIF and WebP take half of what JPEG and PNG do.",
        "Offer AVIF and WebP in a picture; sarvel does.",
    ),
    Rule(
        "one-huge-file",
        "wasteful",
        "Every device fetches far more pixels than it can show.",
        "Offer narrower files in srcset; sarvel does.",
    ),
    Rule(
        "image-soft",
        "wasteful",
        "Many visitors see fewer pixels than their screens have, and a soft image.",
        "Add wider files to srcset, up to twice the widest shown width; or say in sizes how wide it really is.",
    ),
    Rule(
        "image-wasteful",
        "wasteful",
        "Many visitors fetch pixels that they never see, which costs them time and data.",
        "Add narrower files to srcset, and say in sizes how wide the image is shown.",
    ),
    Rule(
        "sizes-contradict-the-slot",
        "broken",
        "Browsers choose by sizes; the plan says that the layout shows another width.",
        "Weave the page again, or mend shown in the plan.",
    ),
    Rule(
        "shape-not-said",
        "wasteful",
        "Until the file is there the page keeps room of the img's shape, and what stands below jumps.",
        "Write width and height of its files at the source, too.",
    ),
    Rule(
        "sizes-contradict-the-style",
        "wasteful",
        "Browsers choose by sizes; a stylesheet shows the image at another width.",
        "Write in sizes the width that the rule gives.",
    ),
    Rule(
        "preload-not-used",
        "wasteful",
        "The browser fetches the image of the link, and then another one for the page.",
        "Give the link the media, imagesrcset, imagesizes and type of the source that is chosen there.",
    ),
    Rule(
        "background-of-one-file",
        "wasteful",
        "Phones fetch the background that was made for desktops.",
        "Offer densities with image-set(), and other files in media rules; sarvel does for slots that are behind.",
    ),
    Rule(
        "image-cannot-shrink",
        "broken",
        "On viewports narrower than the image it is cut off, or the page scrolls sideways.",
        "img { max-width: 100%; height: auto; } in a stylesheet.",
    ),
    Rule(
        "not-woven",
        "hint",
        "Browsers fetch the master, as large as it is; its markup is judged once it is woven.",
        "Run sarvel weave, and check the woven page.",
    ),
    Rule(
        "over-budget",
        "broken",
        "The page weighs more than the plan allows it on this device.",
        "Show fewer or smaller images, take a lighter finish, or raise the budget in [check].",
    ),
    Rule(
        "layout-changed-since",
        "hint",
        "The widths in the plan were measured on another state of this page or its stylesheets.",
        "Run sarvel measure; with --save it writes what has changed.",
    ),
    Rule(
        "allows-no-rule",
        "hint",
        "A name that is no rule's allows nothing.",
        "Write a rule's name as sarvel check tells it.",
    ),
)

RULES: Mapping[str, Rule] = {rule.name: rule for rule in _RULES}
"""All rules, by name."""
