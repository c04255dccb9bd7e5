// What is drawn into the text: key plates, guides, quiet verbs, names that are known, and what is missing in a line.
import { Decoration, EditorView, RangeSetBuilder, StateEffect, StateField, ViewPlugin, WidgetType } from "/static/vendor/codemirror/codemirror.js";
import { names } from "./completing.js";

const KEY = /^( +)(\d{1,6}|[*#])(?=[ .):]|$)/;
const VERB = /^( *(?:(?:\d{1,6}|[*#]) )?(?:[^":]{1,60}: )?)(say|ask|ring|hold for|hold|voicemail|label|back to|back|to|bye|sort|type|tell)(?= |,|$)/;
const SAID = /"(?:[^"\\]|\\.)*"?|[“„«][^”“»]*[”“»]?/g;
const EXIT = new RegExp(`^( *)(${[
  "open", "closed", "exception", "sort", "otherwise", "else", "everyone else", "silent", "nothing pressed", "wrong(?: key)?", "no answer", "busy",
  "unreachable", "nobody(?: available)?", "after(?: the call)?", "waited(?: too long)?", "line full", "left by key", "message left", "no message",
  "found", "not found", "failed", "not", "in", "mon|tue|wed|thu|fri|sat|sun|weekdays?|weekends?|daily",
  "jan|feb|mar|apr|may|june?|july?|aug|sept?|oct|nov|dec", "\\d{4}-\\d\\d-\\d\\d",
].join("|")})\\b[^"“„]*?(?=: |:?$)`, "i");
const quiet = Decoration.mark({ class: "line-verb" });
const plate = Decoration.mark({ class: "line-plate" });
const indent = Decoration.mark({ class: "line-indent" });
const said = Decoration.mark({ class: "line-said" });
const exit = Decoration.mark({ class: "line-exit" });
const known = Decoration.mark({ class: "line-name" });

function inside(text, spans) { return spans.some(([from, to]) => text >= from && text < to); }

// The name of a period of the client's hours before a colon.
function period(text) {
  const head = /^( *)([^":]{1,60})(?=:)/.exec(text);
  return head && names.periods.has(head[2].trim().toLowerCase()) ? head : null;
}

function marksOf(line) {
  const { text, from } = line, found = [];
  const depth = /^ */.exec(text)[0].length;
  if (depth) found.push([from, from + depth, indent]);
  const key = KEY.exec(text);
  if (key) found.push([from + key[1].length, from + key[0].length, plate]);
  const way = key ? null : EXIT.exec(text) ?? period(text);
  if (way) found.push([from + way[1].length, from + way[0].length, exit]);
  const spoken = [];
  for (const one of text.matchAll(SAID)) {
    spoken.push([one.index, one.index + one[0].length]);
    found.push([from + one.index, from + one.index + one[0].length, said]);
  }
  const verb = VERB.exec(text);
  if (verb) found.push([from + verb[1].length, from + verb[0].length, quiet]);
  if (names.pattern) {
    for (const one of text.matchAll(names.pattern)) if (!inside(one.index, spoken)) found.push([from + one.index, from + one.index + one[0].length, known]);
  }
  return found.sort((a, b) => a[0] - b[0] || b[1] - a[1]);
}

function draw(view) {
  const builder = new RangeSetBuilder();
  for (const { from, to } of view.visibleRanges) {
    for (let at = from; at <= to;) {
      const line = view.state.doc.lineAt(at);
      builder.add(line.from, line.from, Decoration.line({ attributes: { style: `--indent: ${/^ */.exec(line.text)[0].length}` } }));
      for (const [start, end, mark] of marksOf(line)) builder.add(start, end, mark);
      at = line.to + 1;
    }
  }
  return builder.finish();
}

const signs = ViewPlugin.fromClass(class {
  constructor(view) { this.decorations = draw(view); }
  update(update) {
    const anew = update.transactions.some((one) => one.effects.some((effect) => effect.is(setMarks)));
    if (update.docChanged || update.viewportChanged || anew) this.decorations = draw(update.view);
  }
}, { decorations: (plugin) => plugin.decorations });

class Missing extends WidgetType {
  constructor(sentence) { super(); this.sentence = sentence; }
  eq(other) { return other.sentence === this.sentence; }
  toDOM() {
    const found = document.createElement("span");
    found.className = "line-missing";
    found.textContent = this.sentence;
    return found;
  }
}

// Steps and missing things by line, as the server said them last; they move with the text that is typed since.
export const setMarks = StateEffect.define();
const marks = StateField.define({
  create: () => Decoration.none,
  update(value, change) {
    let found = value.map(change.changes);
    for (const effect of change.effects) if (effect.is(setMarks)) found = marksFrom(change.state, effect.value);
    return found;
  },
  provide: (one) => EditorView.decorations.from(one),
});

function marksFrom(state, { steps, missing }) {
  const builder = new RangeSetBuilder();
  for (let n = 0; n < state.doc.lines; n++) {
    const line = state.doc.line(n + 1);
    if (steps[n]) builder.add(line.from, line.from, Decoration.line({ step: steps[n] }));
    if (missing[n]) {
      builder.add(line.from, line.from, Decoration.line({ class: "is-unread" }));
      builder.add(line.to, line.to, Decoration.widget({ widget: new Missing(missing[n]), side: 1 }));
    }
  }
  return builder.finish();
}

// The step that stands at a line which begins there; none while the line is new.
export function marked(state, from) {
  let found = "";
  state.field(marks).between(from, from, (start, end, mark) => { if (mark.spec.step) found = mark.spec.step; });
  return found;
}

export const drawn = [signs, marks];
