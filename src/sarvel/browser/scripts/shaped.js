// Puts other files into some of a page's images, and waits for them: pairs of an image's place among `document.images` and an address.
const [wanted, done] = arguments;
const images = [...document.images];
Promise.all(wanted.map(([place, address]) => {
  const image = images[place];
  if (!image) return null;
  for (const source of image.closest("picture")?.querySelectorAll("source") ?? []) source.remove();
  for (const name of ["srcset", "sizes", "loading"]) image.removeAttribute(name);
  image.src = address;
  return image.decode().catch(() => null);
})).then(() => requestAnimationFrame(() => done()));
