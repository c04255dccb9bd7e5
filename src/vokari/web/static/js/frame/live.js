// One stream a page, closed while the page is hidden.
const live = document.querySelector("[data-events]");
let stream = null;

function changed() { window.htmx?.trigger(live, "calls-changed"); }
function listen() {
  if (!live || stream || document.hidden) return;
  stream = new EventSource(live.dataset.events);
  stream.addEventListener("call", (event) => {
    if (!live.dataset.call || live.dataset.call === event.data) changed();
  });
  stream.addEventListener("flow", (event) => {
    document.dispatchEvent(new CustomEvent("flow-changed", { detail: JSON.parse(event.data) }));
  });
  stream.addEventListener("proof", (event) => {
    document.dispatchEvent(new CustomEvent("flow-proven", { detail: JSON.parse(event.data) }));
  });
  stream.addEventListener("open", changed);
}
document.addEventListener("visibilitychange", () => {
  if (document.hidden) { stream?.close(); stream = null; } else listen();
});
window.addEventListener("pagehide", () => stream?.close());
listen();
