"use strict";
// What links and forms cannot do alone: filtering a list, keys of the page, rows lit in step, and the stream of live pages.

// The server tells times in the reader's zone too, where it is another than the client's.
document.cookie = `vokari_zone=${encodeURIComponent(Intl.DateTimeFormat().resolvedOptions().timeZone || "")}; path=/; samesite=lax; max-age=31536000`;

// The hits under the find field, and rows of the sheet: arrows go up and down, Escape closes.
function step(list, event) {
  const at = list.indexOf(document.activeElement);
  const next = list[at + (event.key === "ArrowDown" ? 1 : -1)];
  if (next) { event.preventDefault(); next.focus(); }
}
function closeFound() { document.getElementById("found")?.replaceChildren(); }
document.addEventListener("click", (event) => { if (!event.target.closest(".find")) closeFound(); });
document.addEventListener("click", (event) => {
  const shows = event.target.closest?.("[data-shows]");
  if (shows) document.getElementById(shows.dataset.shows).showModal();
});

// One box that ticks all the boxes of its name.
document.addEventListener("change", (event) => {
  const like = event.target.dataset?.allLike;
  if (like) for (const box of event.target.closest("table").querySelectorAll(`input[type=checkbox][name^="${like}"]`)) box.checked = event.target.checked;
  const name = event.target.dataset?.all;
  if (!name) return;
  for (const box of event.target.form.querySelectorAll(`input[type=checkbox][name="${name}"]`)) box.checked = event.target.checked;
});

// Fields that only matter for one choice of a list are shown with it.
function openChoices() {
  for (const list of document.querySelectorAll("[data-opens]")) {
    document.getElementById(list.dataset.opens).hidden = !list.dataset.opensAt.split(" ").includes(list.value);
  }
}
document.addEventListener("change", openChoices);
document.addEventListener("htmx:afterSwap", openChoices);
openChoices();

document.addEventListener("keydown", (event) => {
  const typing = event.target.matches("input, textarea, select");
  if ((event.key === "k" && (event.ctrlKey || event.metaKey)) || (event.key === "/" && !typing)) {
    const find = document.getElementById("find");
    if (find) { event.preventDefault(); find.focus(); find.select(); }
  }
  if (event.target.id === "find" && event.key === "Enter") {
    const first = document.querySelector("#found a");
    if (first) { event.preventDefault(); first.click(); }
  }
  if (event.key === "Escape") closeFound();
  if (event.key === "?" && !typing) document.getElementById("keys")?.showModal();
  if (event.key === "ArrowDown" || event.key === "ArrowUp") {
    if (event.target.closest(".find")) step([...document.querySelectorAll("#find, #found a")], event);
    else if (event.target.matches("a.row-words")) step([...document.querySelectorAll("a.row-words")], event);
  }
  if (event.key === "z" && (event.ctrlKey || event.metaKey) && !typing) {
    const kind = event.shiftKey ? "redo" : "undo";
    const button = document.querySelector(`#painter button[value="${kind}"]:not(:disabled)`)
      || document.querySelector(`form[action$="/${kind}"] button:not(:disabled)`);
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
  document.querySelector("#map .map-step.lit")?.scrollIntoView({ block: "nearest", inline: "center" });
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
