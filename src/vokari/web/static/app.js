"use strict";
// What links and forms cannot do alone: filtering a list, keys of the page, rows lit in step, and the stream of live pages.

document.addEventListener("input", (event) => {
  const list = document.getElementById(event.target.dataset?.filters || "");
  if (!list) return;
  const wanted = event.target.value.trim().toLowerCase();
  for (const item of list.children) item.hidden = !item.textContent.toLowerCase().includes(wanted);
});

document.addEventListener("keydown", (event) => {
  const typing = event.target.matches("input, textarea, select");
  if ((event.key === "k" && (event.ctrlKey || event.metaKey)) || (event.key === "/" && !typing)) {
    const find = document.getElementById("find");
    if (find) { event.preventDefault(); find.focus(); find.select(); }
  }
  if (event.target.id === "find" && event.key === "Enter") {
    const first = document.querySelector("#client-names li:not([hidden]) a");
    if (first) { event.preventDefault(); first.click(); }
  }
  if (event.key === "z" && (event.ctrlKey || event.metaKey) && !typing) {
    const button = document.querySelector(`form[action$="/${event.shiftKey ? "redo" : "undo"}"] button:not(:disabled)`);
    if (button) { event.preventDefault(); button.click(); }
  }
});

function lightBoth(step, on) {
  for (const one of document.querySelectorAll(`[data-step="${step}"]`)) one.classList.toggle("is-near", on);
}
for (const [name, on] of [["mouseover", true], ["mouseout", false], ["focusin", true], ["focusout", false]]) {
  document.addEventListener(name, (event) => {
    const near = event.target.closest?.("[data-step]");
    if (near) lightBoth(near.dataset.step, on);
  });
}

document.addEventListener("htmx:afterSwap", () => {
  const first = document.querySelector("#desk .wrong[id], #desk [autofocus]");
  if (first?.matches("[autofocus]")) first.focus();
  document.querySelector("#map .map-step.lit")?.scrollIntoView({ block: "nearest", inline: "nearest" });
});

// One stream a page, closed while the page is hidden.
const live = document.querySelector("[data-events]");
let stream = null;
function listen() {
  if (!live || stream || document.hidden) return;
  stream = new EventSource(live.dataset.events);
  stream.addEventListener("call", (event) => {
    if (!live.dataset.call || live.dataset.call === event.data) window.htmx?.trigger(live, "calls-changed");
  });
  stream.addEventListener("open", () => window.htmx?.trigger(live, "calls-changed"));
}
document.addEventListener("visibilitychange", () => {
  if (document.hidden) { stream?.close(); stream = null; } else listen();
});
window.addEventListener("pagehide", () => stream?.close());
listen();
