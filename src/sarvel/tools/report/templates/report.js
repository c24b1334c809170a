"use strict";
(() => {
  const all = (selector, root = document) => [...root.querySelectorAll(selector)];
  const make = (name, text, attributes = {}) => {
    const element = Object.assign(document.createElement(name), attributes);
    if (text !== undefined) element.textContent = text;
    return element;
  };
  document.documentElement.classList.add("js");

  // The index: filtered by words, sorted by any column.
  const index = document.getElementById("index");
  const filter = document.getElementById("filter");
  const rows = index ? all("tbody tr", index) : [];
  const count = document.getElementById("count");
  if (filter) {
    filter.addEventListener("input", () => {
      const words = filter.value.toLowerCase().split(/\s+/).filter(Boolean);
      let left = 0;
      for (const row of rows) {
        const fits = words.every(word => row.textContent.toLowerCase().includes(word));
        row.hidden = !fits;
        left += fits;
        const part = row.dataset.part && document.getElementById(row.dataset.part);
        if (part) part.hidden = !fits;
      }
      count.textContent = `${left} of ${rows.length}`;
    });
    all("thead th", index).forEach((head, column) => {
      const button = make("button", head.textContent, { type: "button" });
      head.replaceChildren(button);
      button.addEventListener("click", () => {
        const down = head.getAttribute("aria-sort") !== "descending";
        all("thead th", index).forEach(other => other.removeAttribute("aria-sort"));
        head.setAttribute("aria-sort", down ? "descending" : "ascending");
        const value = row => row.cells[column].dataset.value ?? row.cells[column].textContent.trim();
        const sign = down ? -1 : 1;
        rows.sort((a, b) => sign * (value(a) - value(b) || String(value(a)).localeCompare(String(value(b)))));
        index.tBodies[0].append(...rows);
      });
    });
  }

  // Comparisons: two makings above each other, with a handle; without script they stand side by side.
  for (const place of all(".compare")) {
    const views = all("figure[data-view]", place);
    if (views.length < 2) continue;
    const width = Number(place.dataset.width) / (window.devicePixelRatio || 1);
    place.style.setProperty("--w", `${width}px`);
    const [master, ...others] = views;
    const over = make("div", undefined, { className: "over" });
    const lower = master.querySelector("img").cloneNode();
    const upper = others[0].querySelector("img").cloneNode();
    upper.className = "upper";
    over.append(lower, upper);
    const handle = make("div", undefined, { className: "handle" });
    const range = make("input", undefined, { type: "range", min: 0, max: 100, value: 50 });
    range.setAttribute("aria-label", `master to the left, ${others[0].dataset.view} to the right`);
    const move = () => over.style.setProperty("--at", `${range.value}%`);
    range.addEventListener("input", move);
    const drag = event => {
      const box = over.getBoundingClientRect();
      range.value = (100 * (event.clientX - box.left)) / box.width;
      move();
    };
    over.addEventListener("pointerdown", event => { over.setPointerCapture(event.pointerId); drag(event); });
    over.addEventListener("pointermove", event => { if (event.buttons) drag(event); });
    const choose = (label, start, image) => {
      const select = make("select");
      views.forEach((view, i) => select.append(make("option", view.dataset.view, { value: i, selected: i === start })));
      select.addEventListener("change", () => { image.src = views[select.value].querySelector("img").src; image.alt = views[select.value].dataset.view; });
      const around = make("label", `${label} `);
      around.append(select);
      return around;
    };
    handle.append(range, choose("left", 0, lower), choose("right", 1, upper));
    const figure = make("figure");
    figure.append(over, handle);
    views.forEach(view => { view.hidden = true; });
    place.prepend(figure);
  }

  // Markup, to copy.
  for (const button of all("button.copy")) {
    button.addEventListener("click", async () => {
      const text = document.getElementById(button.dataset.of).textContent;
      try {
        await navigator.clipboard.writeText(text);
        button.textContent = "Copied";
      } catch {
        getSelection().selectAllChildren(document.getElementById(button.dataset.of));
        button.textContent = "Selected: press Ctrl+C";
      }
    });
  }

  // Devices: those of the tables, or any that is typed.
  const chooser = document.getElementById("device");
  if (!chooser) return;
  const typed = document.getElementById("typed");
  const answer = document.getElementById("answer");
  const site = JSON.parse(document.getElementById("data").textContent);
  const weight = bytes => (bytes >= 999500 ? `${(bytes / 1e6).toFixed(1)} MB` : bytes >= 9950 ? `${Math.round(bytes / 1000)} kB` : `${(bytes / 1000).toFixed(1)} kB`);
  const shownOn = (points, width) => {
    if (width <= points[0][0]) return points[0][1];
    for (let i = 1; i < points.length; i++) {
      const [x, y] = points[i - 1], [to, end] = points[i];
      if (width <= to) return y + ((end - y) * (width - x)) / (to - x);
    }
    return points[points.length - 1][1];
  };
  const fetched = (picture, width, density) => {
    const crop = picture.crops.find(one => one.viewports.some(([start, end]) => width >= start && (end === null || width < end))) ?? picture.crops[picture.crops.length - 1];
    const shown = shownOn(picture.shown, width) || 1;
    const enough = crop.files.filter(file => file.width / shown >= density);
    const file = enough.length ? enough.reduce((a, b) => (b.width < a.width ? b : a)) : crop.files.reduce((a, b) => (b.width > a.width ? b : a));
    const needed = Math.max(1, Math.ceil(shown * Math.min(density, picture.densest) - 1e-6));
    const share = file.width / needed;
    const verdict = share < 0.995 ? `soft by ${Math.round(100 * (1 - share))}%` : share > 1.05 ? `${Math.round(100 * (share - 1))}% too wide` : "sharp";
    return { crop: crop.name, file, needed, verdict };
  };
  const tell = () => {
    const found = /^\s*(\d{2,5})\s*[x×]\s*(\d{2,5})(?:\s*@\s*(\d+(?:\.\d+)?))?\s*$/i.exec(typed.value);
    answer.replaceChildren();
    typed.setAttribute("aria-invalid", String(!found));
    if (!found) { answer.append(make("p", "Write a device as width, height and density: 390x844@3.")); return; }
    const width = Number(found[1]), density = Number(found[3] ?? 1);
    for (const [page, keys] of Object.entries(site.pages)) {
      const names = new Map();
      const table = make("table");
      const head = make("tr");
      ["picture", "crop", "file", "px", "needs", "bytes", "fit"].forEach((text, i) => head.append(make("th", text, { className: i > 2 && i < 6 ? "n" : "", scope: "col" })));
      const body = make("tbody");
      for (const key of keys) {
        const one = fetched(site.pictures[key], width, density);
        names.set(one.file.name, one.file.bytes);
        const row = make("tr");
        [key, one.crop || site.only, one.file.name, one.file.width, one.needed, weight(one.file.bytes), one.verdict].forEach((text, i) => row.append(make("td", text, { className: i > 2 && i < 6 ? "n" : "" })));
        body.append(row);
      }
      const total = [...names.values()].reduce((a, b) => a + b, 0);
      const thead = make("thead");
      thead.append(head);
      table.append(make("caption", `${page}: ${weight(total)} on ${found[0].trim()}`), thead, body);
      const around = make("div", undefined, { className: "scroll", tabIndex: 0, role: "group", ariaLabel: `Images of ${page} on ${found[0].trim()}` });
      around.append(table);
      answer.append(around);
    }
  };
  chooser.addEventListener("change", () => { typed.value = chooser.value; tell(); });
  typed.addEventListener("input", tell);
  tell();
})();
