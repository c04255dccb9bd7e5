// What others change in this flow comes in while nothing of one's own is open and changed.
import { desk, show } from "./desk.js";
import { isDirty } from "./keeping.js";

const PAUSE = 500;
const underWay = () => desk().querySelector(".htmx-request");

async function redraw() {
  if (isDirty() || underWay() || [...desk().querySelectorAll(".quick-line input[name=line]")].some((one) => one.value)) return;
  const answer = await fetch(location.href, { headers: { "HX-Request": "true" } });
  const fresh = new DOMParser().parseFromString(await answer.text(), "text/html").getElementById("desk");
  if (fresh && !isDirty() && !underWay()) show(fresh);
}
document.addEventListener("flow-changed", ({ detail }) => {
  const here = desk();
  const newer = () => detail.revision > Number(desk().dataset.revision);
  // One's own changes come back with what was asked for, a little later than they are told.
  if (here && detail.flow === Number(here.dataset.flow) && newer()) setTimeout(() => { if (newer()) redraw().catch(() => {}); }, PAUSE);
});
