"use strict";
(() => {
  // Tells the server how large the window is, once the page is there and whenever that changes, and reloads the page at each build.
  const { path, token } = document.currentScript.dataset;
  let told = "";
  const tell = first => {
    const window_ = { path, token, width: innerWidth, height: innerHeight, density: devicePixelRatio, first };
    const text = JSON.stringify(window_);
    if (text === told) return;
    told = text;
    navigator.sendBeacon("/.sarvel/seen", text);
  };
  let waiting;
  addEventListener("resize", () => { clearTimeout(waiting); waiting = setTimeout(tell, 100, false); });
  addEventListener("load", () => setTimeout(tell, 50, true));
  new EventSource("/.sarvel/changes").addEventListener("built", () => location.reload());
})();
