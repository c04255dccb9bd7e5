// The proof follows an edit: what was shown of the draft before it is marked at once, and the new one comes once the worker has it.
const part = () => document.getElementById("proof");
const isOpen = () => part()?.querySelector("details")?.open;
let open = false;

document.addEventListener("flow-proven", ({ detail }) => {
  if (part() && detail.flow === Number(part().dataset.flow)) window.htmx.trigger(part(), "proven");
});
// What was told while the page was hidden.
document.addEventListener("visibilitychange", () => {
  if (!document.hidden && part()) window.htmx.trigger(part(), "proven");
});
// A newer draft on the page: its proof is asked for, once.
document.addEventListener("htmx:afterSwap", () => {
  const here = part(), desk = document.getElementById("desk");
  if (!here || !desk || desk.dataset.revision === here.dataset.asked) return;
  here.dataset.asked = desk.dataset.revision;
  window.htmx.trigger(here, "proven");
});
document.addEventListener("htmx:beforeSwap", (event) => { if (event.detail.target === part()) open = isOpen(); });
document.addEventListener("htmx:afterSwap", (event) => {
  const ends = event.detail.target === part() && part().querySelector("details");
  if (ends) ends.open = open;
});
