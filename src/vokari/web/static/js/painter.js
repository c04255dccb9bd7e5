// The painted week by pointer and by keys. What a gesture does to the week is worked out by the server, which sends the
// painter back; here is only where the pointer is, and what it means.

const DAY = 1440;
const EDGE = 7;
const painter = () => document.getElementById("painter");
const number = (name) => Number(painter().dataset[name]);
const snap = () => Number(document.getElementById("snap").value);
const brush = () => painter().querySelector("input[name=brush]:checked").value;
let busy = Promise.resolve();
let focusAt = null;

function send(values, focus) {
  focusAt = focus || null;
  busy = busy.then(() => window.htmx.ajax("POST", painter().dataset.paint, { source: painter(), values, target: "#painter", swap: "outerHTML" }));
  return busy;
}

// Where the pointer is: the strip's day and the minute on it, unsnapped.
function place(event) {
  const svg = painter().querySelector("svg.week");
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
  const day = Math.max(0, Math.min(6, Math.floor((at.y - number("head")) / number("row"))));
  const minute = ((at.x - number("label")) / number("hour")) * 60;
  return { day, minute: Math.max(0, Math.min(number("shown") * 60, minute)) };
}
const snapped = (minute) => Math.round(minute / snap()) * snap();
function clock(minute) {
  const of = minute === DAY ? DAY : ((minute % DAY) + DAY) % DAY;
  return `${String(Math.floor(of / 60)).padStart(2, "0")}:${String(of % 60).padStart(2, "0")}`;
}
function read(bar) {
  return { day: Number(bar.dataset.day), period: bar.dataset.period, start: Number(bar.dataset.start), end: Number(bar.dataset.end) };
}

// A drag draws a ghost; letting go sends it.
let drag = null;
function shape() {
  const moved = snapped(drag.now.minute) - snapped(drag.from.minute);
  const old = drag.bar;
  if (drag.kind === "paint") {
    const [a, b] = [snapped(drag.from.minute), snapped(drag.now.minute)].sort((x, y) => x - y);
    return { day: drag.from.day, start: a, end: b };
  }
  if (drag.kind === "start") return { day: old.day, start: Math.min(old.start + moved, old.end - 5), end: old.end };
  if (drag.kind === "end") return { day: old.day, start: old.start, end: Math.min(Math.max(old.end + moved, old.start + 5), old.start + DAY) };
  return { day: old.day + drag.now.day - drag.from.day, start: Math.max(0, old.start + moved), end: Math.max(0, old.start + moved) + old.end - old.start };
}
function showGhost() {
  const ghost = painter().querySelector(".ghost");
  const to = shape();
  const x = (minute) => number("label") + (Math.max(0, Math.min(minute, number("shown") * 60)) / 60) * number("hour");
  const box = ghost.querySelector("rect");
  const words = ghost.querySelector("text");
  const y = number("head") + to.day * number("row") + (number("row") - Number(box.getAttribute("height"))) / 2;
  box.setAttribute("x", x(to.start)); box.setAttribute("y", y); box.setAttribute("width", Math.max(1, x(to.end) - x(to.start)));
  words.setAttribute("x", x(to.start) + 6); words.setAttribute("y", y + 17);
  words.textContent = `${clock(to.start)}–${clock(to.end)}`;
  ghost.classList.toggle("cuts", drag.kind === "paint" && brush() === "closed");
  ghost.removeAttribute("hidden");
}
document.addEventListener("pointerdown", (event) => {
  const svg = event.target.closest?.("svg.week");
  if (!svg || event.button !== 0) return;
  const bar = brush() === "closed" ? null : event.target.closest(".bar");
  if (!bar && !event.target.closest(".strip, .bar, .tail")) return;
  const from = place(event);
  drag = { kind: "paint", from, now: from, bar: bar && read(bar), moved: false };
  if (bar) {
    const box = bar.querySelector("rect").getBoundingClientRect();
    const edge = Math.min(EDGE, box.width / 3);
    drag.kind = event.clientX < box.left + edge ? "start" : event.clientX > box.right - edge ? "end" : "move";
    bar.focus();
  }
  svg.setPointerCapture(event.pointerId);
  event.preventDefault();
});
document.addEventListener("pointermove", (event) => {
  if (!drag) return;
  drag.now = place(event);
  drag.moved = drag.moved || snapped(drag.now.minute) !== snapped(drag.from.minute) || drag.now.day !== drag.from.day;
  if (drag.moved) showGhost();
});
function drop(event) {
  if (!drag) return;
  const to = shape();
  const { kind, bar, moved } = drag;
  drag = null;
  painter().querySelector(".ghost").setAttribute("hidden", "");
  if (!moved || event.type === "pointercancel" || to.end <= to.start) return;
  if (kind === "paint") send({ do: "paint", ...to }, to);
  else moveBar(bar, to);
}
document.addEventListener("pointerup", drop);
document.addEventListener("pointercancel", drop);

