// The rows of the sheet and the map: lit in step, and what was opened comes into view.
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
  else if (!first && document.activeElement === document.body) document.querySelector("#desk .row.is-open a.row-words")?.focus();
  document.querySelector("#map .map-step.lit")?.scrollIntoView({ block: "nearest", inline: "center" });
});
