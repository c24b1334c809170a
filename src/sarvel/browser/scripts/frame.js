// Leaves nothing of this page but a frame of some width and height, in which another one of its site is opened; it cannot lead away.
const [address, width, height, done] = arguments;
const frame = document.createElement("iframe");
frame.setAttribute("sandbox", "allow-scripts allow-same-origin allow-forms");
frame.style.cssText = `display: block; border: 0; width: ${width}px; height: ${height}px`;
frame.addEventListener("load", () => done(Boolean(frame.contentDocument && frame.contentWindow.location.href === address)), { once: true });
document.documentElement.innerHTML = "<body style='margin: 0'></body>";
frame.src = address;
document.body.append(frame);
