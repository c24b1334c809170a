// Runs before anything of a page: what it would do by itself after a while, such as turning a carousel, it does not, so that two looks
// at it see the same. Our own scripts wait by what is kept here.
(() => {
  const longest = 1500; // ms
  window.sarvelLater = window.setTimeout.bind(window);
  for (const name of ["setTimeout", "setInterval"]) {
    const own = window[name].bind(window);
    window[name] = (what, delay, ...more) => (delay >= longest ? 0 : own(what, delay, ...more));
  }
})();
