// What the page of subjects does. `masters`, `kept`, NAME and STORED stand before it.

const WHOLE = [0, 0, 1, 1], HAIR = 1e-9, LOST_ABOVE = 1 / 3, LOST = 0.001;
const STEP = 0.01, LEAST = 0.02, START = [0.3, 0.3, 0.7, 0.7]; // fractions of a master
const HIGH = 170, WIDE = 300; // CSS px of a crop, at most
const field = (id) => document.getElementById(id);
const board = field("board");

// ---- Placing crops: core/crop/place.py, with boxes as [left, top, right, bottom]

const around = (a, b) => [Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.max(a[2], b[2]), Math.max(a[3], b[3])];
const share = (from, to, first, last) =>
  first === last ? Number(from <= first && first <= to) : Math.max(0, Math.min(to, last) - Math.max(from, first)) / (last - first);
const keeps = (crop, box) => share(crop[0], crop[2], box[0], box[2]) * share(crop[1], crop[3], box[1], box[3]);

function slide(whole, part, centre, lean, start, end) {
  const begin = Math.min(Math.max(centre - lean * part, 0), whole - part);
  const least = Math.min(end - part, start), most = Math.max(end - part, start);
  return most >= 0 ? Math.min(Math.max(begin, least), most, whole - part) : 0;
}

function place(width, height, ratio, subjects, zoom, lean) {
  const px = subjects.map((box) => [box[0] * width, box[1] * height, box[2] * width, box[3] * height]);
  const wide = (box) => box[2] - box[0], high = (box) => box[3] - box[1];
  const largest = [Math.min(width, height * ratio), Math.min(height, width / ratio)];
  const room = (box) => Math.min(wide(box) ? largest[0] / wide(box) : Infinity, high(box) ? largest[1] / high(box) : Infinity);
  const first = px[0], every = px.reduce(around), wanted = room(every) >= 1 - HAIR ? every : first;
  const closer = Math.max(1, Math.min(zoom, room(wanted)));
  const across = largest[0] / closer, down = largest[1] / closer;
  let left = slide(width, across, (first[0] + first[2]) / 2, lean[0], wanted[0], wanted[2]);
  let top = slide(height, down, (first[1] + first[3]) / 2, lean[1], wanted[1], wanted[3]);
  const isCentred = lean[0] === 0.5 && lean[1] === 0.5, isWhole = subjects[0].every((edge, i) => edge === WHOLE[i]);
  if (high(first) > down * (1 + HAIR) && isCentred && !isWhole)
    top = Math.min(first[1] + (high(first) - down) * LOST_ABOVE, height - down);
  const inner = px.slice(1).find((box) => String(around(first, box)) === String(first) && wide(box) <= across && high(box) <= down);
  if (inner) {
    left = Math.min(Math.max(left, inner[2] - across), inner[0]);
    top = Math.min(Math.max(top, inner[3] - down), inner[1]);
  }
  return [left, top, left + across, top + down];
}

// core/crop/turn.py
function turned(box, turn, mirror) {
  const [left, top, right, bottom] = box;
  const [l, t, r, b] = { "": box, left: [top, 1 - right, bottom, 1 - left], right: [1 - bottom, left, 1 - top, right],
    half: [1 - right, 1 - bottom, 1 - left, 1 - top] }[turn];
  return mirror ? [1 - r, t, 1 - l, b] : [l, t, r, b];
}

// ---- What is decided

const decided = new Map(); // key: { box, how }
let at = 0, past = [];

const known = (master) => decided.get(master.key);
const boxesOf = (master) => known(master) ? [known(master).box] : master.named;
const isOpen = (master) => master.unsure && !known(master);

function decide(master, box, how) {
  const before = known(master), last = past.at(-1);
  const goesOn = how === "moved" && last && last.key === master.key && last.how === "moved";
  if (!goesOn) past.push({ key: master.key, before, how });
  decided.set(master.key, { box: box.map((edge) => Number(edge.toFixed(3))), how });
  keepStored();
  show();
}

