// On a narrow screen the clients are folded away until somebody wants them; without this script they stand there.
const button = document.getElementById("fold");
const narrow = matchMedia("(max-width: 700px)");

function show(open) {
  button.setAttribute("aria-expanded", String(open));
  button.closest(".column").classList.toggle("folded", !open);
}

function fit() {
  button.hidden = !narrow.matches;
  show(!narrow.matches);
}

if (button) {
  button.addEventListener("click", () => show(button.getAttribute("aria-expanded") === "false"));
  narrow.addEventListener("change", fit);
  fit();
}
