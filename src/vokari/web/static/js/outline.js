// The text of a flow: Enter keeps the depth, Tab and Shift-Tab change it; Escape gives Tab back to the page.
const field = document.getElementById("outline");
const INDENT = "    ";
let gives = false;

function put(from, to, text) {
  field.setSelectionRange(from, to);
  // Kept in the browser's own undo, which setting the value would end.
  if (!document.execCommand("insertText", false, text)) field.setRangeText(text, from, to, "end");
}

function shift(outward) {
  const { value, selectionStart, selectionEnd } = field;
  const start = value.lastIndexOf("\n", selectionStart - 1) + 1;
  const lines = value.slice(start, selectionEnd).split("\n");
  const moved = lines.map((line) => (outward ? line.replace(/^( {1,4}|\t)/, "") : INDENT + line));
  const first = moved[0].length - lines[0].length;
  put(start, selectionEnd, moved.join("\n"));
  const end = start + moved.join("\n").length;
  if (lines.length > 1) field.setSelectionRange(start, end);
  else field.setSelectionRange(Math.max(start, selectionStart + first), Math.max(start, selectionEnd + first));
}

field?.addEventListener("keydown", (event) => {
  if (event.key === "Escape") { gives = true; return; }
  if (event.key === "Tab" && !gives) {
    event.preventDefault();
    shift(event.shiftKey);
  } else if (event.key === "Enter" && !event.ctrlKey && !event.metaKey) {
    const { value, selectionStart, selectionEnd } = field;
    const indent = /^[ \t]*/.exec(value.slice(value.lastIndexOf("\n", selectionStart - 1) + 1, selectionStart))[0];
    event.preventDefault();
    put(selectionStart, selectionEnd, `\n${indent}`);
  } else if (event.key === "Enter") {
    event.preventDefault();
    field.form.requestSubmit();
  }
  if (event.key !== "Tab" && event.key !== "Shift") gives = false;
});
field?.addEventListener("focus", () => { gives = false; });