function undo() {
  const last = past.pop();
  if (!last) return;
  if (last.before) decided.set(last.key, last.before);
  else decided.delete(last.key);
  at = masters.findIndex((one) => one.key === last.key);
  keepStored();
  show();
}

// Decisions outlast the page: of a page of other pictures or crops they are not taken up.
function keepStored() {
  try { localStorage.setItem(STORED, JSON.stringify([...decided])); } catch { /* nowhere to keep them */ }
}
function takeStored() {
  try {
    for (const [key, one] of JSON.parse(localStorage.getItem(STORED) || "[]")) decided.set(key, one);
  } catch { /* there are none */ }
}

// ---- What it gives

function rows() {
  const own = masters.flatMap((master) => {
    const one = known(master), edges = (box) => ({ left: box[0], top: box[1], right: box[2], bottom: box[3] });
    if (one) return [{ file: master.key, ...edges(one.box) }];
    if (master.rows.length || !master.named.length) return master.rows;
    return [{ file: master.key, ...edges(master.named[0].map((edge) => Number(edge.toFixed(3)))), sure: master.sure }];
  });
  return [...kept, ...own];
}

function asCsv() {
  const all = rows(), names = ["file", "left", "top", "right", "bottom", "x", "y", "sure"];
  const used = names.filter((name, i) => i < 5 || all.some((row) => row[name] !== undefined));
  const cell = (value) => /[",;\n]/.test(value) ? `"${value.replaceAll('"', '""')}"` : value;
  return [used, ...all.map((row) => used.map((name) => cell(String(row[name] ?? ""))))].map((line) => `${line.join(",")}\n`).join("");
}

function asLines() {
  return masters.filter(known).map((master) => {
    const table = `[masters.${JSON.stringify(master.key)}]`;
    return `${master.listed ? `# in ${table}, which the plan has` : table}\nsubject = [${known(master).box.join(", ")}]\n`;
  }).join("\n");
}

function save() {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([asCsv()], { type: "text/csv" }));
  link.download = NAME;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}

// ---- What it shows

const percent = (part) => `${Math.round(100 * part)}\u202f%`;

function boxNode(edges, text, isTaken) {
  const node = document.createElement("div");
  node.className = isTaken ? "box taken" : "box";
  Object.assign(node.style, { left: `${100 * edges[0]}%`, top: `${100 * edges[1]}%`,
    width: `${100 * (edges[2] - edges[0])}%`, height: `${100 * (edges[3] - edges[1])}%` });
  if (text) node.appendChild(document.createElement("b")).textContent = text;
  return node;
}

function cropNode(master, crop) {
  const isTurned = crop.turn === "left" || crop.turn === "right";
  const [width, height] = isTurned ? [master.height, master.width] : [master.width, master.height];
  const boxes = boxesOf(master).map((box) => turned(box, crop.turn, crop.mirror));
  const box = crop.fixed || place(width, height, crop.ratio, boxes.length ? boxes : [WHOLE], crop.zoom, crop.lean);
  const high = Math.min(HIGH, WIDE / crop.ratio), scale = high / (box[3] - box[1]);
  let [a, b, c, d, e, f] = { "": [1, 0, 0, 1, 0, 0], left: [0, -1, 1, 0, 0, master.width],
    right: [0, 1, -1, 0, master.height, 0], half: [-1, 0, 0, -1, master.width, master.height] }[crop.turn];
  if (crop.mirror) [a, c, e] = [-a, -c, width - e];
  const node = document.createElement("li"), piece = node.appendChild(document.createElement("div"));
  const image = piece.appendChild(document.createElement("img"));
  piece.className = "piece";
  Object.assign(piece.style, { width: `${high * crop.ratio}px`, height: `${high}px`, backgroundColor: crop.back });
  Object.assign(image, { alt: "", src: master.picture });
  Object.assign(image.style, { width: `${master.width * scale}px`, height: `${master.height * scale}px`,
    transform: `matrix(${[a, b, c, d, (e - box[0]) * scale, (f - box[1]) * scale]})`, filter: crop.grey ? "grayscale(1)" : "" });
  node.dataset.box = box.join(" ");
  const said = node.appendChild(document.createElement("p"));
  said.textContent = crop.name;
  const lost = boxes.length && String(boxes[0]) !== String(WHOLE)
    ? 1 - keeps([box[0] / width, box[1] / height, box[2] / width, box[3] / height], boxes[0]) : 0;
  if (lost > LOST) {
    const loss = said.appendChild(document.createElement("span"));
    loss.className = "wrong";
    loss.textContent = ` loses ${percent(lost)}`;
  }
  return node;
}

