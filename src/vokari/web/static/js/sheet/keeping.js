// An opened row is kept as one leaves it: for another row, another page, or nothing.
import { desk, openForm, post, show, words } from "./desk.js";

const were = new WeakMap();
let down = false, pressed = null, keeping = null;

function started() {
  const form = openForm();
  if (form && !were.has(form)) were.set(form, words(form));
}
export function isDirty(form = openForm()) {
  return Boolean(form) && were.has(form) && (words(form) !== were.get(form) || form.dataset.kept === "no");
}

// Keeps the opened row; true once the server has it. Where something is wrong with it, the row says so and stays.
async function keep(form, { redraw }) {
  while (keeping) await keeping;
  if (!form.isConnected || !isDirty(form)) return true;
  const sent = words(form);
  keeping = (async () => {
    const fresh = await post(form.action, new URLSearchParams(new FormData(form)));
    const wrong = fresh.querySelector('form.kept-form[data-kept="no"]') || fresh.querySelector(".said .wrong");
    if (!form.isConnected) return !wrong;
    if (wrong) { show(fresh, false); started(); return false; }
    if (redraw && words(form) === sent) { show(fresh); started(); return true; }
    were.set(form, sent);
    desk().dataset.revision = fresh.dataset.revision;
    const base = fresh.querySelector('input[name="base"]')?.value;
    for (const one of base ? desk().querySelectorAll('input[name="base"]') : []) one.value = base;
    return true;
  })().catch(() => {
    const said = desk().querySelector(".said");
    said.innerHTML = "<p class='notice wrong'>Not kept: the server does not answer. Leave the row once more to try again.</p>";
    return false;
  }).finally(() => { keeping = null; });
  return keeping;
}

// Whatever asks the server for something else waits until the row is kept.
document.addEventListener("htmx:confirm", (event) => {
  const form = openForm(), from = event.detail.elt;
  if (!isDirty(form) || from === form || from.closest("[data-leaves]") || !desk().contains(from)) return;
  event.preventDefault();
  keep(form, { redraw: false }).then((kept) => { if (kept) event.detail.issueRequest(true); });
});
document.addEventListener("click", (event) => {
  const link = event.target.closest("a[href]:not([hx-get]):not([target])"), form = openForm();
  if (!link || !isDirty(form) || event.ctrlKey || event.metaKey || event.shiftKey || event.defaultPrevented) return;
  event.preventDefault();
  keep(form, { redraw: false }).then((kept) => { if (kept) location.assign(link.href); });
});
window.addEventListener("pagehide", () => {
  const form = openForm();
  if (isDirty(form)) post(form.action, new URLSearchParams(new FormData(form)), true).catch(() => {});
});

// Nothing is drawn anew while the mouse is down, else the click would go nowhere.
function left() {
  const form = openForm();
  if (down || !form || !document.hasFocus() || form.contains(document.activeElement) || form.contains(pressed)) return;
  if (form.dataset.kept !== "no" && isDirty(form)) keep(form, { redraw: true });
}
document.addEventListener("pointerdown", (event) => { down = true; pressed = event.target; }, true);
document.addEventListener("keydown", () => { pressed = null; }, true);
document.addEventListener("pointerup", () => { down = false; setTimeout(left, 60); }, true);
document.addEventListener("pointercancel", () => { down = false; }, true);
document.addEventListener("focusout", (event) => { if (event.target.closest("form.kept-form")) setTimeout(left, 0); });

document.addEventListener("keydown", (event) => {
  const form = event.target.closest?.("form.kept-form");
  if (!form) return;
  if (event.key === "Enter" && event.target.matches("input:not([type=checkbox])")) { event.preventDefault(); form.requestSubmit(); }
  if (event.key === "Escape") form.querySelector(".row-acts a[hx-get]")?.click();
});
document.addEventListener("htmx:afterSwap", started);
started();
