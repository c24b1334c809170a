// Clicks small images, as a visitor of a gallery does, and tells of which images a script has set src by then, by place in `state.js`.
// No link is followed. The first argument says how many to click.
const [most, done] = arguments;
const stays = (event) => event.preventDefault();
addEventListener("click", stays, true);
const small = [...document.images].filter((image) => image.getClientRects().length && image.closest("a, button, li, [onclick], [role]"));
for (const image of small.slice(0, most)) image.click();
requestAnimationFrame(() => requestAnimationFrame(() => {
  removeEventListener("click", stays, true);
  done([...(window.sarvelSet || [])].map((image) => image.sarvelPlace).filter((place) => place !== undefined));
}));
