// What others change in this flow comes in while nothing of one's own is open and changed.
import { desk, show } from "./desk.js";
import { isDirty } from "./keeping.js";

const PAUSE = 500;
const underWay = () => desk().querySelector(".htmx-request");
const newer = (revision) => Number(revision) > Number(desk().dataset.revision);

async function redraw() {
  if (isDirty() || underWay() || [...desk().querySelectorAll(".quick-line input[name=line]")].some((one) => one.value)) return;
  const answer = await fetch(location.href, { headers: { "HX-Request": "true" } });
  const fresh = new DOMParser().parseFromString(await answer.text(), "text/html").getElementById("desk");
  // While it was on its way, the answer to one's own edit may have come, with what it has to say.
  if (fresh && newer(fresh.dataset.revision) && !isDirty() && !underWay()) show(fresh);
}
document.addEventListener("flow-changed", ({ detail }) => {
  const here = desk();
  // One's own changes come back with what was asked for, a little later than they are told.
  if (here && detail.flow === Number(here.dataset.flow) && newer(detail.revision)) setTimeout(() => { if (newer(detail.revision)) redraw().catch(() => {});
    }, PAUSE);
});