function about(master) {
  const one = known(master);
  if (one) {
    const [left, top, right, bottom] = one.box;
    const where = `${percent(left)} to ${percent(right)} across, ${percent(top)} to ${percent(bottom)} down`;
    return [one.how === "none" ? "no subject: crops are centred" : `taken: ${where}`, ""];
  }
  if (master.rows.length) return master.unsure ? ["imported, and not sure", "unsure"] : ["imported", ""];
  const sure = master.sure === null ? "" : ` (${percent(master.sure)} sure)`;
  if (!master.unsure) return [`guessed${sure}: taken unless you change it`, ""];
  return [master.guesses.length > 1 ? `not decided: the guesses are not sure enough${sure}` : `not decided${sure}`, "unsure"];
}

function show() {
  const master = masters[at], one = known(master), open = masters.filter(isOpen).length, all = masters.filter((some) => some.unsure).length;
  field("left").textContent = open ? `${open} of ${all} left` : `All ${all || masters.length} decided: save ${NAME}`;
  field("name").textContent = master.key;
  const [words, kind] = about(master);
  Object.assign(field("about"), { textContent: words, className: kind });
  Object.assign(board.style, { aspectRatio: `${master.width}/${master.height}`, width: `min(100%, calc((100vh - 15rem) * ${master.width / master.height}))` });
  board.setAttribute("aria-label", `${master.key}: ${words}`);
  const image = board.querySelector("img");
  if (image.src !== master.picture) image.src = master.picture;
  board.querySelectorAll(".box").forEach((node) => node.remove());
  const own = boxesOf(master);
  if (!one) master.guesses.forEach((guess, i) => board.append(boxNode(guess, `guess ${i + 1}`, false)));
  if (own.length && one?.how !== "none") board.append(boxNode(own[0], one ? "subject" : "", true));
  field("crops").replaceChildren(...master.crops.map((crop) => cropNode(master, crop)));
  field("guesses").replaceChildren(...master.guesses.map((guess, i) => {
    const button = document.createElement("button");
    button.type = "button";
    button.append(`Guess ${i + 1}`);
    button.setAttribute("aria-pressed", String(one?.how === `guess ${i + 1}`));
    button.addEventListener("click", () => decide(master, guess, `guess ${i + 1}`));
    return button;
  }));
  field("undo").disabled = !past.length;
  field("back").disabled = at === 0;
  field("next").disabled = at === masters.length - 1;
  field("jump").replaceChildren(...masters.map((some, i) => new Option(`${isOpen(some) ? "\u25cb" : "\u2713"} ${some.key}`, i, false, i === at)));
  field("lines").value = asLines();
}

function go(to) {
  at = Math.min(masters.length - 1, Math.max(0, to));
  show();
}

// ---- What people do

