// Names are completed from the first letter, from one list; Tab takes the first, Enter only what the arrows chose.
import { EditorView, acceptCompletion, autocompletion, completionStatus, insertNewlineKeepIndent,
  selectedCompletionIndex } from "/static/vendor/codemirror/codemirror.js";

const BEGINS = /(?:^\s*(?:(?:\d{1,6}|[*#])[.):]?\s+)?|[:,]\s*|\b(?:then|else|ring|hold for|voicemail|to|and|say|ask|back to)\s+)([^\s":,][^":,]*)$/i;
const END = "(?=$|[,:\"]|\\s+\\d|\\s+(?:then|else|and|as)\\b|\\s*$)";
const MOST = 500;

class Names {
  list = [];
  pattern = null;
  periods = new Set();

  // Each [name, what it is, kind]; drawn in the text are people, teams and mailboxes.
  replace(list) {
    this.list = list.map(([label, detail, kind]) => ({ label, detail, type: kind, boost: kind === "word" ? -1 : 0 }));
    this.periods = new Set(list.filter(([, , kind]) => kind === "hours").map(([label]) => label.toLowerCase()));
    const drawn = list.filter(([, , kind]) => ["person", "team", "mailbox"].includes(kind)).map(([label]) => label);
    drawn.sort((a, b) => b.length - a.length);
    const words = drawn.slice(0, MOST).map((one) => one.replace(/[.*+?^${}()|[\]\\]/g, "\\$&"));
    this.pattern = words.length ? new RegExp(`(?<![\\p{L}\\d]|\\b(?:as|to) )(?:${words.join("|")})${END}`, "giu") : null;
  }
}
export const names = new Names();

function complete(context) {
  const line = context.state.doc.lineAt(context.pos);
  const before = line.text.slice(0, context.pos - line.from);
  const quotes = before.replace(/\\"/g, "").split('"').length - 1;
  const found = BEGINS.exec(before);
  if (quotes % 2 || (!found && !context.explicit)) return null;
  const typed = found ? found[1] : "";
  const low = typed.toLowerCase();
  const options = names.list.filter((one) => one.label.toLowerCase().startsWith(low) && one.label.toLowerCase() !== low
    || one.label.toLowerCase().split(" ").slice(1).some((word) => low && word.startsWith(low)));
  return options.length ? { from: context.pos - typed.length, options: options.slice(0, 50), filter: false } : null;
}

function takeFirst(view) {
  return completionStatus(view.state) === "active" && acceptCompletion(view);
}
// The popup's own keys take the first at Enter, ahead of any keymap: as long as nothing was chosen with the arrows, Enter is a new line.
export const entersLines = EditorView.domEventHandlers({
  keydown: (event, view) => event.key === "Enter" && !event.isComposing && !(event.ctrlKey || event.metaKey || event.altKey || event.shiftKey)
    && completionStatus(view.state) === "active" && !(selectedCompletionIndex(view.state) > 0) && insertNewlineKeepIndent(view),
});

export const completing = autocompletion({ override: [complete], icons: false, activateOnTypingDelay: 50, interactionDelay: 0 });
export const completionKeys = [{ key: "Tab", run: takeFirst }];
