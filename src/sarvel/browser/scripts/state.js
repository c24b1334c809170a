// What stands where on a page, in the order of `browser/page_state.py`. What Sarvel writes around an image is passed over, so that a
// page before and after weaving has the same elements.
const round = (number) => Math.round(number * 100) / 100;
const skipped = "picture, picture > source, p[data-woven], script, style, link, meta, template, noscript, svg *";

function label(element) {
  const name = element.tagName.toLowerCase();
  return name + (element.id ? `#${element.id}` : element.classList.length ? `.${element.classList[0]}` : "");
}

// CSS px, without padding and transforms; 0 for an image without a box, or with one that shows another part of it than all.
function contentWidth(image) {
  const style = getComputedStyle(image);
  if (!image.getClientRects().length || style.objectFit !== "fill") return 0;
  return image.clientWidth - parseFloat(style.paddingLeft) - parseFloat(style.paddingRight);
}

const elements = [...document.body.querySelectorAll("*")].filter((element) => !element.matches(skipped)).slice(0, 8000);
const boxes = elements.map((element) => {
  const box = element.getBoundingClientRect();
  return [label(element), round(box.x), round(box.y + scrollY), round(box.width), round(box.height)];
});
const images = [...document.images].map((image, place) => {
  image.sarvelPlace = place;
  const src = image.getAttribute("src") || "";
  const lists = [...(image.parentElement.matches("picture") ? image.parentElement.children : [image])].map((one) => one.srcset).join();
  return [elements.indexOf(image), src, image.currentSrc, image.naturalWidth, contentWidth(image), lists];
});

// When the largest image of the first screen was all there, ms after the page was asked for.
function largest() {
  const area = (image) => {
    const box = image.getBoundingClientRect();
    const high = Math.min(box.bottom, innerHeight) - Math.max(box.top, 0), wide = Math.min(box.right, innerWidth) - Math.max(box.left, 0);
    return image.naturalWidth && high > 0 && wide > 0 ? high * wide : 0;
  };
  const [first] = [...document.images].filter(area).sort((one, other) => area(other) - area(one));
  const came = first && performance.getEntriesByName(first.currentSrc)[0];
  return came ? came.responseEnd : null;
}

return [document.documentElement.scrollHeight, boxes, images, window.sarvelFirstShift || 0, largest()];
