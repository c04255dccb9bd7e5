// The find field: its hits close with a click elsewhere and with Escape, Enter opens the first.
export function focusFind() {
  const find = document.getElementById("find");
  find?.focus();
  find?.select();
  return Boolean(find);
}
export function closeFound() { document.getElementById("found")?.replaceChildren(); }
export function openFirst() {
  const first = document.querySelector("#found a");
  first?.click();
  return Boolean(first);
}

document.addEventListener("click", (event) => { if (!event.target.closest(".find")) closeFound(); });
