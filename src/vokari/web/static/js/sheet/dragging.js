// A row is dragged behind another; held towards the right, below it.
import { row, rowOf } from "./moving.js";
import { desk, post, show } from "./desk.js";

const DEEPER = 90;
let dragged = null;

function mark(li, deep) {
  for (const one of desk().querySelectorAll(".drop-behind, .drop-below")) one.classList.remove("drop-behind", "drop-below");
  li?.classList.add(deep ? "drop-below" : "drop-behind");
}
const deep = (event, li) => event.clientX > li.querySelector(".row-words").getBoundingClientRect().left + DEEPER;

document.addEventListener("dragstart", (event) => {
  const li = event.target.closest?.("a.row-words") && rowOf(event.target);
  if (!li || !desk()) return;
  dragged = row(li);
  event.dataTransfer.effectAllowed = "move";
});
document.addEventListener("dragover", (event) => {
  const li = dragged && rowOf(event.target);
  if (!li) return;
  event.preventDefault();
  mark(li, deep(event, li));
});
document.addEventListener("drop", async (event) => {
  const li = dragged && rowOf(event.target);
  if (!li) return;
  event.preventDefault();
  const to = row(li), below = deep(event, li) ? { below: 1 } : {};
  const from = dragged;
  show(await post(`${desk().dataset.base}/drop`, new URLSearchParams({ ...from, to: to.row, to_exit: to.exit, ...below })));
});
document.addEventListener("dragend", () => { dragged = null; mark(null, false); });
