// The keys of the page.
import { closeFound, focusFind, openFirst } from "./find.js";

// The hits under the find field, and rows of the sheet: arrows go up and down.
function step(list, event) {
  const at = list.indexOf(document.activeElement);
  const open = list.find((one) => one.closest(".is-open"));
  const next = at < 0 && open ? open : list[at + (event.key === "ArrowDown" ? 1 : -1)];
  if (next) { event.preventDefault(); next.focus(); }
}

// The painter's own past comes before what was saved.
function stepBack(kind) {
  const button = document.querySelector(`#painter button[value="${kind}"]:not(:disabled)`)
    || document.querySelector(`form[action$="/${kind}"] button:not(:disabled)`);
  button?.click();
  return Boolean(button);
}

document.addEventListener("keydown", (event) => {
  const { key, target } = event;
  const typing = target.matches("input, textarea, select");
  const control = event.ctrlKey || event.metaKey;
  if (((key === "k" && control) || (key === "/" && !typing)) && focusFind()) event.preventDefault();
  if (target.id === "find" && key === "Enter" && openFirst()) event.preventDefault();
  if (key === "Escape") closeFound();
  if (key === "?" && !typing) document.getElementById("keys")?.showModal();
  if (key === "ArrowDown" || key === "ArrowUp") {
    if (target.closest(".find")) step([...document.querySelectorAll("#find, #found a")], event);
    else if (target === document.body || target.matches("a.row-words")) step([...document.querySelectorAll("a.row-words")], event);
  }
  if (key === "z" && control && !typing && stepBack(event.shiftKey ? "redo" : "undo")) event.preventDefault();
});
