// Numbers all images of a page under the attribute that is named; returns the file and the classes of each.
const [place] = arguments;
return [...document.images].map((image, number) => {
  image.setAttribute(place, number);
  return [image.currentSrc || image.src, image.getAttribute("class") || ""];
});
