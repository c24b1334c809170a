// Waits until a page is all there, or for as many ms as the first argument says. The second says which images: "all", late ones
// hurried; "scrolled", those that come as a reader scrolls down; "first", those of the first screen. Animations and transitions
// would show boxes on their way, so they end.
const [most, which, done] = arguments;
const still = document.createElement("style");
still.textContent = "*,*::before,*::after{animation:none!important;transition:none!important;scroll-behavior:auto!important}";
(document.head || document.documentElement).appendChild(still);

const comes = (target, ...names) => new Promise((end) => names.forEach((name) => target.addEventListener(name, end, { once: true })));
const later = window.sarvelLater || setTimeout;
const passes = (ms) => new Promise((end) => later(end, ms));
const frame = () => new Promise(requestAnimationFrame);

function awaited(image) {
  if (image.complete) return false;
  const box = image.getBoundingClientRect();
  if (which === "first") return box.width > 0 && box.top < innerHeight && box.bottom > 0;
  return image.loading !== "lazy" || image.getClientRects().length > 0;
}

async function all() {
  if (document.readyState === "loading") await comes(document, "DOMContentLoaded");
  if (which === "all") for (const image of document.images) image.loading = "eager";
  if (which !== "first" && document.readyState !== "complete") await comes(window, "load");
  if (document.fonts) await document.fonts.ready;
  window.sarvelFirstShift = window.sarvelShift; // what shifts while we hurry down is nobody's
  if (which === "scrolled") {
    for (let y = 0; y < document.documentElement.scrollHeight; y += innerHeight) {
      scrollTo(0, y);
      await frame(); // what comes into sight is told at the end of each frame (Intersection Observer, section 3.4)
    }
  }
  await Promise.all([...document.images].filter(awaited).map((image) => comes(image, "load", "error")));
}

Promise.race([all(), passes(most)]).then(async () => {
  scrollTo(0, 0);
  await passes(50);
  await frame();
  await frame();
  await passes(50);
  done();
});
