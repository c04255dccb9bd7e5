// The telephone beside the sheet: in a frame of its own, so that a call goes on while rows are edited.
const pane = document.getElementById("phone-pane");
let opener = null;

function open(url) {
  pane.querySelector("iframe")?.remove();
  const frame = document.createElement("iframe");
  frame.title = "Telephone";
  frame.src = url;
  pane.append(frame);
  pane.hidden = false;
  document.body.classList.add("has-pane");
  frame.focus();
}

function close() {
  pane.querySelector("iframe")?.remove();
  pane.hidden = true;
  document.body.classList.remove("has-pane");
  opener?.focus();
}

// On narrow windows, or with a key that asks for another tab, the telephone is a page.
document.addEventListener("click", (event) => {
  const link = event.target.closest?.("#rehearse");
  if (!link || event.ctrlKey || event.metaKey || event.shiftKey || window.innerWidth < 1000) return;
  event.preventDefault();
  opener = link;
  open(pane.dataset.src);
});
document.getElementById("close-pane")?.addEventListener("click", close);
