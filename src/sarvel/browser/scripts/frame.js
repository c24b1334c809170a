// Leaves nothing of this page but a frame of some width and height, opens another page of its site in it, and tells whether that page
// is there. The frame's page cannot lead away.
const [address, width, height, done] = arguments;
const frame = document.createElement("iframe");
frame.setAttribute("sandbox", "allow-scripts allow-same-origin allow-forms");
frame.style.cssText = `display: block; border: 0; width: ${width}px; height: ${height}px`;
function isThere() {
  try {
    return frame.contentWindow.location.href === address;
  } catch (_) {
    return false; // its server lets no other page frame it
  }
}
frame.addEventListener("load", () => done(isThere()), { once: true });
frame.src = address;
document.documentElement.innerHTML = "<body style='margin: 0'></body>";
document.body.append(frame);
