// The proof follows an edit: what was shown of the draft before it is marked at once, and the new one comes once the worker has it.
const part = () => document.getElementById("proof");
let open = new Set();

// What the proof says of going live stands above the findings, however often they are drawn.
function say() {
  const now = document.getElementById("verdict-now"), there = document.getElementById("verdict");
  if (now && there) there.replaceChildren(now.content.cloneNode(true));
}

document.addEventListener("flow-proven", ({ detail }) => {
  if (part() && detail.flow === Number(part().dataset.flow)) window.htmx.trigger(part(), "proven");
});
// What was told while the page was hidden.
document.addEventListener("visibilitychange", () => {
  if (!document.hidden && part()) window.htmx.trigger(part(), "proven");
});
// A newer draft on the page: its proof is asked for, once.
document.addEventListener("htmx:afterSwap", () => {
  say();
  const here = part(), desk = document.getElementById("desk");
  if (!here || !desk || desk.dataset.revision === here.dataset.asked) return;
  here.dataset.asked = desk.dataset.revision;
  window.htmx.trigger(here, "proven");
});
// What was unfolded stays so: once what is in it listens, as some is loaded when it unfolds.
document.addEventListener("htmx:beforeSwap", ({ detail }) => {
  if (detail.target === part()) open = new Set([...part().querySelectorAll("details[open]")].map((one) => one.id));
});
document.addEventListener("htmx:afterSettle", ({ detail }) => {
  if (detail.target === part()) for (const one of part().querySelectorAll("details")) one.open = open.has(one.id);
});
