// The boxes of elements that have the attribute named first, in the order of `browser/look.py`, on each viewport of a list: the page's
// frame takes its size. In a page without a frame the list holds null, for the viewport that it has. With a second argument that is
// true, what is hidden is shown for the moment of the look. The third is how many frames of the screen to wait before each look.
const [place, unhides, frames, viewports, done] = arguments;
const passes = (left, end) => (left ? requestAnimationFrame(() => passes(left - 1, end)) : end());
(async () => {
  const looks = [];
  for (const viewport of viewports) {
    if (viewport) [frameElement.style.width, frameElement.style.height] = viewport.map((px) => `${px}px`);
    if (frames) await new Promise((end) => passes(frames, end));
    looks.push(seen());
  }
  done(looks);
})();

function seen() {
  const px = (text) => parseFloat(text) || 0;
  const marked = [...document.querySelectorAll(`[${place}]`)];

  const opened = [];
  for (const element of unhides ? marked : []) {
    for (let at = element; at && at !== document.documentElement; at = at.parentElement) {
      if (getComputedStyle(at).display !== "none") continue;
      opened.push([at, at.getAttribute("style")]);
      at.style.setProperty("display", at.tagName === "DIALOG" ? "block" : "revert", "important");
      if (getComputedStyle(at).display === "none") at.style.setProperty("display", "block", "important");
    }
  }

  // The used size is taken from the style: transforms, by which carousels turn, do not change it.
  function size(css, box, isImage) {
    const edges = [["Left", "Right"], ["Top", "Bottom"]];
    return [css.width, css.height].map((text, i) => {
      const sum = (kind, end) => edges[i].reduce((all, side) => all + px(css[kind + side + end]), 0);
      const border = sum("border", "Width"), padding = sum("padding", "");
      const said = parseFloat(text);
      if (isNaN(said) || text.endsWith("%")) return (i ? box.height : box.width) - border - (isImage ? padding : 0);
      const content = said - (css.boxSizing === "border-box" ? border + padding : 0);
      return isImage ? content : content + padding;
    });
  }

  function share(box) {
    const high = Math.min(box.bottom, innerHeight) - Math.max(box.top, 0);
    const wide = Math.min(box.right, innerWidth) - Math.max(box.left, 0);
    return high > 0 && wide > 0 ? (high * wide) / (innerWidth * innerHeight) : 0;
  }

  const found = marked.map((element) => {
    const css = getComputedStyle(element), box = element.getBoundingClientRect(), isImage = element.tagName === "IMG";
    const [width, height] = size(css, box, isImage);
    const isThere = element.getClientRects().length > 0 && width > 0;
    return [
      Number(element.getAttribute(place)), width, height, isThere, isThere && css.visibility === "visible" ? share(box) : 0,
      isImage ? css.objectFit : css.backgroundSize, isImage ? css.objectPosition : css.backgroundPosition,
      element.naturalWidth || 0, element.naturalHeight || 0, isImage && Boolean(element.srcset || element.closest("picture")),
    ];
  });
  for (const [at, style] of opened.reverse()) style === null ? at.removeAttribute("style") : at.setAttribute("style", style);
  return found;
}