function moveBar(bar, to) {
  const { day, period, start, end } = bar;
  send({ do: "move", day, period, start, end, to_day: to.day, to_start: to.start, to_end: to.end }, { ...to, period });
}
function removeBar(bar) {
  send({ do: "remove", ...read(bar) }, { strip: Number(bar.dataset.day) });
}

// The same by keys, on the bar or the day that has the focus.
const STEPS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
document.addEventListener("keydown", (event) => {
  const strip = event.target.closest?.(".strip[data-day]");
  if (strip && (event.key === "Enter" || event.key === " ")) {
    event.preventDefault();
    const at = { day: Number(strip.dataset.day), start: 540, end: 1020 };
    send({ do: "paint", ...at }, at);
  }
  const bar = event.target.closest?.(".bar");
  if (!bar) return;
  if (event.key === "Delete" || event.key === "Backspace") { event.preventDefault(); removeBar(bar); return; }
  const step = STEPS[event.key];
  if (!step || event.ctrlKey || event.metaKey) return;
  event.preventDefault();
  const old = read(bar);
  const by = step[0] * snap();
  const to = { ...old, day: (old.day + step[1] + 7) % 7 };
  if (event.shiftKey) to.end = Math.max(old.start + snap(), Math.min(old.end + by, old.start + DAY));
  else if (event.altKey) to.start = Math.min(old.start + by, old.end - snap());
  else { to.start += by; to.end += by; }
  if (to.start < 0 && (event.altKey || to.end <= 0)) return;
  moveBar(old, to);
});

// The line under the week says which interval has the focus.
let chosen = null;
document.addEventListener("focusin", (event) => {
  const bar = event.target.closest?.(".bar");
  if (event.target.matches?.("[data-remove-bar]")) return;
  const line = document.getElementById("week-line");
  if (!line) return;
  chosen = bar;
  line.textContent = bar ? bar.getAttribute("aria-label") : line.dataset.help;
  painter().querySelector("[data-remove-bar]").disabled = !bar;
});
document.addEventListener("click", (event) => {
  if (event.target.closest?.("[data-remove-bar]") && chosen) removeBar(chosen);
});

document.addEventListener("htmx:afterSwap", () => {
  if (!focusAt || !painter()) return;
  const at = focusAt;
  focusAt = null;
  if (at.strip !== undefined) { painter().querySelector(`.strip[data-day="${at.strip}"]`)?.focus(); return; }
  const day = (at.day + Math.floor(at.start / DAY) + 7) % 7;
  const start = ((at.start % DAY) + DAY) % DAY;
  const found = [...painter().querySelectorAll(`.bar[data-day="${day}"]`)].find((bar) => Number(bar.dataset.start) <= start && start < Number(bar.dataset.end));
  found?.focus();
});

// Leaving with something painted and not saved asks first.
let leaving = false;
document.addEventListener("submit", () => { leaving = true; });
window.addEventListener("beforeunload", (event) => {
  if (!leaving && painter()?.hasAttribute("data-changed")) event.preventDefault();
});