function move(across, down, isSize) {
  const master = masters[at], own = boxesOf(master)[0], isWhole = !own || String(own) === String(WHOLE);
  const box = [...(isWhole ? master.guesses[0] || START : own)];
  const limit = (value, least, most) => Math.min(Math.max(value, least), most);
  if (isSize) {
    box[2] = limit(box[2] + across, box[0] + LEAST, 1);
    box[3] = limit(box[3] + down, box[1] + LEAST, 1);
  } else {
    const x = limit(across, -box[0], 1 - box[2]), y = limit(down, -box[1], 1 - box[3]);
    box.splice(0, 4, box[0] + x, box[1] + y, box[2] + x, box[3] + y);
  }
  decide(master, box, "moved");
}

const arrows = { ArrowLeft: [-STEP, 0], ArrowRight: [STEP, 0], ArrowUp: [0, -STEP], ArrowDown: [0, STEP] };
const keys = {
  Enter: () => go(at + 1), Backspace: () => go(at - 1), u: undo, s: save,
  0: () => decide(masters[at], WHOLE, "none"),
};

document.addEventListener("keydown", (event) => {
  const isControl = event.target.closest("select, textarea"), isButton = event.target.closest("button");
  if (isControl || event.altKey || event.metaKey || (isButton && (event.key === "Enter" || event.key === " "))) return;
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
  if (event.ctrlKey && key !== "z") return;
  const guess = masters[at].guesses[Number(key) - 1];
  if (arrows[key]) move(...arrows[key], event.shiftKey);
  else if (guess) decide(masters[at], guess, `guess ${key}`);
  else if (event.ctrlKey) undo();
  else if (keys[key]) keys[key]();
  else return;
  event.preventDefault();
});

let from = null;
const spot = (event) => {
  const edges = board.getBoundingClientRect(), within = (value) => Math.min(1, Math.max(0, value));
  return [within((event.clientX - edges.left) / edges.width), within((event.clientY - edges.top) / edges.height)];
};
board.addEventListener("pointerdown", (event) => { from = { spot: spot(event), isDrag: false, x: event.clientX, y: event.clientY }; });
board.addEventListener("pointermove", (event) => {
  if (!from) return;
  if (!from.isDrag) {
    if (Math.hypot(event.clientX - from.x, event.clientY - from.y) < 6) return;
    board.setPointerCapture(event.pointerId);
    from.isDrag = true;
    past.push({ key: masters[at].key, before: known(masters[at]), how: "moved" });
  }
  const to = spot(event), [left, right] = [from.spot[0], to[0]].sort((a, b) => a - b), [top, bottom] = [from.spot[1], to[1]].sort((a, b) => a - b);
  if (right - left >= LEAST / 2 && bottom - top >= LEAST / 2) decide(masters[at], [left, top, right, bottom], "moved");
});
board.addEventListener("pointerup", (event) => {
  const [x, y] = spot(event), size = (box) => (box[2] - box[0]) * (box[3] - box[1]);
  const hit = masters[at].guesses.filter((box) => box[0] <= x && x <= box[2] && box[1] <= y && y <= box[3]).sort((a, b) => size(a) - size(b))[0];
  if (from && !from.isDrag && hit) decide(masters[at], hit, `guess ${masters[at].guesses.indexOf(hit) + 1}`);
  else if (past.length) past.at(-1).how = "dragged"; // what moves it next is undone by itself
  from = null;
});
board.addEventListener("pointercancel", () => { from = null; });

field("none").addEventListener("click", keys[0]);
field("undo").addEventListener("click", undo);
field("back").addEventListener("click", keys.Backspace);
field("next").addEventListener("click", keys.Enter);
field("save").addEventListener("click", save);
field("jump").addEventListener("change", (event) => go(Number(event.target.value)));
field("plan").addEventListener("click", (event) => {
  field("lines-part").hidden = !field("lines-part").hidden;
  event.currentTarget.setAttribute("aria-expanded", String(!field("lines-part").hidden));
});
field("copy").addEventListener("click", async () => {
  field("lines").select();
  try { await navigator.clipboard.writeText(field("lines").value); } catch { document.execCommand("copy"); }
});

takeStored();
show();
board.focus({ preventScroll: true });
