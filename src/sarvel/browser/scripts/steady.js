// Waits until a page is all there, or for as many ms as the first argument says. Animations and transitions would show boxes
// on their way, so they end; late images count as those seen at once, so that all are there.
const [most, done] = arguments;
const still = document.createElement("style");
still.textContent = "*,*::before,*::after{animation:none!important;transition:none!important;scroll-behavior:auto!important}";
(document.head || document.documentElement).appendChild(still);
const comes = (target, ...names) => new Promise((end) => names.forEach((name) => target.addEventListener(name, end)));
for (const image of document.images) image.loading = "eager";
const loaded = [...document.images].map((image) => image.complete || comes(image, "load", "error"));
const all = [...loaded, document.fonts && document.fonts.ready, document.readyState === "complete" || comes(window, "load")];
Promise.race([Promise.all(all), new Promise((end) => setTimeout(end, most))]).then(() => {
  scrollTo(0, 0);
  setTimeout(done, 50);
});
