// Runs before anything of a page: counts layout shift (Layout Instability, section 2.3).
new PerformanceObserver((list) => {
  for (const entry of list.getEntries()) if (!entry.hadRecentInput) window.sarvelShift = (window.sarvelShift || 0) + entry.value;
}).observe({ type: "layout-shift", buffered: true });
// Remembers images whose src is set while they are shown, which does nothing if they have a srcset.
window.sarvelSet = new Set();
function setting(image, value) {
  if (image.tagName === "IMG" && image.isConnected && image.getAttribute("src") !== String(value)) window.sarvelSet.add(image);
}
const src = Object.getOwnPropertyDescriptor(HTMLImageElement.prototype, "src");
Object.defineProperty(HTMLImageElement.prototype, "src", {
  ...src,
  set(value) {
    setting(this, value);
    src.set.call(this, value);
  },
});
const setAttribute = Element.prototype.setAttribute;
Element.prototype.setAttribute = function (name, value) {
  if (String(name).toLowerCase() === "src") setting(this, value);
  setAttribute.call(this, name, value);
};
