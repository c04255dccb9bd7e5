// The part of the page that is drawn anew after each edit.
export const desk = () => document.getElementById("desk");
export const openForm = () => document.querySelector("#desk form.kept-form");

export function words(form) {
  const data = new URLSearchParams(new FormData(form));
  for (const one of ["base", "form_token"]) data.delete(one);
  return data.toString();
}

// Posts a form of the desk and gives the desk that comes back.
export async function post(url, body, last = false) {
  const token = JSON.parse(document.body.getAttribute("hx-headers"))["X-Form-Token"];
  const answer = await fetch(url, { method: "POST", body, keepalive: last, headers: { "X-Form-Token": token, "HX-Request": "true" } });
  const on = answer.headers.get("HX-Redirect");
  if (on) { location.assign(on); return new Promise(() => {}); }
  const found = new DOMParser().parseFromString(await answer.text(), "text/html").getElementById("desk");
  if (!found) throw new Error(`No sheet came back: ${answer.status}`);
  return found;
}

// Puts a new desk in place; what has the focus keeps it, with what was typed there meanwhile unless the new desk knows better.
export function show(fresh, typed = true) {
  const active = document.activeElement, within = desk().contains(active) && active !== document.body;
  const name = within && active.matches("input, textarea, select") ? { name: active.name, value: active.value, at: active.selectionStart } : null;
  const href = within ? active.getAttribute("href") : null, id = within ? active.id : "";
  desk().replaceWith(fresh);
  window.htmx.process(fresh);
  document.dispatchEvent(new CustomEvent("htmx:afterSwap", { detail: { target: fresh } }));
  const same = name ? fresh.querySelector(`[name="${CSS.escape(name.name)}"]:not([type=hidden])`)
    : id ? document.getElementById(id) : href ? fresh.querySelector(`a[href="${CSS.escape(href)}"]`) : null;
  if (!same) return;
  if (name && typed && same.value !== name.value && !same.matches("[type=checkbox]")) same.value = name.value;
  same.focus();
  if (name?.at !== null && name?.at !== undefined) same.setSelectionRange?.(name.at, name.at);
}
